"""What differs between two states of an element, in words."""

from __future__ import annotations

from lantern.core.elements.clues import Element


def differs(before: Element, after: Element) -> list[str]:
    """Return what changed from one state to the other, a line each; nothing when none did."""
    lines = [
        f"{name}: “{old}” → “{new}”"
        for name, old, new in (
            ("name", before.name, after.name),
            ("kind", before.kind, after.kind),
            ("page", before.page, after.page),
        )
        if old != new
    ]
    lines += [f"clue added: {clue.sentence()}" for clue in after.clues if clue not in before.clues]
    lines += [f"clue taken out: {c.sentence()}" for c in before.clues if c not in after.clues]
    return lines
