"""What was done, in a line of words."""

from __future__ import annotations

from collections.abc import Callable

from lantern.core.steps.comparing import Difference, StepChange
from lantern.core.steps.model import Document, Step

LONGEST = 240
"""Letters of a line at the most."""
_VALUE = 60
Words = Callable[[Step], str]


def in_words(found: Difference, before: Document, after: Document, words: Words) -> str:
    """Return what changed as a line; "" where nothing can be said of it."""
    lines = [
        _of_steps(what, [one for one in found.steps if one.what == what], words)
        for what in ("added", "changed", "moved", "removed")
    ]
    lines += [_of_cell(before, after) or ", ".join(found.others)]
    line = "; ".join(filter(None, lines))
    return line if len(line) <= LONGEST else f"{line[: LONGEST - 1]}…"


def _of_steps(what: str, changes: list[StepChange], words: Words) -> str:
    if not changes:
        return ""
    first = changes[0]
    step = first.after or first.before
    said = words(step) if step else ""
    if len(changes) > 1:
        return f"{len(changes)} sentences {what}: {said} …"
    if what == "changed" and first.before and first.after:
        return _of_change(first, words)
    return f"{what}: {said}"


def _of_change(change: StepChange, words: Words) -> str:
    """Tell of one changed sentence; where it reads as before, what else of it changed."""
    if change.before is None or change.after is None:
        return ""
    old, new = words(change.before), words(change.after)
    if old != new:
        return f"{old} → {new}"
    if change.parts == ("enabled",):
        return f"{new}: switched {'on' if change.after.enabled else 'off'}"
    return f"{new}: {', '.join(part.replace('_', ' ') for part in change.parts)}"


def _of_cell(before: Document, after: Document) -> str:
    """Tell of the one cell that changed; "" for more, or none."""
    if len(before.rows) != len(after.rows) or before.columns != after.columns:
        return ""
    found: list[str] = []
    for number, (old, new) in enumerate(zip(before.rows, after.rows, strict=True), 1):
        if old is new or old.values == new.values:
            continue
        if old.id != new.id or len(found) > 1:
            return ""
        for name in dict.fromkeys([*old.values, *new.values]):
            one, other = old.values.get(name, ""), new.values.get(name, "")
            if one != other:
                found.append(f"row {number}, {name}: {_short(one)} → {_short(other)}")
    return found[0] if len(found) == 1 else ""


def _short(value: str) -> str:
    return f"“{value}”" if len(value) <= _VALUE else f"“{value[:_VALUE]}…”"
