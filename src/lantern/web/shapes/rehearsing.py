"""Shapes of breakpoints, of what is done about a failure, and of how rehearsals are."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import Field

from lantern.core.searching.looked import Act
from lantern.web.shapes.base import Query, Shape


class ConditionIn(Shape):
    """When a breakpoint stops; see core.rehearsing.breakpoints."""

    value: str = Field("", max_length=2000)
    comparison: str = "is"
    expected: str = Field("", max_length=2000)
    times: int = Field(1, ge=1, le=100_000)
    row: int = Field(0, ge=0, le=100_000)


class BreakpointIn(Shape):
    """A breakpoint at a sentence of the test or flow `place`; `only_in` one test's rehearsals."""

    place: int
    step: str = Field(max_length=32)
    only_in: int | None = None
    enabled: bool = True
    condition: ConditionIn = Field(default_factory=lambda: ConditionIn.model_validate({}))


class BreakpointOut(BreakpointIn):
    """A breakpoint with its sentence, its `number` in its story (0: gone), and its condition."""

    condition: ConditionIn
    name: str
    kind: str
    number: int
    sentence: str
    told: str
    only_in_name: str


class BreakpointList(Shape):
    """A person's breakpoints; `off` when none of them stops for the time being."""

    breakpoints: list[BreakpointOut]
    off: bool


class BreakpointsGone(Shape):
    """Sentences whose breakpoints are taken out."""

    place: int
    steps: list[str] = Field(max_length=500)


class BreakpointsOff(Shape):
    """Whether no breakpoint of a person stops for the time being."""

    off: bool


class MendAsk(Shape):
    """What is to be done about a failure of a sentence: an act of the search, and what it gave."""

    step: str = Field(max_length=32)
    act: Act
    given: dict[str, Any]
    key: str | None = Field(None, max_length=40)


class RehearsingOut(Shape):
    """Stages that a station keeps open, and seconds for which a failing row is offered."""

    stages: int
    offered: int


class AnswerOut(Shape):
    """An answer of the search otherwise; `boxes` are in CSS pixels of the saved page's window."""

    cause: str
    told: str
    share: float
    boxes: list[dict[str, float]]
    act: str
    label: str
    given: dict[str, Any]


class WhyOut(Shape):
    """The search on the page on which a sentence failed: `saved` is its number, 0 for none kept."""

    element: str
    name: str
    saved: int
    place: int
    answers: list[AnswerOut]


class ActsAsk(Query):
    """Which acts of oneself: those since a time."""

    since: datetime


class ActOut(Shape):
    """Something that one did; `back` when it was taken back since."""

    id: int
    place: int
    name: str
    summary: str
    at: datetime
    back: bool


class ActList(Shape):
    """What one did, in the order of doing."""

    acts: list[ActOut]
