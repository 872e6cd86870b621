"""What the tester does with mouse and keys, sent to the window in front as real input."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future
from concurrent.futures import TimeoutError as FutureTimeout
from typing import Any

from lantern.browser.errors import BrowserError
from lantern.browser.session import KeyInput, PointerInput, TextInput, Window
from lantern.core.channel import KeyAsked, MouseAsked, TextAsked

TURN = 2.0
"""Longest time in seconds that an input waits for one of another way to be taken."""


class Input:
    """Carries out messages of mouse and keys; `page` gives the window that they go to."""

    def __init__(self, page: Callable[[], Window]) -> None:
        self._page = page
        self._sent: tuple[str, Future[dict[str, Any]]] | None = None
        self.commands: dict[str, Callable[[Any], None]] = {
            "mouse": self._mouse,
            "key": self._key,
            "text": self._text,
            "compose": self._compose,
        }

    def _send(self, way: str, send: Callable[[], Future[dict[str, Any]]]) -> None:
        """Send an input. Ways of input overtake each other: one of another way waits its turn."""
        self._turn(way)
        self._sent = way, send()

    def _turn(self, way: str) -> None:
        before, self._sent = self._sent, None
        if before and before[0] != way:
            try:
                before[1].result(TURN)
            except (BrowserError, FutureTimeout):
                pass  # a dialog, a closed window or a busy page: what comes next tells

    def settle(self) -> None:
        """Let the page report what was done in it before something is done to it as a whole."""
        if self._sent:
            self._turn("control")
            self._page().after_input(TURN)

    def _mouse(self, message: MouseAsked) -> None:
        what = PointerInput(
            message["kind"],
            message["x"],
            message["y"],
            message.get("button", "none"),
            message.get("buttons", 0),
            message.get("count", 0),
            message.get("modifiers", 0),
            message.get("dx", 0.0),
            message.get("dy", 0.0),
        )
        self._send("mouse", lambda: self._page().put_in(what))

    def _key(self, message: KeyAsked) -> None:
        what = KeyInput(
            message["kind"],
            message["key"],
            message.get("code", ""),
            message.get("number", 0),
            message.get("modifiers", 0),
            message.get("text", ""),
        )
        self._send("key", lambda: self._page().put_in(what))

    def _text(self, message: TextAsked) -> None:
        what = TextInput(message["text"])
        self._send("text", lambda: self._page().put_in(what))

    def _compose(self, message: TextAsked) -> None:
        what = TextInput(message["text"], composing=True)
        self._send("text", lambda: self._page().put_in(what))
