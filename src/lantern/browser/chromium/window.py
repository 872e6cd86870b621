"""One window of Chromium: its set-up, the commands that act in it, its pictures and its events."""

from __future__ import annotations

import base64
import json
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from contextlib import suppress
from typing import Any

from lantern.browser.base_window import READ_IN, WORLD, BaseWindow, probe_source
from lantern.browser.chromium import mobile
from lantern.browser.chromium.connection import Connection
from lantern.browser.chromium.frames import Worlds
from lantern.browser.chromium.input import InputCommands
from lantern.browser.chromium.introspection import listens_to_press, look_into
from lantern.browser.chromium.traffic import traffic_handlers
from lantern.browser.errors import BrowserError, BrowserGone, CommandFailed, DialogOpen, NoAnswer
from lantern.browser.session import Dialog
from lantern.browser.waiting import answer
from lantern.core.engine.browsers import Browser
from lantern.core.engine.requests import Ran
from lantern.core.storable import read_json

BINDING = "lanternReport"


class ChromiumWindow(BaseWindow, InputCommands):
    """A window. Events come in on the connection's reading thread; calls from any other."""

    def __init__(
        self, connection: Connection, session: str, target: str, held_for: Browser, version: str
    ) -> None:
        super().__init__(target, held_for)
        self.connection, self.session = connection, session
        self.touched = held_for.touch
        self._manners = mobile.manners(version) if held_for.touch else {}
        self._screen = mobile.Screen(self.call, held_for.viewport) if held_for.touch else None
        self._chooser: dict[str, Any] | None = None
        self._worlds = Worlds(self._wake)
        self._on_picture: Callable[[bytes], None] | None = None
        self._prepared: Future[dict[str, Any]] | None = None
        self._handlers: dict[str, Callable[[dict[str, Any]], None]] = {
            **self._worlds.handlers,
            **traffic_handlers(self.traffic, lambda: self.main_frame),
            "Runtime.bindingCalled": self._reported,
            "Page.frameNavigated": self._navigated,
            "Page.navigatedWithinDocument": self._moved_within,
            "Page.frameStartedNavigating": lambda params: self._load(params, loading=True),
            "Page.frameRequestedNavigation": lambda params: self._load(params, loading=True),
            "Page.frameStoppedLoading": lambda params: self._load(params, loading=False),
            "Page.domContentEventFired": lambda _: self._arrived(),
            "Page.javascriptDialogOpening": self._dialog_opening,
            "Page.javascriptDialogClosed": self._dialog_closed,
            "Page.fileChooserOpened": self._chooser_opened,
            "Input.dragIntercepted": self._drag_began,
            "Page.screencastFrame": self._picture,
            "Inspector.targetCrashed": lambda _: self._crashed(),
        }

    # -- getting ready -----------------------------------------------------------------------

    def prepare(self) -> None:
        """Send all that a new window needs before its first script runs; waits for nothing."""
        self.connection.listen(self.session, self._event)
        width, height = self.viewport
        set_up: list[tuple[str, dict[str, Any]]] = [
            ("Page.enable", {}),
            ("Runtime.enable", {}),
            ("Log.enable", {}),
            ("Network.enable", {}),
            ("Runtime.addBinding", {"name": BINDING, "executionContextName": WORLD}),
            (
                "Page.addScriptToEvaluateOnNewDocument",
                {
                    "source": f"{probe_source()};{self.probe_tail}",
                    "worldName": WORLD,
                    "runImmediately": True,
                },
            ),
            (
                "Emulation.setDeviceMetricsOverride",
                {
                    "width": width,
                    "height": height,
                    "deviceScaleFactor": 1,
                    "mobile": self.touched,
                },
            ),
            ("Emulation.setFocusEmulationEnabled", {"enabled": True}),
            ("Page.setInterceptFileChooserDialog", {"enabled": True}),
            ("Input.setInterceptDrags", {"enabled": True}),
            *self._manners.items(),
        ]
        for method, params in set_up:
            self.connection.post(method, params, self.session)
        self._prepared = self.connection.post("Page.getFrameTree", session=self.session)
        self._prepared.add_done_callback(self._know_frame)
        self.connection.post("Runtime.runIfWaitingForDebugger", session=self.session)

    def prepared(self, limit: float) -> None:
        """Wait until the window can be used."""
        if self._prepared is not None:
            answer(self._prepared, "the set-up of a window", limit)
        while not self._wait(lambda: bool(self.frames()), min(limit, 3.0)):
            if limit <= 0:
                raise NoAnswer("The probe did not start in a new window.")
            # The first empty document can come before the window is watched; a new one can not.
            self.call("Page.navigate", url="about:blank")
            limit -= 3.0

    def _know_frame(self, future: Future[dict[str, Any]]) -> None:
        if not future.exception():
            self.main_frame = future.result()["frameTree"]["frame"]["id"]

    # -- commands ----------------------------------------------------------------------------

    def call(self, method: str, timeout: float = 30.0, **params: object) -> dict[str, Any]:
        """Send a command to this window and wait for the answer."""
        return self.connection.call(method, params, self.session, timeout)

    def post(self, method: str, **params: object) -> Future[dict[str, Any]]:
        """Send a command without waiting for the answer."""
        return self.connection.post(method, params, self.session)

    def ask_probe(self, frame: str, expression: str, timeout: float) -> str | None:
        """Return the text that an expression comes to in the probe's world of a frame."""
        result = self.call(
            "Runtime.evaluate",
            timeout,
            expression=expression,
            contextId=self._worlds.of(frame),
            returnByValue=True,
            awaitPromise=True,
        )
        if "exceptionDetails" in result:
            details = result["exceptionDetails"]
            said = details.get("exception", {}).get("description") or details.get("text", "")
            raise CommandFailed(f"The probe failed: {said[:300]}")
        text: str | None = result["result"].get("value")
        return text

    def world(self, frame: str = "") -> int:
        """Return the number of the probe's world in a frame; raises CommandFailed without one."""
        return self._worlds.of(frame or self.main_frame)

    def frames(self) -> list[str]:
        """Return the ids of all frames that the probe is in, the main one first."""
        return self._worlds.frames(self.main_frame)

    def frame_offset(self, frame: str) -> tuple[float, float]:
        """Return where a frame's own corner is in the window, in CSS pixels."""
        if not frame or frame == self.main_frame:
            return 0.0, 0.0
        owner = self.call("DOM.getFrameOwner", frameId=frame)
        quad = self.call("DOM.getBoxModel", backendNodeId=owner["backendNodeId"])
        content = quad["model"]["content"]
        return float(content[0]), float(content[1])

    def frame_at(self, x: float, y: float) -> str:
        """Return the innermost frame at a point; raises CommandFailed where there is nothing."""
        seen = self.call("Page.getLayoutMetrics")["cssLayoutViewport"]
        # The place is asked for in the document, not in what is seen of it.
        place = {"x": int(x + seen["pageX"]), "y": int(y + seen["pageY"])}
        return str(self.call("DOM.getNodeForLocation", **place).get("frameId", ""))

    def look_into(self, handles: Sequence[int], frame: str = "") -> int:
        """Hand closed shadow roots of nodes over to the probe; returns how many there were."""
        return look_into(self, handles, frame)

    def listens_to_press(self, press: int, frame: str = "") -> bool:
        """Tell whether a script of the page listens to presses on what an act was done to."""
        return listens_to_press(self, press, frame)

    def run_script(self, script: str, limit: float) -> Ran:
        """Run the body of an async function among the page's own scripts; gives `value`."""
        try:
            told = self.call(
                "Runtime.evaluate",
                limit,
                expression=f"(async () => {{ {script}\n}})()",
                awaitPromise=True,
                returnByValue=True,
                userGesture=True,
            )
        except NoAnswer:
            return Ran(error=f"It was not done after {limit:g} s.")
        except CommandFailed as error:
            return Ran(error=str(error))
        failed = told.get("exceptionDetails")
        if failed:
            said = failed.get("exception", {}).get("description") or failed.get("text", "")
            frames = failed.get("stackTrace", {}).get("callFrames") or [failed]
            return Ran(error=said.splitlines()[0], line=int(frames[0].get("lineNumber", 0)) + 1)
        value = told["result"].get("value")
        text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
        return Ran({"value": "" if value is None else text})

    def navigate(self, address: str, limit: float) -> tuple[int, str]:
        """Open an address and wait for its document; returns (HTTP status, error in words)."""
        self.traffic.status = 0
        self._set_loading(True)
        try:
            result = self.call("Page.navigate", limit, url=address)
        except DialogOpen:
            return 0, ""
        if result.get("errorText"):
            self._set_loading(False)
            return 0, str(result["errorText"]).removeprefix("net::")
        self.settled(limit)
        return self.traffic.status, ""

    def settled(self, limit: float) -> bool:
        """Wait until no navigation is under way, as everywhere; the page is seen whole then."""
        came = super().settled(limit)
        if self._screen and came and not self.dialog:
            with suppress(BrowserError):  # it went away just now
                self.viewport = self._screen.see_all()
        return came

    def history(self, to: str, limit: float) -> None:
        """Go back, forward or load anew ("reload"), and wait for the document."""
        if to == "reload":
            self._set_loading(True)
            self.call("Page.reload")
        else:
            listed = self.call("Page.getNavigationHistory")
            place = listed["currentIndex"] + (1 if to == "forward" else -1)
            if not 0 <= place < len(listed["entries"]):
                return
            self.call("Page.navigateToHistoryEntry", entryId=listed["entries"][place]["id"])
        self.after_input(limit)

    def read_in(self, limit: float) -> None:
        """Wait until the document is read with its scripts; a new window may still be loading."""
        try:
            self.call("Runtime.evaluate", limit, expression=READ_IN, awaitPromise=True)
        except (CommandFailed, DialogOpen, NoAnswer):
            pass  # replaced, asking something, or slow: what is looked for next tells

    def give_files(self, handle: int, paths: list[str], frame: str = "") -> None:
        """Give files to a file field; it reports the change as if a person had chosen them."""
        world = self.world(frame)
        found = self.call(
            "Runtime.evaluate", expression=f"lantern.node({handle})", contextId=world
        )["result"]
        if "objectId" not in found:
            raise CommandFailed("The field went away.")
        self.call("DOM.setFileInputFiles", files=paths, objectId=found["objectId"])
        self.after_input()

    @property
    def chooser(self) -> bool:
        """Whether the page waits for files to be chosen."""
        return self._chooser is not None

    def choose_files(self, paths: list[str]) -> None:
        """End the waiting for files with these; none at all chooses nothing."""
        chooser, self._chooser = self._chooser, None
        if chooser and paths:
            self.call("DOM.setFileInputFiles", files=paths, backendNodeId=chooser["backendNodeId"])

    def answer_dialog(self, accept: bool, text: str = "") -> Dialog | None:
        """Answer the open dialog and return it; None when none is open."""
        dialog = self.dialog
        if dialog is None:
            return None
        self.dialog = None
        self.call("Page.handleJavaScriptDialog", accept=accept, promptText=text or dialog.default)
        self.after_input()
        return dialog

    def come_to_front(self) -> None:
        """Let the browser draw this window."""
        self.post("Page.bringToFront")

    def end(self) -> None:
        """Close this window."""
        self.connection.call("Target.closeTarget", {"targetId": self.target})

    # -- pictures ----------------------------------------------------------------------------

    def picture(self, quality: int = 70) -> bytes:
        """Take a JPEG of the viewport, of which one pixel is one of CSS."""
        if self._screen:
            self.viewport = self._screen.see_all()
        result = self.call(
            "Page.captureScreenshot",
            10.0,
            format="jpeg",
            quality=quality,
            optimizeForSpeed=True,
        )
        picture = base64.b64decode(result["data"])
        return mobile.in_css_pixels(picture, self.viewport, quality) if self._screen else picture

    def start_pictures(self, take: Callable[[bytes], None], quality: int = 70) -> None:
        """Send a JPEG to `take` (on the reading thread) whenever the page looks different."""
        self._on_picture = take
        self.post(
            "Page.startScreencast",
            format="jpeg",
            quality=quality,
            maxWidth=self.viewport[0],
            maxHeight=self.viewport[1],
            everyNthFrame=1,
        )

    def stop_pictures(self) -> None:
        """Stop sending pictures."""
        self._on_picture = None
        if not self.gone.is_set() and not self.connection.closed.is_set():
            self.post("Page.stopScreencast")

    # -- events (on the reading thread) --------------------------------------------------------

    def _event(self, message: dict[str, Any]) -> None:
        handler = self._handlers.get(message["method"])
        if handler:
            handler(message["params"])

    def _reported(self, params: dict[str, Any]) -> None:
        if params["name"] != BINDING:
            return
        event = read_json(params["payload"])
        frame = self._worlds.frame_of(params["executionContextId"])
        event["frame"] = "" if frame == self.main_frame else frame
        event["window"] = self.target
        self.on_report(event)

    def _navigated(self, params: dict[str, Any]) -> None:
        frame = params["frame"]
        self.know_frame(frame["id"], frame.get("parentId", ""), frame.get("name", ""), frame["url"])
        if frame["id"] == self.main_frame:
            self.address = frame["url"]
            if self._screen:
                self._screen.starts_anew()
            self.on_change()

    def _moved_within(self, params: dict[str, Any]) -> None:
        if params["frameId"] == self.main_frame:
            self.address = params["url"]
            self._set_loading(False)
            self.on_change()

    def _load(self, params: dict[str, Any], *, loading: bool) -> None:
        if params.get("frameId") == self.main_frame:
            self._set_loading(loading)
            if not loading:
                self.on_change()

    def _arrived(self) -> None:
        self._set_loading(False)
        self.on_change()

    def _dialog_opening(self, params: dict[str, Any]) -> None:
        self.dialog = Dialog(params["type"], params["message"], params.get("defaultPrompt", ""))
        # The page's own thread stands still now: who waits for it must hear why.
        self.connection.fail(self.session, DialogOpen(params["message"]))
        self._wake()
        self.on_change()

    def _dialog_closed(self, params: dict[str, Any]) -> None:
        self.dialog = None
        self._wake()
        self.on_change()

    def _drag_began(self, params: dict[str, Any]) -> None:
        self.dragged, self._drag_over = params["data"], False
        self._wake()

    def _chooser_opened(self, params: dict[str, Any]) -> None:
        self._chooser = params
        self.on_change()

    def _picture(self, params: dict[str, Any]) -> None:
        self.post("Page.screencastFrameAck", sessionId=params["sessionId"])
        scale = params["metadata"].get("pageScaleFactor") or 1.0
        if self._screen and not self._screen.is_whole(scale):
            return  # of a part of the page: nobody could say where on it things are
        if self._on_picture:
            self._on_picture(base64.b64decode(params["data"]))

    def _crashed(self) -> None:
        self.gone.set()
        self.connection.fail(self.session, BrowserGone("The page crashed."))
        self._wake()
        self.on_change()
