"""Tests, their sentences and rows."""

from __future__ import annotations

from datetime import datetime
from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field

from lantern.core.steps.edits import EDITS
from lantern.core.steps.model import InputKind, OnFailure, OnInterrupted, Pictures
from lantern.web.shapes.base import Query, Shape
from lantern.web.shapes.people import PersonNamed
from lantern.web.shapes.places import EnvironmentOut
from lantern.web.shapes.tables import RowChangeOut, RowOut, TakenColumn


class PartOut(Shape):
    """A piece of a sentence."""

    kind: Literal["words", "element", "value", "flow"]
    text: str
    input: str = ""
    said: str = ""
    """A made-up value in words; "" for what reads as it is."""


class ValueProblemOut(Shape):
    """What is wrong with a value; `near` are whole values to put there, the likeliest first."""

    input: str
    message: str
    hint: str
    near: list[str]


class StepOut(Shape):
    """A step with its sentence, and what is wrong with its values whatever the row."""

    id: str
    action: str
    element: str
    inputs: dict[str, str]
    enabled: bool
    limit: float | None
    on_failure: OnFailure | None
    page: str
    picture: str
    box: list[float] | None
    onto: str
    title: str
    comment: str
    idle: bool
    depth: int
    flow: str
    retries: int | None
    pictures: Pictures | None
    holds: HoldsOut
    sentence: str
    parts: list[PartOut]
    warning: str
    problems: list[ValueProblemOut]


class HoldsOut(Shape):
    """What holds for a step, and where each comes from; `limit` in seconds."""

    limit: float
    on_failure: str
    retries: int
    pictures: str
    limit_from: str
    on_failure_from: str
    retries_from: str
    pictures_from: str


class UseOut(Shape):
    """A place where a constant stands; `proposed` would name its column."""

    step: str
    input: str
    proposed: str
    sentence: str


class ConstantOut(Shape):
    """A value that is the same in every row, with its places."""

    value: str
    uses: list[UseOut]


class FlowInput(Shape):
    """An input of a flow."""

    name: str
    kind: InputKind
    default: str


class FlowBrief(Shape):
    """A flow, as sentences that call it need to know it."""

    id: str
    name: str
    takes: list[FlowInput]
    gives: list[str]
    in_python: bool


class SceneOut(Shape):
    """Consecutive steps on one page."""

    page: str
    steps: list[str]


class ClueOut(Shape):
    """A clue, with how it reads."""

    fact: str
    operator: str
    value: str
    sentence: str


class ElementOut(Shape):
    """An element that the test uses."""

    id: str
    name: str
    kind: str
    page: str
    clues: list[ClueOut]
    spare: list[ClueOut]
    options: list[str]


class SettingsOut(Shape):
    """What holds for every step that does not say otherwise; `limit` in seconds."""

    limit: float
    on_failure: OnFailure
    pictures: Pictures
    retries: int
    on_interrupted: OnInterrupted
    inherits: list[str]


class RunBrief(Shape):
    """A run in a list; `rows` counts rows by outcome, `plan_run` is the run of a plan it is of."""

    id: int
    kind: str
    state: str
    test_id: int | None
    test_name: str
    environment: str
    browser: str
    release: str
    author: str
    queued_at: datetime
    started_at: datetime | None
    ended_at: datetime | None
    plan_run: int | None
    rows: dict[str, int]


class TestBrief(Shape):
    """A test in a list."""

    id: int
    name: str
    environment: str
    steps: int
    rows: int
    labels: list[str]
    changed_at: datetime
    last_run: RunBrief | None


class TestsAsk(Query):
    """Which tests to list: `outcome` of their last run (several parted by commas), `q` in names.

    With `label` (several parted by commas) those that have all of them. `order` is changed, name
    or outcome; `after` the `next` of the page before.
    """

    q: str = ""
    outcome: str = ""
    label: str = ""
    order: str = "changed"
    after: str = ""


class TestList(Shape):
    """A page of the tests; `next` leads on, "" at the end.

    `outcomes` counts all tests by the outcome of their last run; only the first page tells.
    """

    tests: list[TestBrief]
    next: str
    outcomes: dict[str, int]


class LabelList(Shape):
    """The labels that tests have, each with how many tests have it."""

    labels: dict[str, int]


class SharedOut(Shape):
    """The shared table from which a test takes its rows."""

    id: int
    name: str


class TestOut(Shape):
    """A test, a flow or a shared table in full.

    `rows` is null where the request prefers a lean answer (`Prefer: return=lean`); the table can
    be asked for by itself, and has changed when `table_version` has. `shared` is the table that
    other tests may use as well, `names` are those that values can be taken from, by source.
    `owner` is who is told of it where a plan says so.
    """

    id: int
    kind: Literal["test", "flow", "table"]
    name: str
    version: int
    baseline: int | None
    owner: PersonNamed | None
    environment: EnvironmentOut
    steps: list[StepOut]
    scenes: list[SceneOut]
    elements: list[ElementOut]
    columns: list[str]
    rows: list[RowOut] | None
    row_count: int
    ticked: int
    table_version: int
    labels: list[str]
    needs: list[str]
    shared: SharedOut | None
    settings: SettingsOut
    design: dict[str, Any]
    constants: list[ConstantOut]
    flows: list[FlowBrief]
    takes: list[FlowInput]
    gives: list[str]
    names: dict[str, list[str]]
    code: str
    undo: str
    """What whoever asks would take back, in words; "" for nothing."""
    redo: str


class NewTest(Shape):
    """A test or a flow to be created."""

    name: str
    environment: int
    kind: Literal["test", "flow", "table"] = "test"
    in_python: bool = False


class TestChange(Shape):
    """Parts of a test to be changed that are not its document; `was` is the name it had."""

    name: str | None = None
    was: str | None = None
    environment: int | None = None
    owner: int | None = None


class CopyAsk(Shape):
    """Copy a test, with the steps up to and with `until`, or all."""

    name: str
    until: str | None = None


if TYPE_CHECKING:
    EditAsked = dict[str, Any]
else:  # made of what is declared with each edit: a new one needs no second entry here
    EditAsked = Annotated[
        reduce(or_, (edit.asked for edit in EDITS.values())), Field(discriminator="do")
    ]


class EditAsk(Shape):
    """An edit made on version `base`; what is sent again under its `key` is not done twice."""

    base: int
    edit: EditAsked
    key: str | None = Field(default=None, max_length=40)


class TravelAsk(Shape):
    """Undo or redo; `force` takes back with it what others built on it; `key` as for edits."""

    force: bool = False
    key: str | None = Field(default=None, max_length=40)


class RenameAsk(Shape):
    """A new name; `was` is the one it had: a conflict where somebody else gave another."""

    name: str = Field(min_length=1, max_length=120)
    was: str | None = None


class TakeInOut(Shape):
    """What is in a spreadsheet, its first rows, and what taking it in would change.

    `match` tells how rows are known to be the same, `proposed` what was proposed for that, `common`
    the columns that are in both tables. Of the changes a part is shown; `by_hand` counts those of
    rows that a person made or ticked, `expected` those that touch expected values.
    """

    sheets: list[str]
    sheet: str
    header: int
    columns: list[TakenColumn]
    rows: list[dict[str, str]]
    count: int
    added: int
    changed: int
    removed: int
    match: str
    proposed: str
    common: list[str]
    changes: list[RowChangeOut]
    by_hand: int
    expected: int
    test: TestOut | None = None
