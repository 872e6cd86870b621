"""Choosing the clues by which an element will be recognised.

The probe reports the facts of the node and of its *rivals*: all other nodes of the page that
share at least one identifying fact with it. A set of clues that holds an identifying fact can
only be satisfied by the node or its rivals, so whether it is unique is decided here, without
the page.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cache
from itertools import combinations

from lantern.core.elements.clues import POSITION, Clue, matching
from lantern.core.elements.facts import CELL, CLASS_WORD, Facts
from lantern.core.elements.generated import how_made, pattern_of, tells_what
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
    "own": 2.5,
    "title": 2.3,
    "aria-label": 2.4,
    "href": 2.7,
    "src": 4.0,
    "data-date": 1.6,
    "data-value": 4.5,
    "data-key": 4.6,
    "data-id": 4.7,
    "path": 9.0,
}
"""Facts that can tell one node from others, with what relying on each costs.

A cost is about ten times the negative logarithm of the share of releases that leave the fact as
it is: what is put there to stay, or what programs agree on, changes least; words for people
change now and then, addresses and places often. So the cheapest set is the one that most likely
survives as a whole. The shares are estimates, to be corrected by what `bench recognise` shows.
"""

NARROWING = {
    "frames": 0.3, "type": 0.6, "row": 1.6, "section": 2.3, CLASS_WORD: 4.2, "after": 5.5,
    "followed": 5.8,
}  # fmt: skip
"""Facts that only help beside an identifying one."""

FACTS = tuple(dict.fromkeys((*IDENTIFYING, *NARROWING, "right of", "below", POSITION)))
"""Facts that a person may choose for a clue; others are taken as attributes of that name."""

NUMBERED = frozenset(
    ("name", "text", "own", "title", "after", "followed", "href", "src", "section")
)
"""Facts in which a number is likely part of the data."""

SPOKEN = frozenset(("name", "label", "text", "own", "alt", "hint text", "title", "aria-label"))
"""Facts that are words for people: case, spacing and closing punctuation of them change lightly."""
AROUND = frozenset(("section", "after", "followed"))
"""Facts of what surrounds a node."""

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
    if kind_of(target) == "page":
        frame = tuple(Clue("frames", "is", one) for one in target.frames[-1:])
        return Suggestion((Clue("tag", "is", "body"), *frame), ())
    kind = kind_of(target)
    others = [facts for facts in rivals if facts.handle != target.handle and kind_of(facts) == kind]
    if target.visible:
        others = [facts for facts in others if facts.visible or _in_other_row(facts, target)]
    shown = [facts for facts in others if facts.visible or not target.visible]
    avoided = frozenset(avoid) | _changing(target, kind)
    options = _options(target, others, avoided)
    wordless = is_plain(target) or "own" in avoid
    base = frozenset(IDENTIFYING) | ({CLASS_WORD} if wordless else frozenset())
    chosen = _cheapest(options, others, base)
    chosen = (
        _said_where(target, chosen, options) if chosen else _with_position(target, shown, options)
    )
    spare = tuple(clue for clue, _cost in options if clue not in chosen)
    return Suggestion(_sturdy(chosen, others, kind), spare, lookalikes(target, others))


def _in_other_row(facts: Facts, target: Facts) -> bool:
    """Tell whether a hidden thing is one that another row shows when it is that row's turn."""
    return bool(target.row) and bool(facts.row) and facts.row != target.row


def _said_where(
    target: Facts, chosen: tuple[Clue, ...], options: Sequence[tuple[Clue, float]]
) -> tuple[Clue, ...]:
    """Add to a bare word the row or the group that says which one is meant.

    One word of a control (*Yes*, *Delete*) is unique by luck: what the page shows next may have the
    same. Whoever reads it says of which dialog or row it is.
    """
    kind = kind_of(target)
    bare = len(chosen) == 1 and chosen[0].fact in SPOKEN and " " not in chosen[0].value
    if not bare or kind not in (*ACTING, *HOLDING):
        return chosen
    in_row = kind in ACTING and target.cells and not target.leads  # what a list holds is no row
    around = "row" if in_row else "section" if target.grouped else ""
    said = next((clue for clue, _cost in options if around and _is_around(clue, around)), None)
    return (*chosen, said) if said else chosen


def _is_around(clue: Clue, around: str) -> bool:
    return clue.fact == around or (around == "row" and clue.fact.startswith(CELL))


ACTING = frozenset(("button", "link", "tick box", "radio"))
"""Kinds of thing that act on their row, and are called alike in every one."""
HOLDING = frozenset(("text box", "choice list"))
"""Kinds of thing that hold a value; their label tells them from others of their row."""


