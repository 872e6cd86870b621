"""Edits of where sentences stand: moved, copied, deleted, put into blocks and out of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal, NotRequired, Self

from typing_extensions import TypedDict

from lantern.core.problems import BadInput
from lantern.core.steps.edits.asked import StepAsked
from lantern.core.steps.edits.base import Edit, NewId, OfSteps, all_there, ids_in
from lantern.core.steps.model import DEEPEST, Document, Step
from lantern.core.steps.tree import branch, is_open


class MoveAsked(TypedDict):
    """What `Move` is read from."""

    do: Literal["move"]
    steps: list[str]
    after: NotRequired[str]


@dataclass(frozen=True)
class Move(OfSteps):
    """Move steps, keeping their order, after the step `after` ("" means to the start).

    A block takes along what is inside it.
    """

    do = "move"
    asked = MoveAsked
    told = "sentences moved"
    after: str

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(ids_in(raw), str(raw.get("after") or ""))

    def touches(self) -> frozenset[str]:
        """Return the steps, and the one they go behind."""
        return frozenset({*self.steps, *([self.after] if self.after else [])})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the steps moved."""
        all_there(document, self.steps)
        moved = _with_inside(document, self.steps)
        if self.after in {step.id for step in moved}:
            raise BadInput("A sentence can not be moved behind itself.", where=self.after)
        rest = replace(document, steps=tuple(s for s in document.steps if s not in moved))
        return inserted(rest, _from_zero(moved), self.after)


class CopyAsked(TypedDict):
    """What `Copy` is read from."""

    do: Literal["copy"]
    steps: list[str]


@dataclass(frozen=True)
class Copy(OfSteps):
    """Copy steps, in their order, to right behind the last of them; blocks with what they hold."""

    do = "copy"
    asked = CopyAsked
    told = "sentences copied"

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the copies."""
        all_there(document, self.steps)
        chosen = _with_inside(document, self.steps)
        copies = [replace(step, id=new_id()) for step in chosen]
        place = document.steps.index(chosen[-1]) + 1
        return replace(document, steps=(*document.steps[:place], *copies, *document.steps[place:]))


class RemoveAsked(TypedDict):
    """What `Remove` is read from."""

    do: Literal["remove"]
    steps: list[str]


@dataclass(frozen=True)
class Remove(OfSteps):
    """Delete steps; what was inside a deleted block and is not deleted with it moves out of it."""

    do = "remove"
    asked = RemoveAsked
    told = "sentences deleted"

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document without the steps."""
        all_there(document, self.steps)
        out: dict[str, int] = {}
        for step_id in self.steps:
            for inner in branch(document.steps, step_id)[1:]:
                out[inner] = out.get(inner, 0) + 1
        kept = tuple(
            replace(step, depth=step.depth - out.get(step.id, 0))
            for step in document.steps
            if step.id not in self.steps
        )
        return replace(document, steps=kept)


class WrapAsked(TypedDict):
    """What `Wrap` is read from."""

    do: Literal["wrap"]
    steps: list[str]
    block: StepAsked


@dataclass(frozen=True)
class Wrap(OfSteps):
    """Put consecutive steps into a new block."""

    do = "wrap"
    asked = WrapAsked
    told = "sentences put into a block"
    block: Step

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput for a block into which nothing goes."""
        block = Step.read(raw.get("block") or {})
        if not is_open(block):
            raise BadInput(f"Nothing can be put into “{block.action}”.", where="block")
        return cls(ids_in(raw), block)

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the steps one deeper, below the block."""
        all_there(document, self.steps)
        inside = _with_inside(document, self.steps)
        together_from(document, inside)
        depth = min(step.depth for step in inside)
        block = replace(self.block, id=self.block.id or new_id(), depth=depth)
        deeper = [replace(step, depth=min(step.depth + 1, DEEPEST)) for step in inside]
        place = document.steps.index(inside[0])
        rest = document.steps[place + len(inside) :]
        return replace(document, steps=(*document.steps[:place], block, *deeper, *rest))


class ShiftAsked(TypedDict):
    """What `Shift` is read from."""

    do: Literal["shift"]
    steps: list[str]
    by: Literal[1, -1]


@dataclass(frozen=True)
class Shift(OfSteps):
    """Move steps into the block before them (`by` 1) or out of the block they are in (-1)."""

    do = "shift"
    asked = ShiftAsked
    told = "sentences moved in or out"
    by: int

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(ids_in(raw), 1 if int(raw.get("by") or 0) > 0 else -1)

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with other depths."""
        all_there(document, self.steps)
        meant = {step.id for step in _with_inside(document, self.steps)}
        steps = tuple(
            replace(step, depth=min(max(step.depth + self.by, 0), DEEPEST))
            if step.id in meant
            else step
            for step in document.steps
        )
        return replace(document, steps=steps)


def inserted(document: Document, steps: Sequence[Step], after: str | None) -> Document:
    """Return the document with steps behind `after`, as deep as that asks for."""
    known = {step.id for step in document.steps}
    for step in steps:
        if step.id in known:
            raise BadInput("A sentence with that id is already in the test.", where=step.id)
    place, depth = len(document.steps), 0
    if after is None and document.steps and is_open(document.steps[-1]):
        after = document.steps[-1].id  # nothing was put into that block yet: what comes goes there
    if after == "":
        place = 0
    elif after is not None:
        before = document.step(after)
        place = document.steps.index(before) + 1
        depth = before.depth + is_open(before)
    fresh = [replace(step, depth=min(step.depth + depth, DEEPEST)) for step in steps]
    return replace(document, steps=(*document.steps[:place], *fresh, *document.steps[place:]))


def together_from(document: Document, steps: Sequence[Step]) -> int:
    """Return where steps that stand together begin; raises BadInput when others are between."""
    place = document.steps.index(steps[0])
    if list(document.steps[place : place + len(steps)]) != list(steps):
        raise BadInput("Choose sentences that stand together.", where=steps[-1].id)
    return place


def _with_inside(document: Document, ids: Sequence[str]) -> list[Step]:
    meant = {inner for step_id in ids for inner in branch(document.steps, step_id)}
    return [step for step in document.steps if step.id in meant]


def _from_zero(steps: Sequence[Step]) -> list[Step]:
    least = min(step.depth for step in steps)
    return [replace(step, depth=step.depth - least) for step in steps]


ENTRIES: tuple[type[Edit], ...] = (Move, Copy, Remove, Wrap, Shift)
