"""Plans, what they come to, and their runs."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from lantern.core.plans.model import Known, OnFailure, OrderKind, Overlap, PickKind
from lantern.core.plans.telling import When, Whom
from lantern.web.shapes.base import Query, Shape
from lantern.web.shapes.places import Playing
from lantern.web.shapes.runs import CastOut


class PickShape(Shape):
    """Tests that a plan takes: see core.plans.model.Pick."""

    kind: PickKind = "test"
    test: int = 0
    words: str = Field(default="", max_length=200)
    rows: str = Field(default="all", max_length=500)


class CellShape(Shape):
    """A test in a browser that a plan leaves out."""

    test: int
    browser: str = Field(max_length=60)


class TellShape(Shape):
    """Whom a plan tells, and when: see core.plans.telling.Tell."""

    whom: Whom = "person"
    account: int = 0
    when: list[When] = Field(default=["failed"])


class PlanBody(Shape):
    """What a plan says: see core.plans.model.Plan."""

    picks: list[PickShape] = Field(default=[])
    browsers: list[str] = Field(default=[])
    left_out: list[CellShape] = Field(default=[])
    environments: list[int] = Field(default=[])
    order: OrderKind = "as listed"
    seed: str = Field(default="", max_length=40)
    at_once: int = 0
    on_failure: OnFailure = "go on"
    retries: int = 0
    before: str = ""
    after: str = ""
    before_row: str = ""
    after_row: str = ""
    minutes: int = 0
    weight: int = 1
    needs: list[str] = Field(default=[])
    overlap: Overlap = "wait"
    tells: list[TellShape] = Field(default=[])
    known: Known = "fails"


class NewPlan(Shape):
    """Make a plan."""

    name: str = Field(max_length=200)
    plan: PlanBody = PlanBody()


class PlanChange(Shape):
    """Change a plan, on the version `base` that was read."""

    base: int
    name: str | None = Field(default=None, max_length=200)
    plan: PlanBody


class PlanBack(Shape):
    """Make the version `number` the newest, on the version `base` that was read."""

    base: int
    number: int


class PlanRunBrief(Shape):
    """A run of a plan in lists; `casts` counts its casts by outcome."""

    id: int
    plan_id: int | None
    plan_name: str
    state: str
    message: str
    author: str
    cause: str
    again_of: int | None
    queued_at: datetime
    started_at: datetime | None
    ended_at: datetime | None
    casts: dict[str, int]


class PlanBrief(Shape):
    """A plan in a list, with its newest run; `picks` says in words what it takes."""

    id: int
    name: str
    picks: str
    browsers: list[str]
    changed_at: datetime
    last: PlanRunBrief | None


class PlansAsk(Query):
    """Which plans to list: `q` in names; `after` is the `next` of the page before."""

    q: str = ""
    after: str = ""


class PlanList(Shape):
    """A page of the plans by name; `next` leads on, "" at the end."""

    plans: list[PlanBrief]
    next: str


class TestChosen(Shape):
    """A test that a plan comes to; `seconds` is how long it usually takes in all its browsers."""

    id: int
    name: str
    environment: str
    rows: str
    seconds: float


class SpanOut(Shape):
    """Seconds: the least to be expected, the usual, the most."""

    least: float
    usual: float
    most: float


class OutlookOut(Shape):
    """What a plan comes to before it starts.

    `missing` names the browsers that no station offers, `stations` those that can play a part of
    it, `problems` what would fail for certain by test, `empty` the picks that lead to nothing.
    `trouble` is why it can not start, "" when it can; `lacks` what an engine can not do, by title.
    """

    tests: list[TestChosen]
    casts: int
    whole: SpanOut | None
    stations: list[str]
    missing: list[str]
    problems: dict[str, list[str]]
    lacks: dict[str, list[str]]
    empty: list[str]
    trouble: str


class PlanOut(Shape):
    """A plan in full; `names` are those of picked tests, `people` of who is told, by number."""

    id: int
    name: str
    version: int
    plan: PlanBody
    names: dict[int, str]
    people: dict[int, str]
    author: str
    changed_at: datetime


class PlanVersionOut(Shape):
    """A version of a plan."""

    number: int
    name: str
    summary: str
    author: str
    at: datetime


class PlanVersions(Shape):
    """The versions of a plan, newest first."""

    versions: list[PlanVersionOut]


class PlanRunAsk(Shape):
    """Start a run of a plan, in another environment or with another seed where they are given.

    `variables` stand in for those of the environment, by name, in this run alone.
    """

    environment: int | None = None
    seed: str = Field(default="", max_length=40)
    variables: dict[str, str] = Field(default={}, max_length=100)


class MatrixCell(Shape):
    """A test in a browser: its outcome as one, and how many casts have which."""

    browser: str
    outcome: str
    casts: dict[str, int]


class MatrixRow(Shape):
    """A test (or a flow around the plan) with its cells, in the order of the columns."""

    run: int
    test_id: int | None
    name: str
    environment: str
    phase: Literal["before", "main", "after"]
    state: str
    cells: list[MatrixCell]


class StationPlays(Shape):
    """What a station does for a run of a plan."""

    station: str
    places: int
    plays: list[Playing]


class CellChange(Shape):
    """How a cell went in the run before and in this one, "" where it was not part of one."""

    test: str
    browser: str
    before: str
    now: str


class PlanRunOut(Shape):
    """A run of a plan: the matrix of tests and browsers, what stations do, what is left.

    `expected` is how long it was to take, `left` how many seconds are usual from now on. `last` is
    the run of the plan before it, `changes` what went otherwise than then, once this is over.
    """

    run: PlanRunBrief
    version: int
    seed: str
    browsers: list[str]
    rows: list[MatrixRow]
    stations: list[StationPlays]
    waits_for: list[str]
    expected: SpanOut | None
    left: float | None
    deadline: datetime | None
    last: PlanRunBrief | None
    changes: list[CellChange]


class PlanRunsAsk(Query):
    """Which runs of plans to list: those of a `plan`; `after` is the `next` of the page before."""

    plan: int | None = None
    after: str = ""


class PlanRunList(Shape):
    """A page of the runs of plans, newest first."""

    runs: list[PlanRunBrief]
    next: str


class CellAsk(Query):
    """A cell of a run of a plan: one of its runs in a browser."""

    run: int
    browser: str


class CellCancel(Shape):
    """Stop all that is left of a cell."""

    run: int
    browser: str = Field(max_length=200)


class CellCasts(Shape):
    """The casts of a cell."""

    casts: list[CastOut]


class QueuedCast(Shape):
    """A cast that waits in the queue; `boost` is 1 or -1 where a lead moved it."""

    cast: int
    number: int
    browser: str
    run: int
    kind: str
    test: str
    plan_run: int | None
    plan: str
    share: int | None
    boost: int


class QueueOut(Shape):
    """What waits, in the order in which it is given out."""

    waiting: list[QueuedCast]


class QueueMove(Shape):
    """Let all of a share go first (1), last (-1) or as usual (0)."""

    boost: Literal[-1, 0, 1]
