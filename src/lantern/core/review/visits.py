"""What one visit to a page tells after a release: what its texts are now, and what is not found.

A page that was only opened shows less than one on which something was done. So it is held against
that of the pages kept before which is most like it, and an element counts as lost only where it was
found there.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.repair import FINDS, SHOWN, Proposal, propose, verdict
from lantern.core.review.texts import shared, texts

MOST_TOLD = 40
"""Texts that are told of a page."""
Nodes = Sequence[Facts]


@dataclass(frozen=True)
class Met:
    """An element on a visited page: what its clues find (see `repair.verdict`), of how many nodes.

    It is `lost` where it was found before and is not now; `proposal` is what it could be then.
    """

    element: str
    name: str
    word: str
    count: int
    lost: bool = False
    proposal: Proposal | None = None


@dataclass(frozen=True)
class Visited:
    """A page as it was visited, against what was kept of it: its elements, and texts by fate."""

    met: Sequence[Met]
    new: Sequence[str] = ()
    gone: Sequence[str] = ()
    known: bool = True

    @property
    def changed(self) -> bool:
        """Whether anything on it is not as it was."""
        return bool(self.new or self.gone or any(one.lost for one in self.met))


def nearest(now: Nodes, before: Iterable[Nodes]) -> Nodes | None:
    """Return the page that shares the most texts with a page, of those kept before; None: none."""
    own = texts(now)
    return max(before, key=lambda page: shared(own, texts(page)), default=None)


def visited(now: Nodes, before: Iterable[Nodes], elements: Iterable[Element]) -> Visited:
    """Return what a visit tells of a page, against the pages that were kept of it before."""
    old = nearest(now, before)
    met = [_met(one, now, old) for one in elements]
    if old is None:
        return Visited(met, known=False)
    ours, theirs = texts(now), texts(old)
    return Visited(met, sorted(ours - theirs)[:MOST_TOLD], sorted(theirs - ours)[:MOST_TOLD])


def _met(element: Element, now: Nodes, old: Nodes | None) -> Met:
    found = verdict(element, now)
    count = len(found.found)
    if found.word == FINDS or old is None or verdict(element, old).word != FINDS:
        return Met(element.id, element.name, found.word, count)
    likely = next((one for one in propose(element, now, most=1) if one.score >= SHOWN), None)
    return Met(element.id, element.name, found.word, count, True, likely)
