"""The report of trends."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence

from lantern.core.review.records import StandingRecord, TrendRecord
from lantern.core.review.reporting import parts as common
from lantern.core.review.reporting.blocks import (
    Block,
    Cell,
    Grid,
    Heading,
    Item,
    Listed,
    Report,
    Words,
)
from lantern.core.review.reporting.templates import Template


def of_trends(told: TrendRecord, parts: Template) -> Report:
    """Return the report of trends."""
    counts: Counter[str] = Counter()
    for _, some in told.by_day:
        counts.update(some)
    blocks: list[Block] = [*common.shares(counts), *_standing(told.tests)]
    if "days" in parts.parts:
        blocks += _days(told)
    blocks += _steadiness(told.tests)
    if "pace" in parts.parts:
        blocks += _pace(told)
    aside = f"The last {told.days} days, to {told.at:%Y-%m-%d %H:%M UTC}"
    return Report("Trends", aside, "", common.counted(counts, "row"), blocks)


STANDINGS = {
    "new": "Fails newly",
    "failing": "Still fails",
    "fixed": "Passes again",
}


def _standing(tests: Sequence[StandingRecord]) -> Iterator[Block]:
    for standing, words in STANDINGS.items():
        some = [one for one in tests if one.standing == standing]
        if some:
            yield Heading(words)
            yield Listed(
                [
                    Item(one.name, aside=f"since {one.since:%Y-%m-%d}" if one.since else "")
                    for one in some
                ]
            )


def _days(told: TrendRecord) -> Iterator[Block]:
    outcomes = list(dict.fromkeys(name for _, counts in told.by_day for name in counts))
    if outcomes:
        yield Heading("Rows by day")
        rows = [
            [Cell(day), *(Cell(str(counts.get(name, "") or "")) for name in outcomes)]
            for day, counts in told.by_day
        ]
        yield Grid(("Day", *outcomes), rows)


def _steadiness(tests: Sequence[StandingRecord]) -> Iterator[Block]:
    if not tests:
        yield Words("Nothing was played on record.")
        return
    yield Heading("Tests")
    rows = [
        [
            Cell(one.name),
            Cell(str(one.plays)),
            Cell(str(one.failed)),
            Cell(f"{one.unsteady:.1%} ({one.low:.1%} to {one.high:.1%})"),
        ]
        for one in tests
    ]
    yield Grid(("Test", "Rows", "Failed", "Unsteady, with 95 % confidence"), rows)


def _pace(told: TrendRecord) -> Iterator[Block]:
    if told.slow:
        yield Heading("Slowest sentences")
        rows = [
            [Cell(one.test), Cell(one.sentence), Cell(f"{one.now:.2f}"), Cell(f"{one.usual:.2f}"),
             Cell("slower" if one.slower else "")]
            for one in told.slow
        ]  # fmt: skip
        yield Grid(("Test", "Sentence", "Seconds", "Usually", ""), rows)