def _changing(target: Facts, kind: str) -> frozenset[str]:
    """Return the facts that tell what a thing holds at the moment, not which one it is."""
    if kind in ("choice list", "text box", "slider"):
        return frozenset(("text", "own"))
    return frozenset(("row", "column")) if target.calendar else frozenset()


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
        if fact in avoid or fact in ("row", CLASS_WORD):
            continue
        value = target.get(fact)
        if fact == "frames" and target.frames:
            value = target.frames[-1]
        if not isinstance(value, str) or not value or "${" in value:
            continue  # what a page shows must never be taken for a name of ours
        if fact == "text" and (target.own or target.parts > 1):
            cost += 3.0  # it is made of what it holds, and changes with any of that
        if fact in AROUND and _tells_itself(target, value):
            continue
        if fact in ("id", "field name", "test id", "data-id", "data-key", "data-value"):
            cost += {"noise": 20.0, "counted": 9.0, "": 0.0}[how_made(value)]
            cost += GENERIC if fact == "test id" and value.lower() in _GENERIC_IDS else 0.0
        elif fact in NUMBERED and not target.calendar and any(map(str.isdigit, value)):
            pattern = pattern_of(value) if fact in SPOKEN | AROUND else ""
            if pattern:  # a text with figures in it is likely data, but its shape is not
                options.append((Clue(fact, "matches", pattern), cost + 0.5 + len(value) / LETTERS))
            cost += 3
        options.append((Clue(fact, "is", value), cost + len(value) / LETTERS))
    options += _class_options(target, others)
    options += _row_options(target, others, avoid)
    return sorted(options, key=lambda option: option[1])


GENERIC = 4.0
_GENERIC_IDS = frozenset(
    "button input text thumb icon label item row cell link menu list box wrapper content".split()
)
"""Test ids that say no more than what sort of thing something is."""


def _tells_itself(target: Facts, around: str) -> bool:
    """Tell whether what surrounds a node repeats what the node shows, and changes with it."""
    own = target.text or target.name
    return 0 < len(own) <= len(around) and own in around


def _class_options(target: Facts, others: Sequence[Facts]) -> list[tuple[Clue, float]]:
    """Offer the classes that say what the thing is, those that fewest others have first."""
    words = [word for word in target.attributes.get("class", "").split() if tells_what(word)]
    counts = {word: sum(word in facts.get(CLASS_WORD) for facts in others) for word in words}
    words.sort(key=lambda word: (counts[word], -len(word)))
    return [
        (Clue(CLASS_WORD, "is", word), NARROWING[CLASS_WORD] + place / 4)
        for place, word in enumerate(words[:2])
    ]


def is_plain(target: Facts) -> bool:
    """Tell whether a node has no words and no names: then all nodes of its kind are its rivals."""
    return not (
        target.name or target.text or target.label or any(target.get(fact) for fact in _NAMED_BY)
    )


_NAMED_BY = (
    "test id", "id", "field name", "hint text", "title", "alt", "href", "src", "aria-label",
    "data-date", "data-value", "data-key", "data-id",
)  # fmt: skip


def _row_options(
    target: Facts, others: Sequence[Facts], avoid: frozenset[str]
) -> list[tuple[Clue, float]]:
    """Offer the cells of the target's own row that no rival's row has.

    What people would say comes first: a name before a date before a number.
    """
    if "row" in avoid:
        return []
    heads = {cell: head for head, cell in reversed(list(target.cells.items())) if head}
    own = [
        cell
        for cell in dict.fromkeys(target.row)
        if cell and cell not in (target.text, target.label, target.name) and "${" not in cell
    ]
    taken = {cell for facts in others for cell in facts.row}
    alone = [cell for cell in own if cell not in taken] or own
    alone = sorted(alone, key=_unsayable)
    return [
        (
            Clue(f"{CELL}{heads[cell]}" if cell in heads else "row", "is", cell),
            NARROWING["row"] + place / 10,
        )
        for place, cell in enumerate(alone[:3])
    ]


def _unsayable(cell: str) -> int:
    """Return 0 for a name, 1 for one with figures in it, 2 for a date, 3 for a number."""
    if not any(map(str.isalpha, cell)):
        return 2 if _DATE.search(cell) else 3
    return int(any(map(str.isdigit, cell)))


_DATE = re.compile(r"\d{1,4}([-/.])\d{1,2}\1\d{1,4}")


def _cheapest(
    options: Sequence[tuple[Clue, float]], others: Sequence[Facts], base: frozenset[str]
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
            if any(clue.fact in base for clue, _cost in chosen)
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
