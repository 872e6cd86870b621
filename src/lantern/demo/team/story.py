"""What happened in the sample project in sixty days: which plan ran when, and how the desk was.

All of it is counted in days before today, so that it has always just happened.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Literal

from lantern.demo.team.project import AHEAD, NIGHTLY, SMOKE

DAYS = 60
BROKEN = range(32, 39)
"""Days ago on which the desk ran a release that broke the price rule."""
WINDOW_LATE = frozenset({57, 52, 47, 43, 29, 26, 21, 19, 12, 9, 5, 3})
"""Days ago on which the window of a ticket opened late."""
SLOW_AFTER = 17
"""The first Tuesday within so many days was slow."""
NEW_ROW = 10
"""Days ago on which a row with a wrong price was added to the quotes."""
SATURDAYS_AHEAD = 28
"""For so many days the next release was tried on Saturdays."""
STEADY = ("spring", "spring again", "spring once more")
TUESDAY, SATURDAY = 1, 5
NIGHT, NOON, MORNING = time(2, 30), time(12, 0), time(4, 0)


@dataclass(frozen=True)
class Past:
    """A run of a plan: how many days ago, at what time (UTC), and in which mood the desk was."""

    plan: str
    ago: int
    at: datetime
    mood: str


def mood(day: date, ago: int) -> str:
    """Return how the desk was on a day that lies so many days ago."""
    if ago in BROKEN:
        return "autumn"
    if day.weekday() == TUESDAY and SLOW_AFTER - 7 < ago <= SLOW_AFTER:
        return "slow"
    return "ticket" if ago in WINDOW_LATE else STEADY[ago % len(STEADY)]


def sixty_days(today: date) -> Iterator[Past]:
    """Yield the runs of plans of the sixty days before today, oldest first."""
    for ago in range(DAYS, 0, -1):
        day = today - timedelta(days=ago)
        how = mood(day, ago)
        yield Past(NIGHTLY, ago, _at(day, NIGHT), how)
        if day.weekday() == SATURDAY and ago <= SATURDAYS_AHEAD:
            yield Past(AHEAD, ago, _at(day, MORNING), "summer")
        if day.weekday() < SATURDAY:
            yield Past(SMOKE, ago, _at(day, NOON), how)


def _at(day: date, at: time) -> datetime:
    return datetime.combine(day, at, UTC)


@dataclass(frozen=True)
class Said:
    """A comment: so many days ago, by whom, on what, and what; `looked` at the run as well.

    `on` is a defect's key, or the test whose run of that night is meant.
    """

    ago: int
    who: str
    on: str
    text: str
    looked: bool = False


Part = Literal["state", "owner", "priority", "fixed_in"]


@dataclass(frozen=True)
class Changed:
    """What somebody changed of a defect: so many days ago, from what to what."""

    ago: int
    who: str
    part: Part
    before: str
    after: str


@dataclass(frozen=True)
class Raised:
    """A defect: raised so many days ago from what failed of a test that night.

    It was seen whenever a result of that test failed on a day in `seen`; `number` is the row, 0
    for any.
    """

    key: str
    ago: int
    who: str
    test: str
    seen: range
    severity: str
    title: str
    changes: tuple[Changed, ...] = ()
    number: int = 0
    notes: str = ""
    handed: bool = False


DEFECTS = (
    Raised(
        "window", 52, "odo", "Ticket of a firing", range(1, 53), "minor",
        "The window of a ticket stays empty for seconds, now and then",
        (
            Changed(51, "wren", "owner", "", "Bram Tollard"),
            Changed(20, "bram", "state", "open", "in work"),
        ),
        notes="It happens about one night in five, and passes when it is tried again.",
        handed=True,
    ),
    Raised(
        "rush", 38, "odo", "Rush costs more", BROKEN, "critical",
        "The rush supplement is not in the price",
        (
            Changed(38, "wren", "priority", "normal", "urgent"),
            Changed(38, "wren", "owner", "", "Bram Tollard"),
            Changed(37, "bram", "state", "open", "in work"),
            Changed(32, "bram", "state", "in work", "fixed"),
            Changed(32, "bram", "fixed_in", "", "spring"),
            Changed(30, "wren", "state", "fixed", "closed"),
        ),
    ),
    Raised(
        "large", 38, "bram", "Large firings reach the board", BROKEN, "major",
        "A firing of more than 12 pieces is booked, and never reaches the board",
        (
            Changed(37, "wren", "owner", "", "Bram Tollard"),
            Changed(33, "bram", "state", "open", "fixed"),
            Changed(33, "bram", "fixed_in", "", "spring"),
        ),
    ),
    Raised(
        "silent", 37, "odo", "Delete a firing", BROKEN, "cosmetic",
        "Nothing says that a firing was deleted",
        (
            Changed(36, "wren", "priority", "normal", "low"),
            Changed(30, "odo", "state", "open", "closed"),
        ),
    ),
    Raised(
        "finial", 9, "odo", "Quotes by clay and cone", range(1, 11), "minor",
        "A roof finial costs € 7.30, not € 7.25",
        (Changed(8, "wren", "owner", "", "Odo Fennick"),),
        number=6,
    ),
)  # fmt: skip

COMMENTS = (
    Said(38, "wren", "Rush costs more", "Prices are wrong since last night. @odo, please raise "
         "it; @bram, can you ask the desk?", looked=True),
    Said(38, "odo", "rush", "All with *Rush* ticked, whatever the clay."),
    Said(37, "bram", "rush", "The desk says that the release of Monday dropped the supplement."),
    Said(30, "wren", "rush", "Passes again on spring. Closed; @odo, thank you."),
    Said(33, "bram", "large", "They took the release back. I would like one more green week."),
    Said(20, "bram", "window", "I counted: one night in five. It is the same without a browser, "
         "so it is the desk. @wren, shall we hand it over?"),
    Said(19, "wren", "window", "Yes, it is on the slate now."),
    Said(15, "bram", "Choose a kiln", "A slow Tuesday: everything took its time, see *Trends*.",
         looked=True),
    Said(9, "odo", "finial", "Cone 10 is 0.30 a litre: 0.30 × 9 × 3 less 10 % is 7.29, so 7.30."),
    Said(8, "wren", "finial", "Then the row is wrong, not the desk? @odo, please look."),
    Said(2, "wren", "Book a firing", "All green but what we know.", looked=True),
)  # fmt: skip
"""What was said, oldest first of each."""
