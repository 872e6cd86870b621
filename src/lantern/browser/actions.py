"""Mouse and keys as lists of actions that a browser performs, as WebDriver has them.

Source of the key values: https://www.w3.org/TR/webdriver2/#keyboard-actions.
"""

from __future__ import annotations

from math import floor
from typing import Any

from lantern.browser.keys import MODIFIERS, Key
from lantern.browser.session import Input, KeyInput, PointerInput

Action = dict[str, Any]
BUTTONS = {"left": 0, "middle": 1, "right": 2}
CODES = {
    "Enter": "\ue006", "Tab": "\ue004", "Escape": "\ue00c", "Backspace": "\ue003",
    "Delete": "\ue017", "Insert": "\ue016", "Home": "\ue011", "End": "\ue010",
    "PageUp": "\ue00e", "PageDown": "\ue00f", "ArrowLeft": "\ue012", "ArrowUp": "\ue013",
    "ArrowRight": "\ue014", "ArrowDown": "\ue015", "Shift": "\ue008", "Control": "\ue009",
    "Alt": "\ue00a", "Meta": "\ue03d", **{f"F{n}": chr(0xE030 + n) for n in range(1, 13)},
}  # fmt: skip
"""What the standard calls keys that type nothing."""
DRAG_PATH = (0.02, 0.1, 0.2, 0.35, 0.5, 0.65, 0.8, 0.92, 1.0, 1.0, 1.0)
"""Where the hand is on its way, as shares of it: what is carried follows and comes to rest."""
DRAG_STEP = 30
"""Milliseconds that each step of a drag takes."""


def mouse(*actions: Action) -> list[Action]:
    """Return a list of sources for actions of the mouse."""
    kind = {"pointerType": "mouse"}
    return [{"type": "pointer", "id": "mouse", "parameters": kind, "actions": list(actions)}]


def move(x: float, y: float, duration: int = 0) -> Action:
    """Move to the pixel of the viewport in which a point lies, in so many milliseconds."""
    return {"type": "pointerMove", "x": floor(x), "y": floor(y), "duration": duration}


def press(x: float, y: float, button: str = "left", count: int = 1) -> list[Action]:
    """Go to a point, and press and release there, `count` times in a row."""
    down = {"type": "pointerDown", "button": BUTTONS[button]}
    up = {"type": "pointerUp", "button": BUTTONS[button]}
    return mouse(move(x, y), *([down, up] * count))


def drag(start: tuple[float, float], end: tuple[float, float]) -> list[Action]:
    """Press at a point, go to another in steps and let go."""
    wide, high = end[0] - start[0], end[1] - start[1]
    way = [move(start[0] + wide * share, start[1] + high * share, DRAG_STEP) for share in DRAG_PATH]
    down, up = ({"type": f"pointer{what}", "button": 0} for what in ("Down", "Up"))
    return mouse(move(*start), down, *way, up)


def keys(pressed: list[Key], modifiers: int = 0) -> list[Action]:
    """Press keys one after the other while modifiers are held."""
    held = [CODES[name] for name, bit in MODIFIERS.items() if modifiers & bit]
    actions = [{"type": "keyDown", "value": value} for value in held]
    for key in pressed:
        value = CODES.get(key.key, key.key)
        actions += [{"type": "keyDown", "value": value}, {"type": "keyUp", "value": value}]
    actions += [{"type": "keyUp", "value": value} for value in reversed(held)]
    return [{"type": "key", "id": "keys", "actions": actions}]


SHIFTED = frozenset('~!@#$%^&*()_+{}|:"<>?ABCDEFGHIJKLMNOPQRSTUVWXYZ')
"""Letters for which a person at a keyboard for English holds Shift."""


def typed(text: str) -> list[Action]:
    """Type letters one after the other, with Shift held where a person would hold it.

    A browser may know by the letter alone what is meant, or only by the key and Shift.
    """
    shift = CODES["Shift"]
    actions: list[Action] = []
    for letter in text:
        stroke = [{"type": "keyDown", "value": letter}, {"type": "keyUp", "value": letter}]
        if letter in SHIFTED:
            stroke.insert(0, {"type": "keyDown", "value": shift})
            stroke.append({"type": "keyUp", "value": shift})
        actions += stroke
    return [{"type": "key", "id": "keys", "actions": actions}]


def as_actions(what: Input) -> list[Action]:
    """Return what a person does as actions; raises ValueError for a text put in whole."""
    if isinstance(what, KeyInput):
        value = CODES.get(what.key, what.key)
        kind = "keyDown" if what.kind == "down" else "keyUp"
        return [{"type": "key", "id": "keys", "actions": [{"type": kind, "value": value}]}]
    if not isinstance(what, PointerInput):
        raise ValueError("That is neither mouse nor key.")
    if what.kind == "wheel":
        turn = {"deltaX": round(what.dx), "deltaY": round(what.dy)}
        at = {"x": round(what.x), "y": round(what.y)}
        return [{"type": "wheel", "id": "wheel", "actions": [{"type": "scroll", **at, **turn}]}]
    if what.kind == "move":
        return mouse(move(what.x, what.y))
    kind = "pointerDown" if what.kind == "down" else "pointerUp"
    return mouse(move(what.x, what.y), {"type": kind, "button": BUTTONS.get(what.button, 0)})
