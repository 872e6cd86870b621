"""The nearest thing to an element that was not found: what the page had instead."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from lantern.core.elements.clues import POSITION, Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.likeness import shown
from lantern.core.elements.repair import propose


@dataclass(frozen=True)
class Near:
    """A node with how likely it is the one (0 to 1), and the clues it does not satisfy."""

    facts: Facts
    score: float
    differs: tuple[str, ...]


def nearest_to(element: Element, candidates: Sequence[Facts]) -> Near | None:
    """Return the node that is most likely the element now, or None when none is like it."""
    for best in propose(element, candidates, most=1):
        if not best.agrees:
            return None
        differs = tuple(
            f"{clue.sentence()}, here “{shown(best.facts.get(clue.fact))}”"
            for clue in element.clues
            if clue.fact != POSITION and not clue.holds(best.facts)
        )
        return Near(best.facts, best.score, differs)
    return None
