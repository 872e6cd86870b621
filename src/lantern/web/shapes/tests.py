"""Tests, their sentences and rows."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from lantern.web.shapes.base import Shape
from lantern.web.shapes.places import EnvironmentOut


class PartOut(Shape):
    """A piece of a sentence."""

    kind: Literal["words", "element", "value", "flow"]
    text: str
    input: str = ""


class StepOut(Shape):
    """A step with its sentence."""

    id: str
    action: str
    element: str
    inputs: dict[str, str]
    enabled: bool
    limit: float | None
    on_failure: str | None
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
    holds: HoldsOut
    sentence: str
    parts: list[PartOut]
    warning: str


class HoldsOut(Shape):
    """What holds for a step, and where each comes from; `limit` in seconds."""

    limit: float
    on_failure: str
    retries: int
    limit_from: str
    on_failure_from: str
    retries_from: str


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
    kind: str
    default: str


class FlowBrief(Shape):
    """A flow, as sentences that call it need to know it."""

    id: str
    name: str
    takes: list[FlowInput]
    gives: list[str]


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


class RowOut(Shape):
    """A row of test data."""

    id: str
    values: dict[str, str]
    ticked: bool
    designed: bool


class SettingsOut(Shape):
    """What holds for every step that does not say otherwise; `limit` in seconds."""

    limit: float
    on_failure: str
    pictures: str
    retries: int


class RunBrief(Shape):
    """A run in a list; `rows` counts rows by outcome."""

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
    rows: dict[str, int]


class TestBrief(Shape):
    """A test in a list."""

    id: int
    name: str
    environment: str
    steps: int
    rows: int
    changed_at: datetime
    last_run: RunBrief | None


class TestList(Shape):
    """All tests."""

    tests: list[TestBrief]


class TestOut(Shape):
    """A test or a flow in full."""

    id: int
    kind: Literal["test", "flow"]
    name: str
    version: int
    baseline: int | None
    environment: EnvironmentOut
    steps: list[StepOut]
    scenes: list[SceneOut]
    elements: list[ElementOut]
    columns: list[str]
    rows: list[RowOut]
    settings: SettingsOut
    design: dict[str, Any]
    constants: list[ConstantOut]
    flows: list[FlowBrief]
    takes: list[FlowInput]
    gives: list[str]
    can_undo: bool
    can_redo: bool


class NewTest(Shape):
    """A test or a flow to be created."""

    name: str
    environment: int
    kind: Literal["test", "flow"] = "test"


class TestChange(Shape):
    """Parts of a test to be changed that are not its document."""

    name: str | None = None
    environment: int | None = None


class CopyAsk(Shape):
    """Copy a test, with the steps up to and with `until`, or all."""

    name: str
    until: str | None = None


class EditAsk(Shape):
    """An edit made on version `base`; see core.steps.edits for the edits."""

    base: int
    edit: dict[str, Any]


class TravelAsk(Shape):
    """Undo or redo from version `base`."""

    base: int


class CsvAsk(Shape):
    """Rows as CSV text, to replace the table of version `base`."""

    base: int
    text: str = Field(max_length=20_000_000)


class RenameAsk(Shape):
    """A new name."""

    name: str = Field(min_length=1, max_length=120)


class CellProblemOut(Shape):
    """What is wrong with a value; `row` from 1, 0 for all rows."""

    row: int
    column: str
    step: str
    message: str
    hint: str


class CheckAsk(BaseModel):
    """Which rows to check, as core.data.choosing reads it."""

    rows: str = "all"


class DataCheck(Shape):
    """What would fail for certain; `rows` were looked at."""

    rows: int
    problems: list[CellProblemOut]
    more: int
