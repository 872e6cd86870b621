"""One window of the application under test: its probe, its frames, its pictures, its dialogs."""

from __future__ import annotations

import base64
import json
import threading
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from time import monotonic
from typing import Any

from lantern.browser.cdp import (
    BrowserGone,
    CommandFailed,
    Connection,
    DialogOpen,
    NoAnswer,
    answer,
)
from lantern.browser.frames import WORLD, Frames
from lantern.browser.hands import Hands
from lantern.browser.traffic import Traffic
from lantern.core.engine.browsers import Browser
from lantern.core.storable import read_json

BINDING = "lanternReport"


@dataclass(frozen=True)
class Dialog:
    """An open browser dialog: alert, confirm, prompt or beforeunload."""

    type: str
    message: str
    default: str = ""


@cache
def probe_source() -> str:
    """Return the built probe."""
    return files("lantern.browser").joinpath("probe.js").read_text(encoding="utf-8")


READ_IN = """new Promise((resolve) => document.readyState === 'loading'
  ? addEventListener('DOMContentLoaded', resolve, { once: true }) : resolve())"""


def _touched(version: str) -> dict[str, dict[str, Any]]:
    """Return what makes a window that of a mobile device, for a browser of that version."""
    number = version.rpartition(" ")[2].partition(".")[0]
    agent = (
        "Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) "
        f"Chrome/{number}.0.0.0 Mobile Safari/537.36"
    )
    return {
        "Emulation.setTouchEmulationEnabled": {"enabled": True},
        "Emulation.setUserAgentOverride": {"userAgent": agent, "platform": "Linux armv81"},
    }


