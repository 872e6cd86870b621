"""Which act of a person is taken back next, and which is done again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Act:
    """Something that one person did; `undoes` is the act that it takes back, None for none.

    Taking back an act that takes one back does that one again.
    """

    id: int
    undoes: int | None = None


def next_undo(acts: Sequence[Act]) -> int | None:
    """Return the act to be taken back next, of one person's acts in the order of doing."""
    live = holding(acts)
    return next((one.id for one in reversed(acts) if one.undoes is None and one.id in live), None)


def next_redo(acts: Sequence[Act]) -> int | None:
    """Return the taking back that is to be taken back next; None once something new was done."""
    live = holding(acts)
    plain = {one.id for one in acts if one.undoes is None}
    for one in reversed(acts):
        if one.undoes is None:
            return None
        if one.undoes in plain and one.id in live:
            return one.id
    return None


def holding(acts: Sequence[Act]) -> set[int]:
    """Return the acts that hold: those that no act that holds itself takes back."""
    live: set[int] = set()
    taken: set[int] = set()
    for one in reversed(acts):  # what takes an act back comes after it
        if one.id in taken:
            continue
        live.add(one.id)
        if one.undoes is not None:
            taken.add(one.undoes)
    return live
