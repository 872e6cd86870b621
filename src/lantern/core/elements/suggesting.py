"""Choosing the clues by which an element will be recognised.

The probe reports the facts of the node and of its *rivals*: all other nodes of the page that
share at least one identifying fact with it. A set of clues that holds an identifying fact can
only be satisfied by the node or its rivals, so whether it is unique is decided here, without
the page.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

from lantern.core.elements.clues import POSITION, Clue, matching
from lantern.core.elements.facts import Facts
from lantern.core.elements.generated import looks_generated
from lantern.core.elements.kinds import kind_of

IDENTIFYING = {
    "name": 1.0,
    "label": 1.0,
    "test id": 1.1,
    "alt": 1.5,
    "field name": 2.0,
    "hint text": 2.2,
    "text": 2.4,
    "title": 3.0,
    "id": 3.2,
    "aria-label": 3.4,
    "href": 4.0,
    "src": 5.0,
    "path": 9.0,
}
"""Facts that can tell one node from others, with what relying on each costs.

What people see and what is put there to stay is cheap; what a redesign changes is dear. The
figures order the choices, their size has no other meaning.
"""

NARROWING = {"row": 1.3, "section": 1.6, "type": 4.0}
"""Facts that only help beside an identifying one."""

POSITION_COST = 12.0
MOST_CLUES = 3


@dataclass(frozen=True)
class Suggestion:
    """The smallest good set of clues, and the other clues that held, kept for repair."""

    clues: tuple[Clue, ...]
    spare: tuple[Clue, ...]


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
    return Suggestion(chosen, spare)


def _options(
    target: Facts, others: Sequence[Facts], avoid: frozenset[str]
) -> list[tuple[Clue, float]]:
    options: list[tuple[Clue, float]] = []
    for fact, cost in (IDENTIFYING | NARROWING).items():
        if fact in avoid or fact == "row":
            continue
        value = target.get(fact)
        if not isinstance(value, str) or not value:
            continue
        if fact in ("id", "field name", "test id") and looks_generated(value):
            cost += 20
        elif fact in ("text", "name") and any(letter.isdigit() for letter in value):
            cost += 3  # a text with figures in it is likely data
        options.append((Clue(fact, "is", value), cost + len(value) / 200))
    options += _row_options(target, others, avoid)
    return sorted(options, key=lambda option: option[1])


def _row_options(
    target: Facts, others: Sequence[Facts], avoid: frozenset[str]
) -> list[tuple[Clue, float]]:
    """Offer the cells of the target's own row that no rival's row has, words before figures."""
    if "row" in avoid:
        return []
    own = [cell for cell in dict.fromkeys(target.row) if cell and cell != target.text]
    taken = {cell for facts in others for cell in facts.row}
    alone = [cell for cell in own if cell not in taken] or own
    alone = sorted(alone, key=lambda cell: (_is_figure(cell), any(map(str.isdigit, cell))))
    return [
        (Clue("row", "is", cell), NARROWING["row"] + place / 10)
        for place, cell in enumerate(alone[:3])
    ]


def _is_figure(text: str) -> bool:
    return not any(map(str.isalpha, text))


def _cheapest(
    options: Sequence[tuple[Clue, float]], others: Sequence[Facts]
) -> tuple[Clue, ...] | None:
    """Return the cheapest set that no rival satisfies; sets of rivals are bits of an integer."""
    holders = {
        clue: sum(1 << bit for bit, facts in enumerate(others) if clue.holds(facts))
        for clue, _cost in options
    }
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
            shared &= holders[clue]
        if not shared or not others:
            return tuple(clues)
    return None


def _with_position(
    target: Facts, others: Sequence[Facts], options: Sequence[tuple[Clue, float]]
) -> tuple[Clue, ...]:
    """Fall back on the cheapest clues plus the place among the nodes that satisfy them."""
    base = tuple(clue for clue, cost in options if cost < 20)[:2]
    found = matching(kind_of(target), base, [*others, target])
    place = next((n for n, facts in enumerate(found, 1) if facts is target), 1)
    return (*base, Clue(POSITION, "is", str(place)))


def propose_name(target: Facts) -> str:
    """Propose a name for the element from what people see of it, at most 60 characters."""
    kind = kind_of(target)
    seen = target.label or target.name
    if kind == "text":
        seen = target.label or target.section or target.text
    for fact in ("hint text", "title", "alt", "field name", "id"):
        seen = seen or str(target.get(fact))
    seen = seen.rstrip(" :*") or target.text
    return (seen[:57] + "…" if len(seen) > 60 else seen) or kind
