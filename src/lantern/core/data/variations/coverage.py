"""What rows cover, worked out from the rows and the constraints alone.

Nothing here is shared with the making of rows: constraints are tried out value by value.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import product

from lantern.core.data.variations.plans import Plan
from lantern.core.data.variations.rules import holds


@dataclass(frozen=True)
class Tuple:
    """A combination of values: `row` is the place of the first row that has it.

    `row` is None when no row has it; `forbidden` tells that the constraints allow none.
    """

    values: Mapping[str, str]
    row: int | None
    forbidden: bool


@dataclass(frozen=True)
class Coverage:
    """How many tuples there are, and each of them."""

    covered: int
    forbidden: int
    missing: int
    tuples: tuple[Tuple, ...]


def coverage(plan: Plan, rows: Sequence[Mapping[str, str]]) -> Coverage:
    """Return which allowed tuples of valid values the rows cover.

    A row with a value to be refused, and a row that breaks a constraint, covers nothing.
    """
    places = [_places(plan, row) for row in rows]
    usable = [
        (number, row)
        for number, row in enumerate(places)
        if row is not None and all(holds(rule.condition, row) for rule in plan.rules)
    ]
    tuples = []
    for chosen in plan.combinations():
        seen: dict[tuple[int, ...], int] = {}
        for number, row in usable:
            seen.setdefault(tuple(row[one] for one in chosen), number)
        for values in product(*(range(plan.inputs[one].valid) for one in chosen)):
            named = {
                plan.inputs[one].name: plan.inputs[one].values[value]
                for one, value in zip(chosen, values, strict=True)
            }
            row_number = seen.get(values)
            forbidden = row_number is None and not allowed(
                plan, dict(zip(chosen, values, strict=True))
            )
            tuples.append(Tuple(named, row_number, forbidden))
    covered = sum(one.row is not None for one in tuples)
    forbidden_count = sum(one.forbidden for one in tuples)
    return Coverage(
        covered, forbidden_count, len(tuples) - covered - forbidden_count, tuple(tuples)
    )


def _places(plan: Plan, row: Mapping[str, str]) -> list[int] | None:
    found = []
    for one in plan.inputs:
        valid = one.values[: one.valid]
        if row.get(one.name) not in valid:
            return None
        found.append(valid.index(row[one.name]))
    return found


def allowed(plan: Plan, fixed: Mapping[int, int]) -> bool:
    """Tell whether some row of valid values has the fixed ones and breaks no constraint."""
    row = [fixed.get(place, 0) for place in range(len(plan.inputs))]
    open_inputs = sorted(
        frozenset[int]().union(*(rule.inputs() for rule in plan.rules)) - frozenset(fixed)
    )

    def search(depth: int) -> bool:
        known = set(fixed) | set(open_inputs[:depth])
        for rule in plan.rules:
            its = rule.inputs()
            newest = depth == 0 or open_inputs[depth - 1] in its
            if newest and its <= known and not holds(rule.condition, row):
                return False
        if depth == len(open_inputs):
            return True
        place = open_inputs[depth]
        for value in range(plan.inputs[place].valid):
            row[place] = value
            if search(depth + 1):
                return True
        return False

    return search(0)
