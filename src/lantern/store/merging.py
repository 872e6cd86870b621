"""Elements that are one thing: which are equal, and making one of two."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.strength import Worlds
from lantern.core.problems import BadInput
from lantern.store import acts, elements, pages
from lantern.store import tests as test_store
from lantern.store.database import tell
from lantern.store.models import SavedPage
from lantern.store.rows import unpacked


@dataclass(frozen=True)
class Equal:
    """Elements that find the same thing, each alone, on the newest saved page of theirs."""

    saved: SavedPage
    thing: Facts
    elements: tuple[Element, ...]


@dataclass(frozen=True)
class Merged:
    """What merging came to: the tests that changed, and whose clues were kept, and why.

    `act` is what it is taken back by.
    """

    tests: list[int]
    kept: str
    share: float | None = None
    other_share: float | None = None
    act: int = 0


def equals(session: Session) -> list[Equal]:
    """Return the elements that are equal, page by page."""
    by_page: dict[str, list[Element]] = {}
    for row in elements.listed(session):
        by_page.setdefault(row.page, []).append(Element.read(row.body))
    found = []
    for title, saved in sorted(pages.newest(session).items()):
        known = by_page.get(title, [])
        if len(known) > 1:
            found += _equal_on(saved, known)
    return found


def _equal_on(saved: SavedPage, known: Sequence[Element]) -> list[Equal]:
    nodes = pages.nodes_of(saved)
    finding: dict[tuple[int, str], list[Element]] = {}
    for element in known:
        here = element.among(nodes)
        if len(here) == 1:
            finding.setdefault((here[0].handle, here[0].frame), []).append(element)
    things = {(node.handle, node.frame): node for node in nodes}
    return [
        Equal(saved, things[key], tuple(same)) for key, same in finding.items() if len(same) > 1
    ]


def merge(session: Session, key: str, into: str, account_id: int | None) -> Merged:
    """Let all steps that use an element use another, and delete it.

    Of two that find the same thing the stronger clues are kept; those of the other stay at hand.
    Raises BadInput for an element and itself, Missing.
    """
    if key == into:
        raise BadInput("An element can not be merged with itself.", where=key)
    gone = elements.get(session, key)
    left = Element.read(elements.get(session, into).body)
    told = f"element “{gone.name}” merged into “{left.name}”"
    act = acts.current(session, account_id, None, told)
    better = _with_better_clues(session, Element.read(gone.body), left)
    merged = replace(better, act=act.id)
    for test_id, _, _ in elements.uses(session, key).get(key, []):
        test = test_store.get(session, test_id, lock=True)
        document = unpacked(test)
        steps = tuple(
            replace(
                step,
                element=into if step.element == key else step.element,
                onto=into if step.onto == key else step.onto,
            )
            for step in document.steps
        )
        test_store.put(session, test, replace(document, steps=steps), told, account_id)
        merged.tests.append(test_id)
    elements.drop(session, gone)
    tell(session, "element", id=into)
    return merged


def _with_better_clues(session: Session, gone: Element, left: Element) -> Merged:
    own = Merged([], left.name)
    saved = pages.newest(session, [left.page]).get(left.page)
    if saved is None or gone.kind != left.kind:
        return own
    nodes = pages.nodes_of(saved)
    one, other = left.among(nodes), gone.among(nodes)
    if len(one) != 1 or len(other) != 1 or one[0].handle != other[0].handle:
        return own
    worlds = Worlds(nodes, one[0].handle)
    share = worlds.strength(left.kind, left.clues).share
    other_share = worlds.strength(gone.kind, gone.clues).share
    if other_share <= share:
        return Merged([], left.name, share, other_share)
    at_hand = [clue for clue in (*left.clues, *left.spare, *gone.spare) if clue not in gone.clues]
    better = replace(left, clues=gone.clues, spare=tuple(dict.fromkeys(at_hand)))
    elements.save(session, better)
    return Merged([], gone.name, other_share, share)
