"""Words of people in a script: names made of them, and how they stand in comments."""

from __future__ import annotations

import keyword
import re
from collections.abc import Iterable


def identifier(text: str) -> str:
    """Return a Python name made of any text."""
    name = re.sub(r"[^a-z0-9]+", "_", text.lower()).strip("_")[:60] or "unnamed"
    return f"_{name}" if name[0].isdigit() or keyword.iskeyword(name) else name


def unique(names: Iterable[tuple[str, str]]) -> dict[str, str]:
    """Return a different Python name for each (key, text)."""
    found: dict[str, str] = {}
    for key, text in names:
        name, number = identifier(text), 2
        while name in found.values():
            name, number = f"{identifier(text)}_{number}", number + 1
        found[key] = name
    return found


def quoted(text: str) -> str:
    """Return a text as it can stand in a docstring, whatever it holds."""
    return text.replace('"', "'").replace("\\", "/")


def one_line(text: str) -> str:
    """Return a text in one line, as a comment takes it."""
    return " ".join(text.split())
