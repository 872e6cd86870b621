"""Trends: what many runs say over time."""

from __future__ import annotations

from datetime import date, datetime

from pydantic import Field

from lantern.core.review.trends import Standing
from lantern.web.shapes.base import Query, Shape


class TrendsAsk(Query):
    """How many days to look back, in which time zone days begin and end, of which test (0: all)."""

    days: int = Field(default=30, ge=1, le=400)
    zone: str = "UTC"
    test: int = 0


class DayOut(Shape):
    """How many rows ended how on a day."""

    day: date
    counts: dict[str, int]


class SplitOut(Shape):
    """How many rows ended how in one browser, or of one release or plan."""

    name: str
    counts: dict[str, int]


class CellOut(Shape):
    """A run of a test: how it ended, how many of its rows how."""

    run: int
    at: datetime
    outcome: str
    counts: dict[str, int]
    release: str


class UnsteadyOut(Shape):
    """How often a test came out otherwise though nothing had changed, of how many plays.

    The true share lies between `low` and `high` (0 to 1) with 95 % confidence.
    """

    times: int
    of: int
    share: float
    low: float
    high: float


class TestTrend(Shape):
    """A test over time: how it stands, since when it fails, its last runs, oldest first.

    `known` is the open defect that its last failure is known as, 0 for none.
    """

    test: int
    name: str
    standing: Standing
    since: datetime | None
    known: int
    plays: int
    failed: int
    unsteady: UnsteadyOut
    runs: list[CellOut]


class SlowOut(Shape):
    """A sentence that takes long, in seconds (medians); `slower` where it is by its own past."""

    test: int
    name: str
    sentence: str
    station: str
    now: float
    usual: float
    times: int
    slower: bool


class TrendsOut(Shape):
    """What the runs on record of some days say. `left_out` rows were too many to be looked at."""

    days: list[DayOut]
    browsers: list[SplitOut]
    releases: list[SplitOut]
    plans: list[SplitOut]
    tests: list[TestTrend]
    slow: list[SlowOut]
    left_out: int
