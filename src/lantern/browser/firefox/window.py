"""One window of Firefox: the commands that act in it, and its events."""

from __future__ import annotations

import base64
import json
from collections.abc import Callable
from concurrent.futures import Future

from lantern.browser import actions as act
from lantern.browser.base_window import READ_IN, WORLD
from lantern.browser.errors import (
    BrowserError,
    BrowserGone,
    CommandFailed,
    DialogOpen,
    NoAnswer,
    OutOfReach,
)
from lantern.browser.firefox import traffic
from lantern.browser.firefox.frames import MOST_DEEP, WINDOW, FramesWindow, Params
from lantern.browser.keys import chord, key_of
from lantern.browser.session import Dialog, Input, TextInput
from lantern.browser.waiting import answer
from lantern.core.storable import read_json

TAKEN = 60.0
"""Seconds in which a page has to take an input: one that is busy takes it late."""
LONGEST_TYPED = 80
"""Letters that are typed as keys; longer texts are put in whole."""
PUT_IN = "document.execCommand('insertText', false, {text})"


class FirefoxWindow(FramesWindow):
    """A window. Events come in on the connection's reading thread; calls from any other."""

    chooser = False  # whoever presses a field for files gets none: they are given to it
    """Whether the page waits for files to be chosen."""

    def navigate(self, address: str, limit: float) -> tuple[int, str]:
        """Open an address and wait for its document; returns (HTTP status, error in words)."""
        self.traffic.status = 0
        self._set_loading(True)
        try:
            self.call("browsingContext.navigate", limit, url=address, wait="interactive")
        except DialogOpen:
            return 0, ""
        except CommandFailed as error:
            self._set_loading(False)
            return 0, str(error).removeprefix("Error: ").removeprefix("NS_")
        except NoAnswer:
            self._set_loading(False)
            raise
        self.settled(limit)
        return self.traffic.status, ""

    def history(self, to: str, limit: float) -> None:
        """Go back, forward or load anew ("reload"), and wait for the document."""
        if to == "reload":
            self._set_loading(True)
            self.call("browsingContext.reload", limit, wait="interactive")
        else:
            try:
                self.call("browsingContext.traverseHistory", delta=1 if to == "forward" else -1)
            except CommandFailed:
                return  # there is nothing to go to
        self.after_input(limit)

    def read_in(self, limit: float) -> None:
        """Wait until the document is read with its scripts; a new window may still be loading."""
        try:
            self._script("evaluate", limit, "", expression=READ_IN)
        except (CommandFailed, DialogOpen, NoAnswer):
            pass  # replaced, asking something, or slow: what is looked for next tells

    # -- acting --------------------------------------------------------------------------------

    def _perform(self, actions: list[act.Action]) -> None:
        self._done(self.post("input.performActions", actions=actions))

    def _done(self, input_: Future[Params]) -> Params | None:
        """Wait for input to be taken; returns the answer, None where the page went away by it.

        A dialog or a closed window is an effect of it as well. Raises OutOfReach.
        """
        told: Params | None = None
        try:
            told = answer(input_, "an input", TAKEN)
        except (DialogOpen, BrowserGone):
            if self.connection.closed.is_set():
                raise
        except CommandFailed as error:
            if error.code == "move target out of bounds":
                raise OutOfReach("That lies outside of the window.") from error
            if error.code not in GOES_AWAY:
                raise
        self.after_input()
        return told

    def press(self, x: float, y: float, button: str = "left", count: int = 1) -> None:
        """Press and release the mouse at a point, `count` times in a row."""
        self._perform(act.press(x, y, button, count))

    def point_at(self, x: float, y: float) -> None:
        """Move the mouse to a point; what the page shows under a mouse stays until it moves."""
        self._perform(act.mouse(act.move(x, y)))

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        """Press at a point, move to another and let go.

        Where Firefox itself drags something it does not drop it: the probe does that for it.
        """
        frame = self._frame_if_any(end)
        dx, dy = self.frame_offset(frame)
        self.probe("watchDrag", frame=frame)
        self._perform(act.drag(start, end))
        self.probe("dropDragged", end[0] - dx, end[1] - dy, frame=frame)
        self.after_input()

    def _frame_if_any(self, point: tuple[float, float]) -> str:
        try:
            return self.frame_at(*point)
        except CommandFailed:
            return self.target

    def press_key(self, keys: str) -> None:
        """Press a key with its modifiers, for example "Control+Enter"."""
        key, modifiers = chord(keys)
        self._perform(act.keys([key], modifiers))

    def type_text(self, text: str) -> None:
        """Type a text where the focus is: as keys where a keyboard has them, else inserted."""
        if len(text) <= LONGEST_TYPED and text.isascii() and text.isprintable():
            self._perform(act.keys([key_of(letter) for letter in text]))
        elif text:
            told = self._done(self._insert(text))
            if told and told["result"].get("value") is False:
                raise CommandFailed("Nothing that has the focus takes a text.")

    def _insert(self, text: str) -> Future[Params]:
        frame = self._focused()
        target = {"context": frame, "sandbox": WORLD}
        put_in = PUT_IN.format(text=json.dumps(text))
        asked = {"expression": put_in, "target": target, "awaitPromise": False}
        return self.connection.post("script.evaluate", asked, frame)

    def _focused(self) -> str:
        """Return the innermost frame that has the focus."""
        frame = self.target
        for _ in range(MOST_DEEP):
            inner = self._script(
                "evaluate", 5.0, frame, expression="document.activeElement?.contentWindow ?? null"
            )
            if inner["type"] != "window":
                break
            frame = str(inner["value"]["context"])
        return frame

    def put_in(self, what: Input) -> Future[Params]:
        """Send what a person does as it is; the future is done when the page has taken it."""
        if isinstance(what, TextInput):
            return self._insert(what.text)
        return self.post("input.performActions", actions=act.as_actions(what))

    def give_files(self, handle: int, paths: list[str], frame: str = "") -> None:
        """Give files to a file field; it reports the change as if a person had chosen them."""
        told = self._script("evaluate", 15.0, frame, expression=f"lantern.node({int(handle)})")
        if "sharedId" not in told:
            raise CommandFailed("The field went away.")
        self.call(
            "input.setFiles", frame=frame, element={"sharedId": told["sharedId"]}, files=paths
        )
        self.after_input()

    def choose_files(self, paths: list[str]) -> None:
        """Do nothing: nobody waits for files."""

    def answer_dialog(self, accept: bool, text: str = "") -> Dialog | None:
        """Answer the open dialog and return it; None when none is open."""
        dialog = self.dialog
        if dialog is None:
            return None
        self.dialog = None
        said: Params = {"accept": accept}
        if dialog.type == "prompt" and accept:
            said["userText"] = text or dialog.default
        answer(self.post("browsingContext.handleUserPrompt", **said), "the dialog", 30.0)
        self.after_input()
        return dialog

    def come_to_front(self) -> None:
        """Let the browser draw this window."""
        self.post("browsingContext.activate")

    def end(self) -> None:
        """Close this window."""
        # Asked for by nobody in particular: what waits for the window fails before the answer.
        self.connection.call("browsingContext.close", {"context": self.target})

    def delivered(self, limit: float) -> bool:
        """See Window; here a request is told of some time after the page has made it."""
        self.await_more()
        return super().delivered(limit)

    # -- pictures ------------------------------------------------------------------------------

    def picture(self, quality: int = 70) -> bytes:
        """Take a JPEG of the viewport."""
        form = {"type": "image/jpeg", "quality": quality / 100}
        taken = self.call("browsingContext.captureScreenshot", 10.0, format=form)
        return base64.b64decode(taken["data"])

    def start_pictures(self, take: Callable[[bytes], None], quality: int = 70) -> None:
        """Send nothing: Firefox does not tell by itself what it looks like."""

    def stop_pictures(self) -> None:
        """Stop sending pictures."""

    # -- events (on the reading thread) ----------------------------------------------------------

    def take(self, method: str, frame: str, params: Params) -> None:
        """Take note of an event about one of the window's frames."""
        own = frame == self.target
        if method.startswith(("network.", "log.")):
            traffic.tell(self.traffic, method, params, own=own)
        elif method == "script.realmCreated":
            if params.get("sandbox") == WORLD:
                self._replaced(frame)
        elif method == "browsingContext.navigationCommitted" and not own:
            name = self._held_by.get(frame, "")
            self.know_frame(frame, self.parents.get(frame) or self.target, name, params["url"])
        elif own:
            self._take_own(method, params)

    def _take_own(self, method: str, params: Params) -> None:
        if method == "browsingContext.navigationStarted":
            self._set_loading(True)
        elif method == "browsingContext.navigationCommitted":
            self.address = params["url"]
            self.on_change()
        elif method in ENDS_LOADING:
            self.address = params.get("url") or self.address
            self._set_loading(False)
            self.on_change()
        elif method == "browsingContext.userPromptOpened":
            self.dialog = Dialog(
                params["type"], params.get("message", ""), params.get("defaultValue") or ""
            )
            # The page's own thread stands still now: who waits for it must hear why.
            self._fail_all(DialogOpen(self.dialog.message))
            self._wake()
            self.on_change()
        elif method == "browsingContext.userPromptClosed":
            self.dialog = None
            self._wake()
            self.on_change()

    def told(self, raw: str, frame: str) -> None:
        """Hand on what the probe reported in a frame."""
        event = read_json(raw)
        event |= {"frame": "" if frame == self.target else frame, "window": self.target}
        self.on_report(event)

    def lose(self, why: BrowserError) -> None:
        """Take note that the window is gone, with all that waits for it."""
        self.gone.set()
        self._fail_all(why)
        self._wake()

    def _fail_all(self, why: BrowserError) -> None:
        for owner in (WINDOW + self.target, *list(self.parents)):
            self.connection.fail(owner, why)


GOES_AWAY = ("", "unknown error", "no such frame", "no such node", "no such window")
"""How Firefox refuses a command when what it is about goes away meanwhile ("": Lantern itself)."""
ENDS_LOADING = (
    "browsingContext.domContentLoaded",
    "browsingContext.fragmentNavigated",
    "browsingContext.historyUpdated",
    "browsingContext.navigationAborted",
    "browsingContext.navigationFailed",
    "browsingContext.downloadWillBegin",
)
