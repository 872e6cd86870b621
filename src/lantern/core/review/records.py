"""A run as the exports see it: plain data, no database."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from datetime import datetime
from typing import Any


@dataclass(frozen=True)
class StepRecord:
    """A step of a row; `picture` holds the bytes of a JPEG, times are in seconds.

    `step` is the id of the sentence, of the test's own or of a flow's; `title` and `comment` are
    those that people gave it, `contrary` tells where it acted on something else than they say.
    """

    sentence: str
    outcome: str
    used: float
    limit: float
    reason: str = ""
    message: str = ""
    hint: str = ""
    expected: str = ""
    found: str = ""
    console: Sequence[str] = ()
    requests: Sequence[str] = ()
    picture: bytes = field(default=b"", repr=False)
    then: bytes = field(default=b"", repr=False)
    """What the page looked like here when it passed last, or was recorded, b"" for unknown."""
    step: str = ""
    title: str = ""
    comment: str = ""
    contrary: str = ""


@dataclass(frozen=True)
class RowRecord:
    """A row of a run; `kept` is what it kept of the application, by name.

    `browser` is what it was played in where the run was in several, else ""; `message` says why
    it was interrupted.
    """

    number: int
    values: Mapping[str, str]
    outcome: str
    seconds: float
    steps: Sequence[StepRecord]
    kept: Mapping[str, str] = field(default_factory=dict)
    browser: str = ""
    message: str = ""
    started_at: datetime | None = None
    ended_at: datetime | None = None


@dataclass(frozen=True)
class CauseRecord:
    """Failures of one cause: whose fault it is, the `share` of that (0 to 1), why, and how many.

    `author` is the person who said so, "" for Lantern; `word` is why they did.
    """

    kind: str
    share: float
    count: int
    sentence: str
    reason: str
    author: str = ""
    word: str = ""


@dataclass(frozen=True)
class CommentRecord:
    """What a person said: of what (a run, a row, a sentence), whether they looked at the run."""

    author: str
    text: str
    at: datetime
    of: str
    looked: bool = False


@dataclass(frozen=True)
class ChangeRecord:
    """What a test came to against the time before: fails newly, still fails, passes again."""

    test: str
    what: str
    outcome: str


@dataclass(frozen=True)
class DefectRecord:
    """A defect that was seen; `handed` is what outside trackers call it."""

    number: int
    title: str
    state: str
    severity: str
    owner: str
    handed: str


@dataclass(frozen=True)
class RunRecord:
    """A run; `sentences` are the ids of the test's own sentences."""

    id: int
    test: str
    state: str
    environment: str
    address: str
    browser: str
    release: str
    started_at: datetime | None
    seconds: float
    rows: Sequence[RowRecord]
    message: str = ""
    seed: str = ""
    sentences: Sequence[str] = ()
    causes: Sequence[CauseRecord] = ()
    comments: Sequence[CommentRecord] = ()
    changes: Sequence[ChangeRecord] = ()
    defects: Sequence[DefectRecord] = ()


@dataclass(frozen=True)
class MatrixLine:
    """A line of the matrix: a test with its outcome in each browser, "" where it was not played."""

    name: str
    environment: str
    outcomes: list[str]


@dataclass(frozen=True)
class PlanRecord:
    """A run of a plan with all its runs; `counts` are its casts by outcome."""

    id: int
    name: str
    state: str
    message: str
    seed: str
    started_at: datetime | None
    seconds: float
    counts: dict[str, int]
    browsers: list[str]
    matrix: list[MatrixLine]
    runs: list[RunRecord]
    causes: Sequence[CauseRecord] = ()
    changes: Sequence[ChangeRecord] = ()
    defects: Sequence[DefectRecord] = ()


@dataclass(frozen=True)
class StandingRecord:
    """How a test stands over some days: its rows, how many failed, how unsteady it is (0 to 1)."""

    name: str
    standing: str
    since: datetime | None
    plays: int
    failed: int
    unsteady: float
    low: float
    high: float


@dataclass(frozen=True)
class SlowRecord:
    """A sentence that takes long, in seconds now and usually, and whether it got slower."""

    test: str
    sentence: str
    now: float
    usual: float
    slower: bool


@dataclass(frozen=True)
class TrendRecord:
    """What the runs on record of the last `days` days say; `by_day` are rows by outcome."""

    days: int
    at: datetime
    by_day: Sequence[tuple[str, Mapping[str, int]]]
    tests: Sequence[StandingRecord]
    slow: Sequence[SlowRecord]


Told = RunRecord | PlanRecord | TrendRecord
"""What a report can be of."""


def plain(record: Told) -> dict[str, Any]:
    """Return a record as data for JSON: its facts, rows and steps, without pictures."""

    def told(value: Any) -> Any:  # noqa: ANN401 - whatever a record holds
        if isinstance(value, datetime):
            return value.isoformat()
        if isinstance(value, dict):
            return {name: told(one) for name, one in value.items() if not isinstance(one, bytes)}
        return [told(one) for one in value] if isinstance(value, list | tuple) else value

    found: dict[str, Any] = told(asdict(record))
    return found
