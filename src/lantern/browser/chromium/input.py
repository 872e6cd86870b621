"""Mouse and keys of a window: trusted input, as a person's."""

from __future__ import annotations

import time
from abc import ABC, abstractmethod
from collections.abc import Callable
from concurrent.futures import Future, wait
from typing import Any

from lantern.browser.chromium.connection import Connection
from lantern.browser.errors import BrowserGone, CommandFailed, DialogOpen
from lantern.browser.keys import Key, chord, key_of
from lantern.browser.session import Input, KeyInput, PointerInput
from lantern.browser.waiting import answer

TAKEN = 60.0
"""Seconds in which a page has to take an input: one that is busy takes it late."""
DRAG_PATH = (0.02, 0.1, 0.2, 0.35, 0.5, 0.65, 0.8, 0.92, 1.0, 1.0, 1.0)
"""Where the hand is on its way, as shares of it: what is carried follows and comes to rest."""
DRAG_STEP = 0.03
DRAG_BEGINS = 0.3
"""Seconds in which the browser tells that it drags something itself."""
DRAG_TOLD = 1.0
"""Seconds in which a page takes the last move before a button is let go."""
DRAG_AFTER = 0.04
"""Seconds after that in which the browser says that it drags."""


KINDS = {
    "move": "mouseMoved",
    "down": "mousePressed",
    "up": "mouseReleased",
    "wheel": "mouseWheel",
}
"""What the protocol calls what a mouse does."""


APART = 0.5
"""Seconds between two touches that are no double one."""


