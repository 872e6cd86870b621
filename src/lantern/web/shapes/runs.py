"""Runs and results."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from lantern.web.shapes.base import Query, Shape
from lantern.web.shapes.proofs import FoundOut
from lantern.web.shapes.tests import RunBrief
from lantern.web.shapes.versions import StepChangeOut


class RunAsk(Shape):
    """Run a test: `rows` as core.data.choosing reads it; a `seed` makes up the same again.

    `version` runs the test as it was then, such as its baseline; each row is played in each of
    the `browsers` (names of the catalogue), unless the row names its own.
    """

    kind: Literal["try", "run"] = "run"
    rows: str = "all"
    environment: int | None = None
    seed: str = Field(default="", max_length=40)
    version: int | None = None
    browsers: list[str] = Field(default=[], max_length=20)


class RunsAsk(Query):
    """Which runs to list; `label` is one of the tests, `after` the `next` of the page before."""

    test: int | None = None
    state: str = ""
    kind: str = ""
    label: str = ""
    q: str = ""
    after: str = ""


class RunList(Shape):
    """A page of the runs, newest first; `next` leads to older ones, "" at the end."""

    runs: list[RunBrief]
    next: str


class CastOut(Shape):
    """One row in one browser; `kept`: its result columns; `failed_at`: the first failed sentence.

    `browser` as people name it, `version` what it was; `takings` counts how often a station took
    it: more than once where rows that were interrupted or failed are played again; `failures` how
    often it failed before. `hand` is who took it in hand.
    """

    id: int
    position: int
    number: int
    values: dict[str, str]
    kept: dict[str, str]
    outcome: str
    current: str
    current_step: str
    seconds: float | None
    failed_at: str
    message: str
    steps_done: int
    browser: str
    version: str
    station: str
    takings: int
    failures: int
    hand: str


class DefectLink(Shape):
    """A defect and the result in which it was seen; `known` where only what failed says so."""

    id: int
    title: str
    state: str
    result_id: int
    known: bool = False


class Suspects(Shape):
    """What may have made a step fail in some casts: changes since the baseline, likeliest first."""

    step: str
    casts: list[int]
    changes: list[StepChangeOut]


class RunOut(Shape):
    """A run with its casts; `kept` names the result columns, in the order of the test.

    `differs` are the sentences of the first green run after a recording that did something else
    than while recording; `suspects` are, by failed step, what was changed since the baseline and
    could be the cause. `waits_for` names the browsers that no station which is up offers. A run
    that is `pinned` is kept for good.
    """

    run: RunBrief
    message: str
    address: str
    seed: str
    columns: list[str]
    kept: list[str]
    steps: int
    casts: list[CastOut]
    defects: list[DefectLink]
    version: int
    baseline: int | None
    suspects: list[Suspects]
    differs: list[FoundOut]
    waits_for: list[str]
    pinned: bool


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


class PieceOut(Shape):
    """A piece of a text; `same` where the text beside it has it as well."""

    text: str
    same: bool


class TextDifferenceOut(Shape):
    """What was expected and found, in pieces; `told` is what it comes to, "" for nothing to say."""

    expected: list[PieceOut]
    found: list[PieceOut]
    told: str


class ThenOut(Shape):
    """What the page looked like at a sentence before: `run` 0 is when it was recorded."""

    run: int
    picture: str
    box: BoxOut | None


class ThenList(Shape):
    """The pictures of a sentence from before: of the last time it passed, and of the recording."""

    pictures: list[ThenOut]


class ResultOut(Shape):
    """How a step ended; times in seconds.

    `freed` says that its picture went by the rules of keeping. `within`: the flows and rounds it
    was played in, outermost first. `title` and `comment` are those that people gave the sentence,
    `thing` is what it acted on, `contrary` tells where that is not what they say. `difference` is
    there for a failed check of a text, `late` says what came after the limit, "" for nothing.
    """

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
    freed: bool
    box: BoxOut | None
    lookups: list[LookupOut]
    console: list[str]
    requests: list[str]
    files: list[FileKept]
    within: list[str]
    attempts: int
    title: str
    comment: str
    thing: str
    contrary: str
    difference: TextDifferenceOut | None
    late: str


class FileKept(Shape):
    """A file kept with a result, such as a download; `size` in bytes."""

    name: str
    size: int
    digest: str


class ResultsAsk(Query):
    """Results of which taking of a row: the last one where none is named."""

    taking: int | None = None


class ResultList(Shape):
    """The results of a row."""

    results: list[ResultOut]


class RunDelta(Shape):
    """What changed in a run: to be put in place of what was known of it.

    `results` are new ones of the `casts`, by cast. `again` tells that casts may have come to more
    than is told here, so that what is shown of them has to be read once more.
    """

    run: RunBrief
    message: str
    casts: list[CastOut]
    results: dict[int, list[ResultOut]]
    again: bool


class RunNotice(Shape):
    """A notice about a run with what changed in it, for those who follow it closely."""

    about: Literal["run"]
    id: int
    delta: RunDelta
