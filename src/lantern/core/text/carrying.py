"""Carrying over what a text leaves out, from the document that it was written from.

Steps and rows have ids, steps were recorded with pictures: those that are still the same keep them.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import replace
from difflib import SequenceMatcher
from functools import partial
from typing import TypeVar

from lantern.core.data.table import Row
from lantern.core.steps.model import Document, Step

T = TypeVar("T", Step, Row)
NewId = Callable[[], str]


def carried_over(before: Document, after: Document, new_id: NewId) -> Document:
    """Return `after` with ids and pictures of the steps and rows of `before` that it still has."""
    steps = tuple(
        _recorded(old, step) if old else replace(step, id=new_id())
        for old, step in _pairs(before.steps, after.steps, _likeness_of_step)
    )
    by_first = partial(_likeness_of_row, column=next(iter(after.columns), ""))
    rows = tuple(
        replace(row, id=old.id) if old else replace(row, id=new_id())
        for old, row in _pairs(before.rows, after.rows, by_first)
    )
    return replace(after, steps=steps, rows=rows)


def _recorded(old: Step, step: Step) -> Step:
    """Return a step with what was recorded of it; what shows another element goes."""
    kept = replace(step, id=old.id, idle=old.idle)
    if old.element == step.element and old.action == step.action:
        kept = replace(kept, picture=old.picture, box=old.box)
    return kept


def _likeness_of_step(step: Step) -> tuple[Hashable, Hashable]:
    whole = tuple(sorted(step.inputs.items()))
    return (step.action, step.element, step.flow, whole, step.title), (step.action, step.element)


def _likeness_of_row(row: Row, column: str) -> tuple[Hashable, Hashable]:
    return tuple(sorted(row.values.items())), row.values.get(column, "")


def _pairs(
    before: Sequence[T], after: Sequence[T], likeness: Callable[[T], tuple[Hashable, Hashable]]
) -> list[tuple[T | None, T]]:
    """Pair what is the same, then, between those, what is partly the same and in the same order."""
    found: dict[int, T] = {}
    for exact in (0, 1):
        taken = {id(one) for one in found.values()}
        old = [one for one in before if id(one) not in taken]
        new = [(place, one) for place, one in enumerate(after) if place not in found]
        matcher = SequenceMatcher(
            None,
            [likeness(one)[exact] for one in old],
            [likeness(one)[exact] for _, one in new],
            autojunk=False,
        )
        for match in matcher.get_matching_blocks():
            for n in range(match.size):
                found[new[match.b + n][0]] = old[match.a + n]
    return [(found.get(place), one) for place, one in enumerate(after)]
