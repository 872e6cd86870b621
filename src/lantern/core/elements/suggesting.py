"""Choosing the clues by which an element will be recognised.

The probe reports the facts of the node and of its *rivals*: all other nodes of the page that
share at least one identifying fact with it. A set of clues that holds an identifying fact can
only be satisfied by the node or its rivals, so whether it is unique is decided here, without
the page.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cache
from itertools import combinations

from lantern.core.elements.clues import POSITION, Clue, matching
from lantern.core.elements.facts import CELL, Facts
from lantern.core.elements.generated import how_made, pattern_of
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.likeness import Page, likeness

IDENTIFYING = {
    "test id": 0.4,
    "field name": 0.9,
    "name": 1.3,
    "label": 1.3,
    "column": 1.5,
    "alt": 1.8,
    "hint text": 1.8,
    "id": 2.1,
    "text": 2.3,
    "title": 2.3,
    "aria-label": 2.4,
    "href": 2.7,
    "src": 4.0,
    "path": 9.0,
}
"""Facts that can tell one node from others, with what relying on each costs.

A cost is about ten times the negative logarithm of the share of releases that leave the fact as
it is: what is put there to stay, or what programs agree on, changes least; words for people
change now and then, addresses and places often. So the cheapest set is the one that most likely
survives as a whole. The shares are estimates, to be corrected by what `bench recognise` shows.
"""

NARROWING = {"frames": 0.3, "type": 0.6, "row": 1.6, "section": 2.3, "after": 5.5}
"""Facts that only help beside an identifying one."""

NUMBERED = frozenset(("name", "text", "title", "after", "href", "src", "section"))
"""Facts in which a number is likely part of the data."""

SPOKEN = frozenset(("name", "label", "text", "alt", "hint text", "title", "aria-label"))
"""Facts that are words for people: case, spacing and closing punctuation of them change lightly."""

MOST_LOOKALIKES = 6
MOST_COMPARED = 50
POSITION_COST = 12.0
MOST_CLUES = 3
LETTERS = 80.0
"""So many letters of a value cost as much as one point: long texts are reworded more often."""


@dataclass(frozen=True)
class Suggestion:
    """The smallest good set of clues, the other clues that held, and the nodes most like it."""

    clues: tuple[Clue, ...]
    spare: tuple[Clue, ...]
    lookalikes: tuple[Facts, ...] = ()


def suggest(target: Facts, rivals: Sequence[Facts], *, avoid: Iterable[str] = ()) -> Suggestion:
    """Choose clues that find `target` and nothing else among it and its `rivals`.

    `avoid` names facts that must not be used, such as the text whose content is being checked.
    When no set of at most three clues is unique, the n-th place among those that match is added.
    """
    others = [facts for facts in rivals if facts.handle != target.handle]
    if target.visible:
        others = [facts for facts in others if facts.visible]
    kind = kind_of(target)
    others = [facts for facts in others if kind_of(facts) == kind]
    options = _options(target, others, frozenset(avoid))
    chosen = _cheapest(options, others) or _with_position(target, others, options)
    spare = tuple(clue for clue, _cost in options if clue not in chosen)
    return Suggestion(_sturdy(chosen, others, kind), spare, lookalikes(target, others))


def _sturdy(clues: tuple[Clue, ...], others: Sequence[Facts], kind: str) -> tuple[Clue, ...]:
    """Let words be compared without case and spacing, where that takes in nothing else."""
    loose = tuple(
        replace(clue, loose=True) if clue.fact in SPOKEN and clue.operator == "is" else clue
        for clue in clues
    )
    if any(clue.fact == POSITION for clue in clues) or matching(kind, loose, others):
        return clues
    return loose


def lookalikes(target: Facts, others: Sequence[Facts]) -> tuple[Facts, ...]:
    """Return the nodes that are most easily taken for the target, at most MOST_LOOKALIKES."""
    if not others:
        return ()

    near = sorted(
        others, key=lambda facts: (-shared(target, facts), abs(facts.order - target.order))
    )[:MOST_COMPARED]
    page = Page([target, *near])
    ranked = sorted(near, key=lambda facts: -likeness(target, facts, page))
    return tuple(ranked[:MOST_LOOKALIKES])


def shared(one: Facts, other: Facts) -> int:
    """Return how many of the facts that mostly tell nodes apart are equal; quick to find out."""
    return sum(one.get(fact) == other.get(fact) for fact in _SHARED)


_SHARED = ("name", "label", "text", "section", "column", "field name")


def _options(
    target: Facts, others: Sequence[Facts], avoid: frozenset[str]
) -> list[tuple[Clue, float]]:
    options: list[tuple[Clue, float]] = []
    for fact, cost in (IDENTIFYING | NARROWING).items():
        if fact in avoid or fact == "row":
            continue
        value = target.get(fact)
        if fact == "frames" and target.frames:
            value = target.frames[-1]
        if not isinstance(value, str) or not value or "${" in value:
            continue  # what a page shows must never be taken for a name of ours
        if fact in ("id", "field name", "test id"):
            cost += {"noise": 20.0, "counted": 3.0, "": 0.0}[how_made(value)]
        elif fact in NUMBERED and any(letter.isdigit() for letter in value):
            pattern = pattern_of(value) if fact in SPOKEN else ""
            if pattern:  # a text with figures in it is likely data, but its shape is not
                options.append((Clue(fact, "matches", pattern), cost + 0.5 + len(value) / LETTERS))
            cost += 3
        options.append((Clue(fact, "is", value), cost + len(value) / LETTERS))
    options += _row_options(target, others, avoid)
    return sorted(options, key=lambda option: option[1])


def _row_options(
    target: Facts, others: Sequence[Facts], avoid: frozenset[str]
) -> list[tuple[Clue, float]]:
    """Offer the cells of the target's own row that no rival's row has, words before figures."""
    if "row" in avoid:
        return []
    heads = {cell: head for head, cell in reversed(list(target.cells.items())) if head}
    own = [
        cell
        for cell in dict.fromkeys(target.row)
        if cell and cell != target.text and "${" not in cell
    ]
    taken = {cell for facts in others for cell in facts.row}
    alone = [cell for cell in own if cell not in taken] or own
    alone = sorted(alone, key=lambda cell: (_is_figure(cell), any(map(str.isdigit, cell))))
    return [
        (
            Clue(f"{CELL}{heads[cell]}" if cell in heads else "row", "is", cell),
            NARROWING["row"] + place / 10,
        )
        for place, cell in enumerate(alone[:3])
    ]


def _is_figure(text: str) -> bool:
    return not any(map(str.isalpha, text))


def _cheapest(
    options: Sequence[tuple[Clue, float]], others: Sequence[Facts]
) -> tuple[Clue, ...] | None:
    """Return the cheapest set that no rival satisfies; sets of rivals are bits of an integer.

    Who satisfies a clue is found out when it is first needed: most dear ones never are.
    """

    @cache
    def holders(clue: Clue) -> int:
        return sum(1 << bit for bit, facts in enumerate(others) if clue.holds(facts))

    sets = sorted(
        (
            (sum(cost for _clue, cost in chosen), size, [clue for clue, _cost in chosen])
            for size in range(1, MOST_CLUES + 1)
            for chosen in combinations(options, size)
            if any(clue.fact in IDENTIFYING for clue, _cost in chosen)
        ),
        key=lambda entry: (entry[0] + entry[1], entry[1]),
    )
    for cost, _size, clues in sets:
        if cost >= POSITION_COST + 10:
            break
        shared = -1
        for clue in clues:
            shared &= holders(clue)
            if not shared:
                break
        if not shared or not others:
            return tuple(clues)
    return None


def _with_position(
    target: Facts, others: Sequence[Facts], options: Sequence[tuple[Clue, float]]
) -> tuple[Clue, ...]:
    """Fall back on the cheapest clues plus the place among the nodes that satisfy them."""
    base = tuple(clue for clue, cost in options if cost < 20)[:2]
    found = matching(kind_of(target), base, [*others, target], prefer=target.tag)
    place = next((n for n, facts in enumerate(found, 1) if facts is target), 1)
    return (*base, Clue(POSITION, "is", str(place)))


def _as_name(text: str) -> str:
    """Return a text that can stand as a name: short, and words rather than data; else ""."""
    return text if len(text) <= 40 and not any(map(str.isdigit, text)) else ""


def propose_name(target: Facts) -> str:
    """Propose a name for the element from what people see of it, at most 60 characters."""
    kind = kind_of(target)
    seen = target.label or target.name
    if kind == "text":
        own = target.name if target.name != target.text else ""
        seen = target.label or own or target.column or _as_name(target.text) or target.section
    for fact in ("hint text", "title", "alt", "field name", "id"):
        seen = seen or str(target.get(fact))
    seen = seen.rstrip(" :*") or target.text
    return (seen[:57] + "…" if len(seen) > 60 else seen) or kind