class Page(Frames, Hands):
    """A window. Events come in on the connection's reading thread; calls from any other."""

    def __init__(
        self, connection: Connection, session: str, target: str, held_for: Browser, version: str
    ) -> None:
        super().__init__()
        self.connection, self.session, self.target = connection, session, target
        self.viewport = held_for.viewport
        self._touched = _touched(version) if held_for.touch else {}
        self.title = self.address = ""
        self.dialog: Dialog | None = None
        self.chooser: dict[str, Any] | None = None
        self.traffic = Traffic(lambda: self.main_frame, self._wake)
        self.gone = threading.Event()
        self.probe_tail = ""
        self.on_picture: Callable[[bytes], None] | None = None
        self.on_report: Callable[[dict[str, Any]], None] = lambda event: None
        self.on_change: Callable[[], None] = lambda: None
        self._ready = threading.Condition()
        self._loading = False
        self._prepared: Future[dict[str, Any]] | None = None
        self._handlers: dict[str, Callable[[dict[str, Any]], None]] = {
            **self.frame_handlers(),
            "Runtime.bindingCalled": self._reported,
            **self.traffic.handlers,
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
                {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
            ),
            ("Emulation.setFocusEmulationEnabled", {"enabled": True}),
            ("Page.setInterceptFileChooserDialog", {"enabled": True}),
            ("Input.setInterceptDrags", {"enabled": True}),
            *self._touched.items(),
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

    def probe(self, function: str, *args: object, frame: str = "", timeout: float = 15.0) -> Any:  # noqa: ANN401 - whatever the probe's function returns
        """Call a function of the probe in a frame ("" for the main one) and return its answer.

        Raises DialogOpen, CommandFailed when the document went away, BrowserGone, NoAnswer.
        """
        if self.dialog:
            raise DialogOpen(self.dialog.message)
        world = self.world(frame)
        listed = ",".join(json.dumps(argument) for argument in args)
        result = self.call(
            "Runtime.evaluate",
            timeout,
            # One text is handed over several times faster than thousands of objects.
            expression=f"Promise.resolve(lantern.{function}({listed})).then(JSON.stringify)",
            contextId=world,
            returnByValue=True,
            awaitPromise=True,
        )
        if "exceptionDetails" in result:
            details = result["exceptionDetails"]
            text = details.get("exception", {}).get("description") or details.get("text", "")
            raise CommandFailed(f"The probe failed: {text[:300]}")
        text = result["result"].get("value")
        return None if text is None else read_json(text)

    def navigate(self, address: str, limit: float) -> tuple[int, str]:
        """Open an address and wait for its document; returns (HTTP status, error in words)."""
        self.traffic.status = 0
        with self._ready:
            self._loading = True
        try:
            result = self.call("Page.navigate", limit, url=address)
        except DialogOpen:
            return 0, ""
        if result.get("errorText"):
            with self._ready:
                self._loading = False
            return 0, str(result["errorText"]).removeprefix("net::")
        self.settled(limit)
        return self.traffic.status, ""

    def history(self, to: str, limit: float) -> None:
        """Go back, forward or load anew ("reload"), and wait for the document."""
        if to == "reload":
            with self._ready:
                self._loading = True
            self.call("Page.reload")
        else:
            listed = self.call("Page.getNavigationHistory")
            place = listed["currentIndex"] + (1 if to == "forward" else -1)
            if not 0 <= place < len(listed["entries"]):
                return
            self.call("Page.navigateToHistoryEntry", entryId=listed["entries"][place]["id"])
        self.after_input(limit)

    def settled(self, limit: float) -> bool:
        """Wait until no navigation is under way; tells whether that came about in time."""
        return self._wait(
            lambda: not self._loading or self.dialog is not None or self.gone.is_set(), limit
        )

    def read_in(self, limit: float) -> None:
        """Wait until the document is read with its scripts; a new window may still be loading."""
        try:
            self.call("Runtime.evaluate", limit, expression=READ_IN, awaitPromise=True)
        except (CommandFailed, DialogOpen, NoAnswer):
            pass  # replaced, asking something, or slow: what is looked for next tells

    def answered(self, limit: float) -> bool:
        """Wait until no answer to a request is waited for; tells whether that came about."""
        return self._wait(lambda: not self.traffic.under_way or self.gone.is_set(), limit)

    def quiet(self, time: float, limit: float) -> bool:
        """Wait until nothing has changed for `time` seconds and no answer is waited for.

        Returns whether that came about within `limit` seconds.
        """
        end = monotonic() + limit
        while (left := end - monotonic()) > 0:
            self.answered(left)
            try:
                still = self.probe("quiet", time * 1000, left * 1000, timeout=left + 10)
            except CommandFailed:
                self.settled(left)  # the document is being replaced
                continue
            except DialogOpen:
                return True
            if still and not self.traffic.under_way:
                return True
        return False

    def after_input(self, limit: float = 10.0) -> None:
        """Let the tasks that an input queued run, and a navigation it started arrive."""
        if self.dialog or self.gone.is_set():
            return
        try:
            self.probe("settle", timeout=limit)
        except (CommandFailed, DialogOpen, BrowserGone, NoAnswer):
            pass  # the document is being replaced, busy, or a dialog or closed window is the effect
        self.settled(limit)

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

    def answer_dialog(self, accept: bool, text: str = "") -> Dialog | None:
        """Answer the open dialog and return it; None when none is open."""
        dialog = self.dialog
        if dialog is None:
            return None
        self.dialog = None
        self.call("Page.handleJavaScriptDialog", accept=accept, promptText=text or dialog.default)
        self.after_input()
        return dialog

    # -- pictures ----------------------------------------------------------------------------

    def picture(self, quality: int = 70) -> bytes:
        """Take a JPEG of the viewport."""
        result = self.call(
            "Page.captureScreenshot",
            10.0,
            format="jpeg",
            quality=quality,
            optimizeForSpeed=True,
        )
        return base64.b64decode(result["data"])

    def start_pictures(self, take: Callable[[bytes], None], quality: int = 70) -> None:
        """Send a JPEG to `take` (on the reading thread) whenever the page looks different."""
        self.on_picture = take
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
        self.on_picture = None
        if not self.gone.is_set() and not self.connection.closed.is_set():
            self.post("Page.stopScreencast")

    # -- events (on the reading thread) --------------------------------------------------------

    def _event(self, message: dict[str, Any]) -> None:
        handler = self._handlers.get(message["method"])
        if handler:
            handler(message["params"])

    def _wait(self, condition: Callable[[], bool], limit: float) -> bool:
        with self._ready:
            return self._ready.wait_for(condition, limit)

    def _wake(self) -> None:
        with self._ready:
            self._ready.notify_all()

    def _reported(self, params: dict[str, Any]) -> None:
        if params["name"] != BINDING:
            return
        event = read_json(params["payload"])
        event["frame"] = self.frame_of(params["executionContextId"])
        event["window"] = self.target
        self.on_report(event)

    def _navigated(self, params: dict[str, Any]) -> None:
        frame = params["frame"]
        self.know_frame(frame)
        if frame["id"] == self.main_frame:
            self.address = frame["url"]
            self.on_change()

    def _moved_within(self, params: dict[str, Any]) -> None:
        if params["frameId"] == self.main_frame:
            self.address = params["url"]
            with self._ready:
                self._loading = False
                self._ready.notify_all()
            self.on_change()

    def _load(self, params: dict[str, Any], *, loading: bool) -> None:
        if params.get("frameId") == self.main_frame:
            with self._ready:
                self._loading = loading
                self._ready.notify_all()
            if not loading:
                self.on_change()

    def _arrived(self) -> None:
        with self._ready:
            self._loading = False
            self._ready.notify_all()
        self.on_change()

    def _dialog_opening(self, params: dict[str, Any]) -> None:
        self.dialog = Dialog(params["type"], params["message"], params.get("defaultPrompt", ""))
        # The page's own thread stands still now: who waits for it must hear why.
        self.connection.fail_session(self.session, DialogOpen(params["message"]))
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
        self.chooser = params
        self.on_change()

    def _picture(self, params: dict[str, Any]) -> None:
        self.post("Page.screencastFrameAck", sessionId=params["sessionId"])
        if self.on_picture:
            self.on_picture(base64.b64decode(params["data"]))

    def _crashed(self) -> None:
        self.gone.set()
        self.connection.fail_session(self.session, BrowserGone("The page crashed."))
        self._wake()
        self.on_change()
