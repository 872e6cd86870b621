"""One window that is driven over WebDriver: going somewhere, waiting, acting, pictures."""

from __future__ import annotations

import base64
import io
import json
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager, suppress
from mimetypes import guess_type
from pathlib import Path
from typing import Any

from PIL import Image

from lantern.browser import actions as act
from lantern.browser.base_window import READ_IN
from lantern.browser.classic import scripts
from lantern.browser.classic.frames import FramesWindow
from lantern.browser.classic.wire import ELEMENT
from lantern.browser.errors import (
    BrowserError,
    BrowserGone,
    CommandFailed,
    DialogOpen,
    LineLost,
    NoAnswer,
)
from lantern.browser.keys import chord
from lantern.browser.session import Dialog, Input, TextInput

TAKEN = 60.0
"""Seconds in which a page has to take an input: one that is busy takes it late."""
LONGEST_TYPED = 80
"""Letters that are typed as keys; longer texts are put in whole."""
LEAVES = 2.0
"""Seconds after which there was nothing to go back or forward to."""
LOADS = 300.0
"""Seconds that a driver waits for a document before it carries out anything: who asks has less."""
MOST_HANDED = 20 * 1024 * 1024
"""Bytes of files that a browser elsewhere is given at once."""
SETTLES = 3.0
"""Seconds after which a script counts as lost: one that was asked just before a download is."""
LOOK = 0.03
"""Seconds between two looks while something is waited for."""
STATUS = (
    "const [one] = performance.getEntriesByType('navigation');"
    "return [location.href, performance.timeOrigin, one?.responseStatus ?? 0]"
)


