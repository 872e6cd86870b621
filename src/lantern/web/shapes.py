"""The shapes that the API takes and gives: the one source of the OpenAPI document."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field


class Shape(BaseModel):
    """All shapes refuse fields that they do not know."""

    model_config = ConfigDict(extra="forbid", from_attributes=True)


class Problem(Shape):
    """An error: what happened (`message`), to which thing (`where`), what to do (`hint`)."""

    code: str
    message: str
    where: str = ""
    hint: str = ""


class Done(Shape):
    """Nothing more to say than that it is done."""

    done: bool = True


class ById(BaseModel):
    """A path with a number."""

    id: int


class ByKey(BaseModel):
    """A path with a key."""

    key: str


# -- people ------------------------------------------------------------------------------------


class SignInAsk(Shape):
    """Who wants to sign in."""

    username: str = Field(max_length=200)
    password: str = Field(max_length=1000)


class Person(Shape):
    """An account."""

    id: int
    username: str
    name: str
    role: str


class Me(Shape):
    """Who is signed in; `csrf` goes into the header X-CSRF-Token of every change."""

    account: Person
    csrf: str


class NewPerson(Shape):
    """An account to be created."""

    username: str
    name: str = ""
    role: str = "tester"
    password: str


class People(Shape):
    """All accounts."""

    people: list[Person]


# -- the place -----------------------------------------------------------------------------------


class Health(Shape):
    """How Lantern is: `status` is "ok" when each part is."""

    status: Literal["ok", "starting", "broken"]
    version: str
    database: str
    stations: str
    sample_application: str


class InputOut(Shape):
    """A value that an action takes."""

    name: str
    kind: str
    choices: list[str]
    default: str
    optional: bool


class ActionOut(Shape):
    """An action of the catalogue; `kinds` is null for one without an element, empty for any."""

    name: str
    title: str
    template: str
    help: str
    inputs: list[InputOut]
    kinds: list[str] | None
    onto: bool


class Catalogue(Shape):
    """What steps, checks and defects can be made of."""

    actions: list[ActionOut]
    comparisons: list[str]
    properties: list[str]
    severities: list[str]
    defect_states: list[str]
    roles: list[str]


class EnvironmentOut(Shape):
    """An environment; of secrets only the names are ever shown."""

    id: int
    name: str
    address: str
    secrets: list[str]


class EnvironmentIn(Shape):
    """An environment to be created or changed."""

    name: str = Field(min_length=1, max_length=80)
    address: str = Field(min_length=1, max_length=500)


class Environments(Shape):
    """All environments."""

    environments: list[EnvironmentOut]


class SecretIn(Shape):
    """A secret to be kept."""

    name: str
    value: str


class StationOut(Shape):
    """A station that lives."""

    id: str
    name: str
    browser: str
    busy: int
    started_at: datetime
    beat_at: datetime


class Stations(Shape):
    """The stations that live."""

    stations: list[StationOut]


class Found(Shape):
    """A thing that a search found."""

    kind: Literal["test", "run", "defect", "element"]
    title: str
    detail: str
    link: str


class SearchAsk(BaseModel):
    """What to search for."""

    q: str = ""


class SearchOut(Shape):
    """What a search found, best first."""

    found: list[Found]


# -- tests ---------------------------------------------------------------------------------------


class PartOut(Shape):
    """A piece of a sentence."""

    kind: Literal["words", "element", "value"]
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
    sentence: str
    parts: list[PartOut]
    warning: str


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


class SettingsOut(Shape):
    """What holds for every step that does not say otherwise; `limit` in seconds."""

    limit: float
    on_failure: str
    pictures: str


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
    """A test in full."""

    id: int
    name: str
    version: int
    environment: EnvironmentOut
    steps: list[StepOut]
    scenes: list[SceneOut]
    elements: list[ElementOut]
    columns: list[str]
    rows: list[RowOut]
    settings: SettingsOut
    can_undo: bool
    can_redo: bool


class NewTest(Shape):
    """A test to be created."""

    name: str
    environment: int


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


# -- runs ----------------------------------------------------------------------------------------


class RunAsk(Shape):
    """Run a test: `rows` as core.data.choosing reads it."""

    kind: Literal["try", "run"] = "run"
    rows: str = "all"
    environment: int | None = None


class RunsAsk(BaseModel):
    """Which runs to list; `before` is the id to go on from."""

    test: int | None = None
    state: str = ""
    kind: str = ""
    q: str = ""
    before: int | None = None


class RunList(Shape):
    """Runs, newest first; `more` tells whether there are older ones."""

    runs: list[RunBrief]
    more: bool


class RunRowOut(Shape):
    """A row of a run; `failed_at` is the sentence that failed first."""

    id: int
    position: int
    number: int
    values: dict[str, str]
    outcome: str
    current: str
    seconds: float | None
    failed_at: str
    message: str
    steps_done: int


class DefectLink(Shape):
    """A defect seen in a result."""

    id: int
    title: str
    state: str
    result_id: int


class RunOut(Shape):
    """A run with its rows."""

    run: RunBrief
    message: str
    address: str
    station: str
    columns: list[str]
    steps: int
    rows: list[RunRowOut]
    defects: list[DefectLink]


class LookupClue(Shape):
    """A clue and how many nodes of the page satisfied it."""

    clue: str
    held_by: int


class LookupOut(Shape):
    """A lookup of an element."""

    element: str
    kind: str
    looked_at: int
    found: int
    clues: list[LookupClue]


class BoxOut(Shape):
    """A box in CSS pixels of the viewport."""

    x: float
    y: float
    width: float
    height: float


class ResultOut(Shape):
    """How a step ended; times in seconds."""

    id: int
    step_id: str
    position: int
    sentence: str
    outcome: str
    reason: str
    message: str
    hint: str
    expected: str
    found: str
    used: float
    limit: float
    picture: str
    box: BoxOut | None
    lookups: list[LookupOut]
    console: list[str]
    requests: list[str]
    files: list[FileKept]


class FileKept(Shape):
    """A file kept with a result, such as a download; `size` in bytes."""

    name: str
    size: int
    digest: str


class ResultList(Shape):
    """The results of a row."""

    results: list[ResultOut]


# -- defects -------------------------------------------------------------------------------------


class DefectBrief(Shape):
    """A defect in a list."""

    id: int
    title: str
    severity: str
    state: str
    environment: str
    release: str
    author: str
    created_at: datetime
    changed_at: datetime
    seen: int


class DefectList(Shape):
    """Defects, newest first."""

    defects: list[DefectBrief]


class DefectsAsk(BaseModel):
    """Which defects to list."""

    state: str = ""
    severity: str = ""
    q: str = ""


class DefectDraft(Shape):
    """A defect as proposed from a failed step; `same_as` lists defects for the same failure."""

    title: str
    severity: str
    steps: str
    expected: str
    found: str
    environment: str
    browser: str
    release: str
    picture: str
    same_as: list[DefectBrief]


class NewDefect(Shape):
    """A defect to be raised from a failed step."""

    result_id: int
    title: str = Field(min_length=1, max_length=300)
    severity: str
    steps: str
    expected: str
    found: str
    notes: str = ""


class SightingAsk(Shape):
    """The defect was seen in another result."""

    result_id: int


class SightingOut(Shape):
    """Where a defect was seen."""

    result_id: int
    run_id: int
    row_id: int
    row: int
    test_name: str
    sentence: str
    at: datetime


class DefectOut(Shape):
    """A defect in full."""

    defect: DefectBrief
    version: int
    steps: str
    expected: str
    found: str
    notes: str
    browser: str
    picture: str
    sightings: list[SightingOut]


class DefectChange(Shape):
    """Parts of a defect, read as `version`, to be changed."""

    version: int
    title: str | None = Field(default=None, min_length=1, max_length=300)
    severity: str | None = None
    state: str | None = None
    steps: str | None = None
    expected: str | None = None
    found: str | None = None
    notes: str | None = None
