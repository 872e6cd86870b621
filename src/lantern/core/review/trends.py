"""What many runs say over time: how tests stand, how steady they are, what gets slower."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, tzinfo
from math import sqrt
from statistics import median
from typing import Literal

Standing = Literal["passing", "failing", "new", "fixed"]
Z = 1.959964
"""Standard deviations on either side of a normal distribution that hold 95 % of it."""
RECENT = 5
"""How many of the last times count as now,"""
FEWEST = 8
"""and how many there are at least before anything is said."""
MAD_TO_SD = 1.4826
"""Of a normal distribution the standard deviation is so many median absolute deviations."""
SURPRISING = 3.0
"""Standard deviations above what was usual from which something is slower,"""
SLOWER = 1.3
"""as well as how many times,"""
NOTABLE = 0.2
"""and by how many seconds at least: less hurts nobody."""
_OVER = ("passed", "failed")


@dataclass(frozen=True)
class Play:
    """A row that was played in a run on record: when, of which version, in what, how it ended.

    `row` tells rows of a test apart, `retried` that it failed first and was played again.
    """

    test: int
    run: int
    row: str
    browser: str
    version: int
    release: str
    outcome: str
    at: datetime
    retried: bool = False


@dataclass(frozen=True)
class Unsteady:
    """How often a test came out otherwise although nothing had changed.

    `of` plays could have told, in `times` of them it did; the true share lies between `low` and
    `high` with 95 % confidence.
    """

    times: int
    of: int
    low: float
    high: float

    @property
    def share(self) -> float:
        """The share of plays, 0 to 1."""
        return self.times / self.of if self.of else 0.0


def wilson(times: int, of: int) -> tuple[float, float]:
    """Return the interval, 0 to 1, in which a share lies with 95 % confidence.

    E. B. Wilson, "Probable inference, the law of succession, and statistical inference", Journal of
    the American Statistical Association 22 (1927).
    """
    if not of:
        return 0.0, 1.0
    share, z2 = times / of, Z * Z
    middle = (share + z2 / (2 * of)) / (1 + z2 / of)
    half = Z * sqrt(share * (1 - share) / of + z2 / (4 * of * of)) / (1 + z2 / of)
    return max(0.0, middle - half), min(1.0, middle + half)


def unsteadiness(plays: Iterable[Play]) -> Unsteady:
    """Return how unsteady a test is: told apart from failing, which is steady too.

    A play is unsteady that passed only when it was played again, or that ended otherwise than the
    one before of the same row, browser, version and release, and than the one after as well: one
    change for good is no unsteadiness.
    """
    groups: dict[tuple[object, ...], list[Play]] = defaultdict(list)
    for play in plays:
        if play.outcome in _OVER:
            groups[play.row, play.browser, play.version, play.release].append(play)
    times = of = 0
    for group in groups.values():
        group.sort(key=lambda one: one.at)
        outcomes = [one.outcome for one in group]
        for place, play in enumerate(group):
            of += 1
            before = outcomes[place - 1] if place else play.outcome
            after = outcomes[place + 1] if place + 1 < len(group) else play.outcome
            times += play.retried or (before != play.outcome and after != play.outcome)
    return Unsteady(times, of, *wilson(times, of))


@dataclass(frozen=True)
class Ran:
    """A run of a test: its worst outcome, and how many of its rows ended how."""

    run: int
    at: datetime
    outcome: str
    counts: Mapping[str, int]
    release: str


def runs_of(plays: Iterable[Play]) -> list[Ran]:
    """Return the runs of a test, oldest first."""
    groups: dict[int, list[Play]] = defaultdict(list)
    for play in plays:
        groups[play.run].append(play)
    found = []
    for run, group in groups.items():
        counts = Counter(_told(play) for play in group)
        worst = next((one for one in ("failed", "interrupted", "cancelled") if counts[one]), "")
        outcome = worst or ("unsteady" if counts["unsteady"] else "passed")
        found.append(Ran(run, min(one.at for one in group), outcome, counts, group[0].release))
    return sorted(found, key=lambda one: (one.at, one.run))


def _told(play: Play) -> str:
    return "unsteady" if play.retried and play.outcome == "passed" else play.outcome


def standing(runs: Sequence[Ran]) -> tuple[Standing, datetime | None]:
    """Return how a test stands, and since when it fails; see `runs_of`.

    "new" failed last and passed before, "fixed" the other way round. Runs that came to no end say
    nothing.
    """
    over = [one for one in runs if one.outcome in ("passed", "failed", "unsteady")]
    if not over:
        return "passing", None
    failed = [one.outcome == "failed" for one in over]
    if not failed[-1]:
        return ("fixed" if len(failed) > 1 and failed[-2] else "passing"), None
    streak = len(failed) - next(
        (place + 1 for place in reversed(range(len(failed))) if not failed[place]), 0
    )
    since = over[len(over) - streak].at
    return ("new" if streak == 1 and len(failed) > 1 else "failing"), since


def by_day(plays: Iterable[Play], zone: tzinfo) -> dict[date, Counter[str]]:
    """Return how many rows ended how on each day on which any did, in a time zone, oldest first."""
    days: dict[date, Counter[str]] = defaultdict(Counter)
    for play in plays:
        days[play.at.astimezone(zone).date()][_told(play)] += 1
    return dict(sorted(days.items()))


def split(plays: Iterable[Play], by: Callable[[Play], str]) -> dict[str, Counter[str]]:
    """Return how many rows ended how, by something of them, in the order of names."""
    found: dict[str, Counter[str]] = defaultdict(Counter)
    for play in plays:
        found[by(play)][_told(play)] += 1
    return dict(sorted(found.items()))


@dataclass(frozen=True)
class Pace:
    """How long a sentence takes now and took before, in seconds: medians; `slower` if it is."""

    now: float
    usual: float
    times: int
    slower: bool


def pace(seconds: Sequence[float]) -> Pace | None:
    """Return how long something takes, from its times in order; None for too few to tell.

    Medians are not moved by a slow Tuesday: half of the times would have to be slow.
    """
    if len(seconds) < FEWEST:
        return None
    before, now = seconds[:-RECENT], median(seconds[-RECENT:])
    usual = median(before)
    spread = MAD_TO_SD * median(abs(one - usual) for one in before)
    slower = now > max(usual + SURPRISING * spread, SLOWER * usual, usual + NOTABLE)
    return Pace(round(now, 3), round(usual, 3), len(seconds), slower)


def of_tests(plays: Iterable[Play]) -> Iterator[tuple[int, list[Play]]]:
    """Yield the plays of each test."""
    groups: dict[int, list[Play]] = defaultdict(list)
    for play in plays:
        groups[play.test].append(play)
    yield from groups.items()
