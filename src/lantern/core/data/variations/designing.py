"""Designing rows for a plan: algebra where it fits, growth tried several times otherwise."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import product

import numpy as np

from lantern.core.data.variations.arrays import CONSTRUCTIONS, fewest
from lantern.core.data.variations.growing import Growth, Rows
from lantern.core.data.variations.plans import ALL, INVALID, WAYS, Plan
from lantern.core.data.variations.possible import OPEN, Possible
from lantern.core.problems import BadInput, UnknownName

WORK = 60_000_000
"""How much growing is done in all, in tuples times rows: about 3 s on one core."""
STEP = 300
"""What setting one value costs beside, in the same unit."""
MOST_TRIES = 300
MOST_ROWS = 20_000


@dataclass(frozen=True)
class Designed:
    """One row; `origin` is "kept", "designed" or "invalid" (one value is to be refused)."""

    values: dict[str, str]
    origin: str


def design(plan: Plan, how: str = "", seed: int = 1) -> list[Designed]:
    """Return rows that cover what the plan and `how` (a name of `WAYS`) ask for.

    Without `how` the plan's own strength holds. The same plan and seed give the same rows. Kept
    rows come first, rows with a value to be refused last. Raises BadInput when the constraints
    can not be satisfied, naming those that clash.
    """
    if how and how not in WAYS:
        raise UnknownName("way to combine", how, WAYS)
    random = np.random.default_rng(seed)
    possible = Possible([len(one.values) for one in plan.inputs], plan.rules)
    _check(plan, possible)
    if WAYS.get(how):
        plan = replace(plan, strength=min(WAYS[how], len(plan.inputs)))
    kept = np.array([plan.keeps(row) for row in plan.keep], np.int64)
    kept = kept.reshape(len(plan.keep), len(plan.inputs))
    if how == ALL:
        rows = _everything(plan, possible, kept)
    elif how == INVALID:
        rows = _filled(plan, possible, kept if len(kept) else _blank(plan))
    else:
        rows = _covering(plan, possible, kept, random)
    found = _named(plan, rows, "designed")
    found[: len(kept)] = [replace(one, origin="kept") for one in found[: len(kept)]]
    return found + _named(plan, _refused(plan, possible, rows), "invalid")


def _check(plan: Plan, possible: Possible) -> None:
    clash = possible.clash()
    if clash:
        *others, last = [f"“{text}”" for text in clash]
        told = f"{', '.join(others)} and {last} clash" if others else f"{last} can never hold"
        raise BadInput(
            f"No row satisfies all constraints: {told}.",
            where="constraints",
            hint="Change or leave out one of them.",
        )
    valid = [OPEN] * len(plan.inputs)
    for number, row in enumerate(plan.keep, 1):
        clash = possible.clash(plan.keeps(row))
        if clash:
            told = ", ".join(f"{name} = {value}" for name, value in row.items())
            raise BadInput(
                f"The kept row {number} ({told}) breaks “{clash[0]}”.",
                where="keep",
                hint="Change the row or the constraint.",
            )
    if not _complete(plan, possible, np.array(valid), None):
        raise BadInput(
            "No row of valid values satisfies all constraints.",
            where="constraints",
            hint="The constraints force a value that is marked as invalid.",
        )


def _blank(plan: Plan) -> Rows:
    return np.full((1, len(plan.inputs)), OPEN, np.int64)


def _everything(plan: Plan, possible: Possible, kept: Rows) -> Rows:
    total = 1
    for one in plan.inputs:
        total *= one.valid
    if total > MOST_ROWS:
        raise BadInput(
            f"All combinations are {total:,} rows; at most {MOST_ROWS:,} can be made.",
            hint="Choose pairs or triples.",
        )
    kept = _filled(plan, possible, kept)
    known = {tuple(row) for row in kept.tolist()}
    rows = [
        row
        for row in product(*(range(one.valid) for one in plan.inputs))
        if possible(row) and row not in known
    ]
    return np.array([*kept.tolist(), *rows], np.int64).reshape(-1, len(plan.inputs))


def _covering(plan: Plan, possible: Possible, kept: Rows, random: np.random.Generator) -> Rows:
    levels = [one.valid for one in plan.inputs]
    usual = (kept < np.array(levels)).all(1)  # a row with a value to be refused covers nothing
    asked = plan.combinations()
    best: Rows | None = None
    if not (plan.rules or plan.groups or len(kept)):
        for construct in CONSTRUCTIONS:
            made = construct(levels, plan.strength)
            if made is not None and (best is None or len(made) < len(best)):
                best = made
    order = sorted(range(len(levels)), key=lambda place: -levels[place])
    tries, number = 1, 0
    while number < tries and (best is None or len(best) > fewest(levels, plan.strength)):
        if number:
            order = sorted(random.permutation(len(levels)), key=lambda place: -levels[place])
        growth = Growth(levels, order, possible, random, kept[usual])
        rows = growth.grow(asked)
        if best is None or len(rows) < len(best):
            best = rows
        if not number:
            work = sum(np.prod([levels[one] for one in chosen]) for chosen in asked) * len(rows)
            step = STEP * (4 if plan.rules else 1)
            tries = int(min(max(WORK // (work + step * rows.size), 1), MOST_TRIES))
        number += 1
    if best is None:
        raise BadInput("There is nothing to combine.")
    fixed = kept.copy()
    fixed[usual] = best[: usual.sum()]
    rows = np.vstack([fixed, best[usual.sum() :]])
    return _filled(plan, possible, rows)


def _complete(plan: Plan, possible: Possible, wanted: Rows, used: list[Rows] | None) -> list[int]:
    """Return a row with its open places filled, the values used least first; [] if impossible."""
    row: list[int] = wanted.tolist()
    if not possible(row):
        return []
    for place, one in enumerate(plan.inputs):
        if row[place] != OPEN:
            continue
        counts = used[place][: one.valid] if used else np.zeros(one.valid)
        for value in np.argsort(counts, kind="stable").tolist():
            row[place] = value
            if possible(row):
                break
        else:
            return []
    return row


def _filled(plan: Plan, possible: Possible, rows: Rows) -> Rows:
    """Return rows without open places; each new one with what the ones before use least."""
    used = [np.zeros(len(one.values), np.int64) for one in plan.inputs]
    for place, counts in enumerate(used):
        np.add.at(counts, rows[rows[:, place] != OPEN, place], 1)
    found = []
    for row in rows:
        whole = _complete(plan, possible, row, used)
        if not whole:
            given = zip(plan.inputs, row.tolist(), strict=True)
            told = ", ".join(f"{one.name} = {one.values[at]}" for one, at in given if at != OPEN)
            raise BadInput(f"No valid values go with {told}.", where="keep")
        for place in np.flatnonzero(row == OPEN).tolist():
            used[place][whole[place]] += 1
        found.append(whole)
    return np.array(found, np.int64).reshape(-1, len(plan.inputs))


def _refused(plan: Plan, possible: Possible, rows: Rows) -> Rows:
    """Return a row for each value to be refused, all its other values valid."""
    seen = {(place, int(value)) for row in rows for place, value in enumerate(row)}
    found = []
    for place, one in enumerate(plan.inputs):
        for value in range(one.valid, len(one.values)):
            row = np.full(len(plan.inputs), OPEN, np.int64)
            row[place] = value
            if (place, value) not in seen and _complete(plan, possible, row, None):
                found.append(row)
    if not found:
        return np.empty((0, len(plan.inputs)), np.int64)
    return _filled(plan, possible, np.array(found, np.int64))


def _named(plan: Plan, rows: Rows, origin: str) -> list[Designed]:
    return [
        Designed(
            {one.name: one.values[value] for one, value in zip(plan.inputs, row, strict=True)},
            origin,
        )
        for row in rows.tolist()
    ]
