"""Keys by the names of the UI Events standard, as the browser wants them.

Source: https://www.w3.org/TR/uievents-key/ and https://www.w3.org/TR/uievents-code/; `number` is
the legacy virtual key code that pages may still read as `keyCode`.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from lantern.core.problems import UnknownName

MODIFIERS = {"Alt": 1, "Control": 2, "Meta": 4, "Shift": 8}


@dataclass(frozen=True)
class Key:
    """A key: its value, its place on the keyboard, its legacy number and the text it types."""

    key: str
    code: str = ""
    number: int = 0
    text: str = ""


_NAMED = {
    "Enter": Key("Enter", "Enter", 13, "\r"),
    "Tab": Key("Tab", "Tab", 9),
    "Escape": Key("Escape", "Escape", 27),
    "Backspace": Key("Backspace", "Backspace", 8),
    "Delete": Key("Delete", "Delete", 46),
    "Insert": Key("Insert", "Insert", 45),
    "Home": Key("Home", "Home", 36),
    "End": Key("End", "End", 35),
    "PageUp": Key("PageUp", "PageUp", 33),
    "PageDown": Key("PageDown", "PageDown", 34),
    "ArrowLeft": Key("ArrowLeft", "ArrowLeft", 37),
    "ArrowUp": Key("ArrowUp", "ArrowUp", 38),
    "ArrowRight": Key("ArrowRight", "ArrowRight", 39),
    "ArrowDown": Key("ArrowDown", "ArrowDown", 40),
    "Space": Key(" ", "Space", 32, " "),
    "Shift": Key("Shift", "ShiftLeft", 16),
    "Control": Key("Control", "ControlLeft", 17),
    "Alt": Key("Alt", "AltLeft", 18),
    "Meta": Key("Meta", "MetaLeft", 91),
    **{f"F{n}": Key(f"F{n}", f"F{n}", 111 + n) for n in range(1, 13)},
}

_SIGNS = {
    "`": ("Backquote", 192), "-": ("Minus", 189), "=": ("Equal", 187), "[": ("BracketLeft", 219),
    "]": ("BracketRight", 221), "\\": ("Backslash", 220), ";": ("Semicolon", 186),
    "'": ("Quote", 222), ",": ("Comma", 188), ".": ("Period", 190), "/": ("Slash", 191),
    " ": ("Space", 32),
}  # fmt: skip


def key_of(name: str) -> Key:
    """Return the key of that name or single character; raises UnknownName for any other."""
    if name in _NAMED:
        return _NAMED[name]
    if len(name) == 1:
        if name.isascii() and name.isalpha():
            return Key(name, f"Key{name.upper()}", ord(name.upper()), name)
        if name.isascii() and name.isdigit():
            return Key(name, f"Digit{name}", ord(name), name)
        code, number = _SIGNS.get(name, ("", 0))
        return Key(name, code, number, name)
    raise UnknownName("key", name, _NAMED)


def modifiers_of(names: Iterable[str]) -> int:
    """Return the modifiers as the bit field that input events carry; raises UnknownName."""
    bits = 0
    for name in names:
        if name not in MODIFIERS:
            raise UnknownName("modifier", name, MODIFIERS)
        bits |= MODIFIERS[name]
    return bits


def chord(keys: str) -> tuple[Key, int]:
    """Read a key with its modifiers, for example "Control+Enter"; raises UnknownName."""
    *held, name = keys.split("+") if not keys.endswith("+") else [*keys[:-1].split("+"), "+"]
    return key_of(name), modifiers_of(modifier for modifier in held if modifier)
