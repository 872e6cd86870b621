"""The nearest thing to an element that was not found: what the page had instead."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from rapidfuzz import fuzz

from lantern.core.elements.clues import POSITION, Clue, Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of


@dataclass(frozen=True)
class Near:
    """A candidate with how alike it is (0 to 1), and the clues it does not satisfy."""

    facts: Facts
    score: float
    differs: tuple[str, ...]


def nearest_to(element: Element, candidates: Sequence[Facts], floor: float = 0.35) -> Near | None:
    """Return the candidate most like the element, or None when none reaches `floor`.

    The score is the mean likeness of the clues (must-hold clues count double), with a fifth
    taken off for another kind.
    """
    best: Near | None = None
    for facts in candidates:
        score = _likeness(element, facts)
        if score >= floor and (best is None or score > best.score):
            differs = tuple(
                f"{clue.sentence()}, here “{_shown(facts, clue)}”"
                for clue in element.clues
                if clue.fact != POSITION and not clue.holds(facts)
            )
            best = Near(facts, round(score, 2), differs)
    return best


def _shown(facts: Facts, clue: Clue) -> str:
    value = facts.get(clue.fact)
    return " | ".join(value) if isinstance(value, tuple) else value


def _likeness(element: Element, facts: Facts) -> float:
    total = weight = 0.0
    for clues, share in ((element.clues, 2.0), (element.spare, 1.0)):
        for clue in clues:
            if clue.fact == POSITION:
                continue
            weight += share
            if clue.holds(facts):
                total += share
            else:
                total += share * fuzz.ratio(_shown(facts, clue), clue.value) / 100 * 0.9
    if not weight:
        return 0.0
    return total / weight * (1.0 if kind_of(facts) == element.kind else 0.8)