class InputCommands(ABC):
    """What hands do in a window; the window itself sends the events and waits for their effect.

    `dragged` is what the browser itself is dragging, as it told by an event; None for nothing.
    """

    connection: Connection
    dragged: dict[str, Any] | None = None
    _drag_over = False
    touched = False
    """Whether the window is that of a screen that is touched."""
    _touched_at = float("-inf")
    _carried: Future[dict[str, Any]] | None = None
    """The answer to the last move with a button held, until that is let go."""

    @abstractmethod
    def post(self, method: str, **params: object) -> Future[dict[str, Any]]:
        """Send a command without waiting for the answer."""

    @abstractmethod
    def after_input(self, limit: float = 10.0) -> None:
        """Let the tasks that an input queued run, and a navigation it started arrive."""

    @abstractmethod
    def _wait(self, condition: Callable[[], bool], limit: float) -> bool: ...

    def mouse(self, kind: str, x: float, y: float, **more: object) -> Future[dict[str, Any]]:
        """Send a mouse event (mousePressed, mouseReleased, mouseMoved, mouseWheel)."""
        return self.post("Input.dispatchMouseEvent", type=kind, x=x, y=y, **more)

    def press(self, x: float, y: float, button: str = "left", count: int = 1) -> None:
        """Press and release the mouse at a point, or touch it where that is what a hand does."""
        if self.touched and button == "left":
            self._touch(x, y, count)
            return
        last = self.mouse("mouseMoved", x, y)
        for number in range(1, count + 1):
            for kind in ("mousePressed", "mouseReleased"):
                last = self.mouse(kind, x, y, button=button, clickCount=number)
        self._input_done(last)

    def _touch(self, x: float, y: float, count: int) -> None:
        """Touch a point `count` times in a row; the browser makes presses of that.

        Touches that are not meant to be one double touch are apart.
        """
        time.sleep(max(0.0, self._touched_at + APART - time.monotonic()))
        for _ in range(count):
            self.post("Input.dispatchTouchEvent", type="touchStart", touchPoints=[{"x": x, "y": y}])
            last = self.post("Input.dispatchTouchEvent", type="touchEnd", touchPoints=[])
        self._input_done(last)
        self._touched_at = time.monotonic()

    def point_at(self, x: float, y: float) -> None:
        """Move the mouse to a point; what the page shows under a mouse stays until it moves."""
        self._input_done(self.mouse("mouseMoved", x, y))

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        """Press at a point, move to another and let go; also where the browser itself drags."""
        self.pointer("mouseMoved", *start)
        self.pointer("mousePressed", *start, button="left", buttons=1, clickCount=1)
        for number, share in enumerate(DRAG_PATH):
            x = start[0] + (end[0] - start[0]) * share
            y = start[1] + (end[1] - start[1]) * share
            answer(self.pointer("mouseMoved", x, y, button="left", buttons=1), "a drag", TAKEN)
            if number == 1:  # by now the browser says so if it drags by itself
                self._wait(lambda: self.dragged is not None, DRAG_BEGINS)
            else:  # pages that make room while one drags need time for it
                self._wait(lambda: False, DRAG_STEP)
        last = self.pointer("mouseReleased", *end, button="left", clickCount=1)
        self._input_done(last)

    def pointer(self, kind: str, x: float, y: float, **more: Any) -> Future[dict[str, Any]]:  # noqa: ANN401 - as the protocol has it
        """Send a mouse event, as a drag event while the browser itself drags something."""
        if kind == "mouseReleased" and self.dragged is None:
            self._let_drag_begin()
        dragged = self.dragged
        if dragged is None:
            sent = self.mouse(kind, x, y, **more)
            self._carried = sent if kind == "mouseMoved" and more.get("buttons") else None
            return sent
        data = {"x": x, "y": y, "data": dragged, "modifiers": more.get("modifiers", 0)}
        if kind == "mouseMoved":
            return self._drag_to(data)
        if kind == "mouseReleased":
            if not self._drag_over:
                self._drag_to(data)
            self.dragged, self._drag_over, self._carried = None, False, None
            self.post("Input.dispatchDragEvent", type="drop", **data)
        return self.mouse(kind, x, y, **more)

    def _drag_to(self, data: dict[str, Any]) -> Future[dict[str, Any]]:
        first = not self._drag_over
        self._drag_over = True
        if first:
            self.post("Input.dispatchDragEvent", type="dragEnter", **data)
        return self.post("Input.dispatchDragEvent", type="dragOver", **data)

    def _let_drag_begin(self) -> None:
        """Let the browser tell, before a button is let go, that it drags something by then.

        A quick hand lets go before a slow page has taken the moves: the drag would be lost.
        """
        if self._carried is None:
            return
        wait([self._carried], timeout=DRAG_TOLD)
        self._wait(lambda: self.dragged is not None, DRAG_AFTER)

    def press_key(self, keys: str) -> None:
        """Press a key with its modifiers, for example "Control+Enter"."""
        self._input_done(self.key(*chord(keys)))

    def key(self, key: Key, modifiers: int = 0) -> Future[dict[str, Any]]:
        """Send the events of one key; returns the future answer of the last."""
        typed = key.text if not modifiers & 7 else ""  # with Alt, Control or Meta nothing is typed
        shape = {"key": key.key, "code": key.code, "windowsVirtualKeyCode": key.number}
        down = "keyDown" if typed else "rawKeyDown"
        self.post(
            "Input.dispatchKeyEvent",
            type=down,
            modifiers=modifiers,
            **shape,
            **({"text": typed} if typed else {}),
        )
        return self.post("Input.dispatchKeyEvent", type="keyUp", modifiers=modifiers, **shape)

    def type_text(self, text: str) -> None:
        """Type a text where the focus is: as keys where a keyboard has them, else inserted."""
        last: Future[dict[str, Any]] | None = None
        if len(text) <= 80 and text.isascii() and text.isprintable():
            for letter in text:
                last = self.key(key_of(letter))
        elif text:
            last = self.post("Input.insertText", text=text)
        if last is not None:
            self._input_done(last)

    def put_in(self, what: Input) -> Future[dict[str, Any]]:
        """Send what a person does as it is; the future is done when the page has taken it."""
        if isinstance(what, PointerInput):
            more = {"buttons": what.buttons, "clickCount": what.count, "modifiers": what.modifiers}
            turn = {"deltaX": what.dx, "deltaY": what.dy}
            kind = KINDS[what.kind]
            return self.pointer(kind, what.x, what.y, button=what.button, **more, **turn)
        if isinstance(what, KeyInput):
            typed = what.text if what.kind == "down" else ""
            down = "keyDown" if typed else "rawKeyDown"
            shape = {
                "type": down if what.kind == "down" else "keyUp",
                "key": what.key,
                "code": what.code,
                "windowsVirtualKeyCode": what.number,
                "modifiers": what.modifiers,
                **({"text": typed} if typed else {}),
            }
            return self.post("Input.dispatchKeyEvent", **shape)
        if what.composing:
            end = len(what.text)
            at = {"selectionStart": end, "selectionEnd": end}
            return self.post("Input.imeSetComposition", text=what.text, **at)
        return self.post("Input.insertText", text=what.text)

    def _input_done(self, last: Future[dict[str, Any]]) -> None:
        """Wait for input to be taken; a dialog or a closed window is an effect of it as well."""
        try:
            answer(last, "an input", TAKEN)
        except (DialogOpen, BrowserGone, CommandFailed):
            if self.connection.closed.is_set():
                raise
        self.after_input()
