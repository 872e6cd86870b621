"""What the tester does with mouse and keys, sent to the window in front as real input."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future
from concurrent.futures import TimeoutError as FutureTimeout
from typing import Any

from lantern.browser.cdp import BrowserError
from lantern.browser.page import Page

Message = dict[str, Any]
TURN = 2.0
"""Longest time in seconds that an input waits for one of another way to be taken."""


class Input:
    """Carries out messages of mouse and keys; `page` gives the window that they go to."""

    def __init__(self, page: Callable[[], Page]) -> None:
        self._page = page
        self._sent: tuple[str, Future[dict[str, Any]]] | None = None
        self.commands: dict[str, Callable[[Message], None]] = {
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

    def _mouse(self, message: Message) -> None:
        kind, x, y = str(message["kind"]), float(message["x"]), float(message["y"])
        more = {
            "button": str(message.get("button", "none")),
            "buttons": int(message.get("buttons", 0)),
            "clickCount": int(message.get("count", 0)),
            "modifiers": int(message.get("modifiers", 0)),
            "deltaX": float(message.get("dx", 0)),
            "deltaY": float(message.get("dy", 0)),
        }
        self._send("mouse", lambda: self._page().pointer(kind, x, y, **more))

    def _key(self, message: Message) -> None:
        text = str(message.get("text") or "")
        kind = str(message["kind"])
        if kind == "keyDown" and not text:
            kind = "rawKeyDown"
        shape = {
            "type": kind,
            "key": str(message["key"]),
            "code": str(message.get("code") or ""),
            "windowsVirtualKeyCode": int(message.get("number", 0)),
            "modifiers": int(message.get("modifiers", 0)),
            **({"text": text} if text and kind == "keyDown" else {}),
        }
        self._send("key", lambda: self._page().post("Input.dispatchKeyEvent", **shape))

    def _text(self, message: Message) -> None:
        text = str(message["text"])
        self._send("text", lambda: self._page().post("Input.insertText", text=text))

    def _compose(self, message: Message) -> None:
        text = str(message["text"])
        end = len(text)
        self._send(
            "text",
            lambda: self._page().post(
                "Input.imeSetComposition", text=text, selectionStart=end, selectionEnd=end
            ),
        )