class ClassicWindow(FramesWindow):
    """A window; nothing tells by itself what happens in it, so it is asked."""

    ratio = 1.0
    """Pixels of its screen that are one of CSS, in a row."""
    chooser = False  # whoever presses a field for files gets none: they are given to it
    """Whether the page waits for files to be chosen."""

    # -- going somewhere, and waiting ------------------------------------------------------------

    def navigate(self, address: str, limit: float) -> tuple[int, str]:
        """Open an address and wait for its document; returns (HTTP status, error in words).

        The status is 0 where the browser does not tell it.
        """
        happened = self.session.happened
        try:
            before = self.script(STATUS)
            self._limited(limit, "POST", "/url", {"url": address})
            self.settled(limit)
            told = self.script(STATUS)
        except DialogOpen:
            return 0, ""
        except CommandFailed as error:
            return 0, str(error)
        self.session.look_around()
        blank = told[0] == "about:blank" != address
        within = "#" in address and told[0] == address  # a place of the same document
        same = told[:2] == before[:2] and not within
        if (blank or same) and self.session.happened == happened:
            return 0, "Nothing answered there."
        self.drain()
        return int(told[2]), ""

    def _limited(self, limit: float, method: str, path: str, body: dict[str, Any]) -> None:
        """Carry out a command that waits for a document, for so many seconds."""
        with self._waiting(limit):
            self.call(method, path, body, timeout=limit + 5)

    @contextmanager
    def _waiting(self, limit: float) -> Iterator[None]:
        """Let the driver wait for documents for so many seconds; it does before any command."""
        self.call("POST", "/timeouts", {"pageLoad": max(1, round(limit * 1000))})
        try:
            yield
        finally:
            with suppress(BrowserError):
                self.call("POST", "/timeouts", {"pageLoad": round(LOADS * 1000)})

    def history(self, to: str, limit: float) -> None:
        """Go back, forward or load anew ("reload"), and wait for the document."""
        with suppress(CommandFailed, DialogOpen):  # it asks something, say
            if to == "reload":
                self._limited(limit, "POST", "/refresh", {})
            else:
                self._travel(to, min(limit, LEAVES))
        self.after_input(limit)

    def _travel(self, to: str, limit: float) -> None:
        """Go back or forward, and wait until the page is another one.

        The protocol's own command may wait for a document that is taken out of a cache, and for
        one that there is not.
        """
        where = "[location.href, performance.timeOrigin]"
        end = time.monotonic() + limit
        with self._waiting(limit):
            before = self.script(f"const was = {where}; history.{to}(); return was")
            while time.monotonic() < end:
                with suppress(CommandFailed, NoAnswer):  # it is just being replaced
                    if self.script(f"return {where}") != before:
                        return
                time.sleep(LOOK)

    def settled(self, limit: float) -> bool:
        """Wait until no navigation is under way; tells whether that came about in time."""
        return self._until(lambda: not self._loading, limit)

    def read_in(self, limit: float) -> None:
        """Wait until the document is read with its scripts; a new window may still be loading."""
        script = f"const done = arguments[arguments.length - 1]; {READ_IN}.then(done)"
        with suppress(CommandFailed, DialogOpen, NoAnswer):
            self.script(script, timeout=limit, waits=True)

    def answered(self, limit: float) -> bool:
        """Wait until no answer to a request is waited for; tells whether that came about."""
        return self._until(lambda: not self.traffic.under_way, limit)

    def delivered(self, limit: float) -> bool:
        """Wait until all that the page tells its server is answered, and what follows of it."""
        self.await_more()
        return self._until(lambda: not self.traffic.telling, limit)

    def await_more(self) -> None:
        """Take note of what has been asked for by now."""
        self.drain()

    def _until(self, there: Callable[[], bool], limit: float) -> bool:
        """Look again and again, for so many seconds at the most."""
        end = time.monotonic() + limit
        while True:
            self.drain()
            if self.gone.is_set() or self.dialog or there():
                return True
            if time.monotonic() >= end:
                return False
            time.sleep(min(LOOK, max(0.0, end - time.monotonic())))

    def after_input(self, limit: float = 10.0) -> None:
        """Let what an input queued run, and a navigation it started arrive; raises nothing."""
        if not self.dialog and not self.gone.is_set():
            # It is replaced or busy, or a dialog or a closed window is the effect.
            with suppress(BrowserError):
                self.probe("settle", timeout=min(limit, SETTLES))
        self.session.look_around()
        if not self.gone.is_set():
            self.settled(limit)

    # -- acting ----------------------------------------------------------------------------------

    def _perform(self, actions: list[act.Action]) -> None:
        self._act("/actions", {"actions": actions})

    def _act(self, path: str, body: dict[str, Any], frame: str = "") -> None:
        """Do something that people do; a dialog or a closed window is an effect of it as well."""
        try:
            self.call("POST", path, body, frame=frame, timeout=TAKEN)
        except DialogOpen:
            pass
        except LineLost:  # nobody knows whether it was done
            raise
        except BrowserGone:
            if self.session.wire.closed.is_set():
                raise
        except CommandFailed as error:
            if error.code not in GOES_AWAY:
                raise
        self.after_input()

    def press(self, x: float, y: float, button: str = "left", count: int = 1) -> None:
        """Press and release the mouse at a point, `count` times in a row."""
        self._perform(act.press(x, y, button, count))

    def point_at(self, x: float, y: float) -> None:
        """Move the mouse to a point and leave it there."""
        self._perform(act.mouse(act.move(x, y)))

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        """Press at a point, move to another and let go.

        Where the browser itself drags something it does not drop it: the probe does that for it.
        """
        try:
            frame = self.frame_at(*end)
        except CommandFailed:
            frame = self.target
        dx, dy = self.frame_offset(frame)
        self.probe("watchDrag", frame=frame)
        self._perform(act.drag(start, end))
        self.probe("dropDragged", end[0] - dx, end[1] - dy, frame=frame)
        self.after_input()

    def press_key(self, keys: str) -> None:
        """Press a key with its modifiers, for example "Control+Enter"."""
        key, modifiers = chord(keys)
        self._type(act.keys([key], modifiers))

    def type_text(self, text: str) -> None:
        """Type a text where the focus is: as keys where a keyboard has them, else inserted."""
        if len(text) <= LONGEST_TYPED and text.isascii() and text.isprintable():
            self._type(act.typed(text))
        elif self._insert(text) is False:
            raise CommandFailed("Nothing that has the focus takes a text.")
        else:
            self.after_input()

    def _type(self, actions: list[act.Action]) -> None:
        """Press keys: they go to whatever has the focus, in whichever frame."""
        self._perform(actions)

    def _insert(self, text: str) -> Any:  # noqa: ANN401 - whether the page took it
        script = f"return document.execCommand('insertText', false, {json.dumps(text)})"
        return self.script(script, frame=self.session.focused(self))

    def put_in(self, what: Input) -> Future[Any]:
        """Send what a person does as it is; the future is done when the page has taken it."""
        done: Future[Any] = Future()
        try:
            if isinstance(what, TextInput):
                self._insert(what.text)
            else:
                self.call("POST", "/actions", {"actions": act.as_actions(what)}, timeout=TAKEN)
            done.set_result({})
        except BrowserError as error:
            done.set_exception(error)
        return done

    def give_files(self, handle: int, paths: list[str], frame: str = "") -> None:
        """Give files to a file field; it reports the change as if a person had chosen them."""
        node = self.node(handle, frame)
        if not self.session.beside:
            self._hand_over(node, paths, frame)
            return
        self._act(f"/element/{node}/value", {"text": "\n".join(paths)}, frame)

    def _hand_over(self, node: str, paths: list[str], frame: str) -> None:
        """Give a field files that are not on the browser's machine: their content goes there."""
        files = [Path(one) for one in paths]
        if sum(one.stat().st_size for one in files) > MOST_HANDED:
            raise CommandFailed("Files for a remote browser have up to 20 MB together.")
        told = [
            [one.name, guess_type(one.name)[0] or "", base64.b64encode(one.read_bytes()).decode()]
            for one in files
        ]
        self.script(scripts.GIVE, {ELEMENT: node}, told, frame=frame)
        self.after_input()

    def choose_files(self, paths: list[str]) -> None:
        """Do nothing: nobody waits for files."""

    def answer_dialog(self, accept: bool, text: str = "") -> Dialog | None:
        """Answer the open dialog and return it; None when none is open."""
        self.session.look_for_dialog(self)
        dialog = self.dialog
        if dialog is None:
            return None
        try:
            if accept and text:
                self.call("POST", "/alert/text", {"text": text})
            self.call("POST", "/alert/accept" if accept else "/alert/dismiss", {})
        except CommandFailed as error:
            if error.code != "no such alert":
                raise
        self.dialog = None
        self._wake()
        self.on_change()
        self.after_input()
        return dialog

    def come_to_front(self) -> None:
        """Let the browser draw this window: the next command that is about it does."""

    def end(self) -> None:
        """Close this window."""
        with suppress(BrowserGone):
            self.call("DELETE", "/window")
        self.session.forget_place()

    # -- pictures --------------------------------------------------------------------------------

    def picture(self, quality: int = 70) -> bytes:
        """Take a JPEG of the viewport."""
        raw = base64.b64decode(self.call("GET", "/screenshot", timeout=20.0))
        out = io.BytesIO()
        shot = Image.open(io.BytesIO(raw)).convert("RGB")
        if self.ratio != 1.0:
            shot = shot.resize((round(shot.width / self.ratio), round(shot.height / self.ratio)))
        if shot.size != self.viewport:  # what is around the page may be on it
            shot = shot.crop((0, 0, *self.viewport))
        shot.save(out, "JPEG", quality=quality)
        return out.getvalue()

    def start_pictures(self, take: Callable[[bytes], None], quality: int = 70) -> None:
        """Send nothing: the protocol does not tell by itself what a page looks like."""

    def stop_pictures(self) -> None:
        """Stop sending pictures."""


GOES_AWAY = ("unknown error", "javascript error", "no such frame", "no such window")
"""How a command is refused when what it is about goes away meanwhile."""
