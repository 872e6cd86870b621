"""What windows of all engines have in common: what is known of them, the probe, and waiting."""

from __future__ import annotations

import json
import threading
from abc import ABC, abstractmethod
from collections.abc import Callable
from functools import cache
from importlib.resources import files
from time import monotonic
from typing import Any

from lantern.browser.errors import BrowserGone, CommandFailed, DialogOpen, NoAnswer
from lantern.browser.session import Dialog
from lantern.browser.traffic import Traffic
from lantern.core.addresses import parts_of
from lantern.core.engine.browsers import Browser
from lantern.core.storable import read_json

WORLD = "lantern"
"""The name of the isolated world that the probe lives in."""
MOST_FRAMES = 20
"""Frames in frames that are followed: a page can put itself into itself."""
FOLLOWS = 0.15
"""Seconds in which a request is told of that follows what a person did or an answer."""
READ_IN = """new Promise((resolve) => document.readyState === 'loading'
  ? addEventListener('DOMContentLoaded', resolve, { once: true }) : resolve())"""


@cache
def probe_source() -> str:
    """Return the built probe."""
    return files("lantern.browser").joinpath("probe.js").read_text(encoding="utf-8")


class BaseWindow(ABC):
    """The part of a `Window` that is the same in every engine.

    What an engine does its own way are the abstract methods; its events call `_wake`,
    `_set_loading`, `know_frame` and `_dialog_opened` on the reading thread.
    """

    def __init__(self, target: str, held_for: Browser) -> None:
        self.target = target
        self.viewport = held_for.viewport
        self.title = self.address = self.main_frame = self.probe_tail = ""
        self.dialog: Dialog | None = None
        self.gone = threading.Event()
        self.traffic = Traffic(self._wake)
        self.on_report: Callable[[dict[str, Any]], None] = lambda event: None
        self.on_change: Callable[[], None] = lambda: None
        self._ready = threading.Condition()
        self._loading = False
        self._frame_names: dict[str, tuple[str, str]] = {}

    # -- what an engine does its own way -------------------------------------------------------

    @abstractmethod
    def ask_probe(self, frame: str, expression: str, timeout: float) -> str | None:
        """Return the text that an expression comes to in the probe's world of a frame.

        Raises CommandFailed when the frame is not there or the expression fails.
        """

    @abstractmethod
    def frames(self) -> list[str]:
        """Return the ids of all frames that the probe is in, the main one first."""

    # -- the probe and its frames --------------------------------------------------------------

    def probe(self, function: str, *args: object, frame: str = "", timeout: float = 15.0) -> Any:  # noqa: ANN401 - whatever the probe's function returns
        """Call a function of the probe in a frame ("" for the main one) and return its answer.

        Raises DialogOpen, CommandFailed when the document went away, BrowserGone, NoAnswer.
        """
        if self.dialog:
            raise DialogOpen(self.dialog.message)
        listed = ",".join(json.dumps(argument) for argument in args)
        # One text is handed over several times faster than thousands of objects.
        expression = f"Promise.resolve(lantern.{function}({listed})).then(JSON.stringify)"
        text = self.ask_probe(frame or self.main_frame, expression, timeout)
        return None if text is None else read_json(text)

    def know_frame(self, frame: str, parent: str, name: str, address: str) -> None:
        """Note the name of a frame that went to an address, and which it is in ("" for none)."""
        self._frame_names[frame] = parent, name or parts_of(address).path
        if not parent:
            self.main_frame = frame

    def has_frame(self, frame: str) -> bool:
        """Tell whether a frame is one of this window."""
        return frame == self.main_frame or frame in self._frame_names

    def frame_path(self, frame: str) -> tuple[str, ...]:
        """Return the names of the frames that lead to a frame, outermost first; () for the page.

        A frame without a name goes by the path of its address.
        """
        names: list[str] = []
        while frame and frame != self.main_frame and len(names) < MOST_FRAMES:
            frame, name = self._frame_names.get(frame, ("", ""))
            names.append(name)
        return tuple(reversed(names))

    # -- waiting -------------------------------------------------------------------------------

    def settled(self, limit: float) -> bool:
        """Wait until no navigation is under way; tells whether that came about in time."""
        return self._wait(
            lambda: not self._loading or self.dialog is not None or self.gone.is_set(), limit
        )

    def answered(self, limit: float) -> bool:
        """Wait until no answer to a request is waited for; tells whether that came about."""
        return self._wait(lambda: not self.traffic.under_way or self.gone.is_set(), limit)

    def delivered(self, limit: float) -> bool:
        """Wait until all that the page tells its server is answered, and what follows of it.

        Returns whether that came about within `limit` seconds.
        """
        end = monotonic() + limit
        while self.traffic.telling and not self.gone.is_set():
            left = end - monotonic()
            if not self._wait(lambda: not self.traffic.telling or self.gone.is_set(), left):
                return False
            self.await_more()  # an answer may lead to the next request
        return True

    def await_more(self) -> None:
        """Wait a moment for a request of which nobody has told yet."""
        self._wait(lambda: bool(self.traffic.under_way) or self.gone.is_set(), FOLLOWS)

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

    # -- events (on the reading thread) --------------------------------------------------------

    def _wait(self, condition: Callable[[], bool], limit: float) -> bool:
        with self._ready:
            return self._ready.wait_for(condition, limit)

    def _wake(self) -> None:
        with self._ready:
            self._ready.notify_all()

    def _set_loading(self, loading: bool) -> None:
        with self._ready:
            self._loading = loading
            self._ready.notify_all()
