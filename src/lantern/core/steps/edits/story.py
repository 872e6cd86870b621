"""Edits of the story: sentences that come and change; see `placing` for where they stand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, NotRequired, Self

from typing_extensions import TypedDict

from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.edits.asked import FieldsAsked, StepAsked
from lantern.core.steps.edits.base import Edit, NewId, OfSteps, all_there, ids_in, with_fields
from lantern.core.steps.edits.placing import inserted
from lantern.core.steps.model import DEEPEST, Document, Step

_LOOKING = frozenset({"check", "wait until", "keep", "hover", "scroll"})
"""Actions that need their element shown, not ready for input."""
CHANGEABLE = frozenset(
    "inputs enabled limit on_failure element action page picture box onto title comment "
    "idle flow retries pictures".split()
)


class InsertAsked(TypedDict):
    """What `Insert` is read from."""

    do: Literal["insert"]
    steps: list[StepAsked]
    after: NotRequired[str | None]
    before: NotRequired[str]


@dataclass(frozen=True)
class Insert(Edit):
    """Put steps after the step `after`; None means at the end, "" at the start.

    Behind a block they go into it, at the end too; their own depths count from there. With
    `before` they go right before that step instead, into the same blocks.
    """

    do = "insert"
    asked = InsertAsked
    told = "sentences added"
    steps: tuple[Step, ...]
    after: str | None = None
    before: str = ""

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        steps = tuple(Step.read(step) for step in raw.get("steps") or ())
        after = None if raw.get("after") is None else str(raw["after"])
        return cls(steps, after, str(raw.get("before") or ""))

    def touches(self) -> frozenset[str]:
        """Return the step that they go behind, or before."""
        return frozenset(filter(None, (self.after, self.before)))

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the steps."""
        fresh = [step if step.id else replace(step, id=new_id()) for step in self.steps]
        if self.before:
            place = document.steps.index(document.step(self.before))
            depth = document.steps[place].depth
            fresh = [replace(step, depth=min(step.depth + depth, DEEPEST)) for step in fresh]
            steps = (*document.steps[:place], *fresh, *document.steps[place:])
            return replace(document, steps=steps)
        return inserted(document, fresh, self.after)


class ChangeAsked(TypedDict):
    """What `Change` is read from."""

    do: Literal["change"]
    step: str
    fields: FieldsAsked


@dataclass(frozen=True)
class Change(Edit):
    """Set parts of one step; `inputs` are merged, not replaced."""

    do = "change"
    asked = ChangeAsked
    told = "sentence changed"
    step: str
    fields: Mapping[str, Any]

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises UnknownName for a part that no sentence has."""
        fields = raw.get("fields") or {}
        for name in fields:
            if name not in CHANGEABLE:
                raise UnknownName("part of a sentence", str(name), CHANGEABLE)
        return cls(str(raw.get("step", "")), fields)

    def touches(self) -> frozenset[str]:
        """Return the step."""
        return frozenset({self.step})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the step changed."""
        return document.with_step(with_fields(document.step(self.step), self.fields))


class SwitchAsked(TypedDict):
    """What `Switch` is read from."""

    do: Literal["switch"]
    steps: list[str]
    on: bool


@dataclass(frozen=True)
class Switch(OfSteps):
    """Switch steps on or off."""

    do = "switch"
    asked = SwitchAsked
    told = "sentences switched"
    on: bool

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(ids_in(raw), bool(raw.get("on")))

    def touches(self) -> frozenset[str]:
        """Return nothing: others may change what a sentence says meanwhile."""
        return frozenset()

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the steps switched."""
        all_there(document, self.steps)
        for step_id in self.steps:
            document = document.with_step(replace(document.step(step_id), enabled=self.on))
        return document


class ToWaitAsked(TypedDict):
    """What `ToWait` is read from."""

    do: Literal["to wait"]
    step: str


@dataclass(frozen=True)
class ToWait(Edit):
    """Turn a pause into waiting for what the recording saw become ready meanwhile.

    `property` is what became so of `element` ("" for the one that the next sentence acts on);
    without a property, the wait is for what the next sentence needs.
    """

    do = "to wait"
    asked = ToWaitAsked
    told = "pause turned into a wait"
    step: str
    property: str = ""
    element: str = ""

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(str(raw.get("step", "")))

    def touches(self) -> frozenset[str]:
        """Return the step."""
        return frozenset({self.step})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with a wait."""
        pause = document.step(self.step)
        if pause.action != "pause":
            raise BadInput("Only a pause can be turned into a wait.", where=pause.id)
        following = step_after(document, pause.id)
        element = self.element or (following.element if following else "")
        if following is None or not element:
            wait = replace(pause, action="quiet", inputs={"milliseconds": "500"})
            return document.with_step(wait)
        prop = self.property or ("shown" if following.action in _LOOKING else "enabled")
        inputs = {"property": prop, "comparison": "is", "expected": "yes"}
        wait = replace(pause, action="wait until", element=element, inputs=inputs)
        return document.with_step(wait)


def step_after(document: Document, step_id: str) -> Step | None:
    """Return the next sentence behind a step that is not switched off."""
    rest = document.steps[document.steps.index(document.step(step_id)) + 1 :]
    return next((step for step in rest if step.enabled), None)


ENTRIES: tuple[type[Edit], ...] = (Insert, Change, Switch, ToWait)
