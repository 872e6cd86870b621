"""When a plan starts by itself: at a time, or again and again, in a time zone, with pauses.

Repeated times are cron expressions (five fields, as in crontab(5)). In the nights when clocks
change they are as cron has them: what falls into the gap comes right after it, and what a set clock
would bring twice comes once, unless it comes every hour or more often.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from itertools import islice
from typing import Any
from zoneinfo import ZoneInfo, available_timezones

from cronsim import CronSim, CronSimError

from lantern.core.problems import BadInput

MOST_PAUSES = 100
FAR = timedelta(days=366 * 5)
"""How far ahead a repeated time is looked for."""
LOOKED = 5000
"""How many times in pauses are passed over at most."""
LONGEST_CRON = 120


@dataclass(frozen=True)
class Pause:
    """Days on which nothing starts, both included."""

    first: date
    last: date

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Pause:
        """Build a pause from JSON; raises BadInput."""
        first = _day(raw.get("first"))
        last = _day(raw.get("last") or raw.get("first"))
        if last < first:
            raise BadInput("A pause ends after it begins.", where="pauses")
        return cls(first, last)


@dataclass(frozen=True)
class Schedule:
    """When a plan starts.

    Once, `at` a time, or again and again by `cron` in the time zone `zone` until the end of the day
    `until` (None for ever), but for the `pauses` and the single times in `skips`. `enabled` is
    False while it is switched off.
    """

    at: datetime | None = None
    cron: str = ""
    zone: str = "UTC"
    until: date | None = None
    pauses: tuple[Pause, ...] = ()
    skips: tuple[datetime, ...] = ()
    enabled: bool = True

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Schedule:
        """Build a schedule from JSON; raises BadInput with the part that is wrong."""
        zone = str(raw.get("zone") or "UTC")
        if zone not in available_timezones():
            raise BadInput(f"There is no time zone {zone!r}.", where="zone")
        cron = " ".join(str(raw.get("cron") or "").split())
        at = _time(raw.get("at"), zone) if raw.get("at") else None
        if bool(cron) == (at is not None):
            raise BadInput("Say a time, or when it repeats.", where="at")
        if cron:
            check_cron(cron)
        pauses = tuple(map(Pause.read, raw.get("pauses") or ()))
        if len(pauses) > MOST_PAUSES:
            raise BadInput(f"There are up to {MOST_PAUSES} pauses.", where="pauses")
        return cls(
            at=at,
            cron=cron,
            zone=zone,
            until=_day(raw["until"]) if raw.get("until") else None,
            pauses=pauses,
            skips=tuple(sorted({_time(one, zone) for one in raw.get("skips") or ()})),
            enabled=bool(raw.get("enabled", True)),
        )

    def as_json(self) -> dict[str, Any]:
        """Return the schedule as an object that `read` accepts."""
        return {
            "at": self.at.astimezone(ZoneInfo(self.zone)).isoformat() if self.at else None,
            "cron": self.cron,
            "zone": self.zone,
            "until": self.until.isoformat() if self.until else None,
            "pauses": [
                {"first": one.first.isoformat(), "last": one.last.isoformat()}
                for one in self.pauses
            ],
            "skips": [one.isoformat() for one in self.skips],
            "enabled": self.enabled,
        }

    def times(self, after: datetime) -> Iterator[datetime]:
        """Yield its times after a moment, in order, whether or not it is switched on."""
        if self.at is not None:
            if self.at > after:
                yield self.at
            return
        zone = ZoneInfo(self.zone)
        far = after + FAR
        passed = 0
        for at in CronSim(self.cron, after.astimezone(zone)):
            if at > far or (self.until and at.date() > self.until) or passed > LOOKED:
                return
            if self._pauses(at):
                passed += 1
            else:
                passed = 0
                yield at

    def _pauses(self, at: datetime) -> bool:
        day = at.date()
        return at in self.skips or any(one.first <= day <= one.last for one in self.pauses)

    def next(self, after: datetime) -> datetime | None:
        """Return its next time after a moment, None when there is none or it is switched off."""
        return next(self.times(after), None) if self.enabled else None

    def first(self, made: datetime) -> datetime | None:
        """Return its first time, of a schedule that was made at a moment.

        A single time that had passed by then counts: it was set to start at once.
        """
        if self.at is not None:
            return self.at if self.enabled else None
        return self.next(made)

    def some(self, after: datetime, count: int) -> list[datetime]:
        """Return its next times after a moment, `count` at the most."""
        return list(islice(self.times(after), count))

    def in_words(self) -> str:
        """Return when it starts, in words."""
        if self.at is not None:
            return f"once, on {self.at.astimezone(ZoneInfo(self.zone)):%Y-%m-%d at %H:%M}"
        said = CronSim(self.cron, datetime(2000, 1, 1, tzinfo=UTC)).explain()
        until = f", until {self.until.isoformat()}" if self.until else ""
        return f"{said[:1].lower()}{said[1:]}{until}"


def moved(schedule: Schedule, to: datetime) -> Schedule:
    """Return a schedule at another time: a single one there, a repeated one at that time of day.

    Raises BadInput for a repeated one that comes at several times of the day.
    """
    if schedule.at is not None:
        return replace(schedule, at=to)
    fields = schedule.cron.split()
    if not (fields[0].isdigit() and fields[1].isdigit()):
        raise BadInput(
            "It comes at several times of the day, so that all of them can not be moved at once.",
            where="cron",
            hint="Move this time alone, or change when it repeats.",
        )
    local = to.astimezone(ZoneInfo(schedule.zone))
    cron = " ".join([str(local.minute), str(local.hour), *fields[2:]])
    return replace(schedule, cron=cron)


def moved_once(schedule: Schedule, was: datetime, to: datetime) -> tuple[Schedule, Schedule]:
    """Return a repeated schedule without one of its times, and a single one at another time."""
    skips = tuple(sorted({*schedule.skips, was}))
    alone = Schedule(at=to, zone=schedule.zone, enabled=schedule.enabled)
    return replace(schedule, skips=skips), alone


def check_cron(cron: str) -> None:
    """Raise BadInput, with what to write, for what is no cron expression that ever comes."""
    hint = (
        "Five fields: minute, hour, day, month, day of the week; 0 3 * * 1-5 is 03:00 on workdays."
    )
    if len(cron) > LONGEST_CRON or len(cron.split()) != 5:
        raise BadInput(f"“{cron[:40]}” is no time that repeats.", where="cron", hint=hint)
    try:
        next(CronSim(cron, datetime(2000, 1, 1, tzinfo=UTC)), None)
    except CronSimError as error:
        raise BadInput(
            f"“{cron}” is no time that repeats: {error}.", where="cron", hint=hint
        ) from error


def _time(value: object, zone: str) -> datetime:
    """Return a time; one without an offset is in the time zone."""
    try:
        found = datetime.fromisoformat(str(value))
    except ValueError as error:
        raise BadInput(
            f"“{value}” is no time.", where="at", hint="Such as 2026-12-01T03:00."
        ) from error
    return found if found.tzinfo else found.replace(tzinfo=ZoneInfo(zone))


def _day(value: object) -> date:
    try:
        return date.fromisoformat(str(value))
    except ValueError as error:
        raise BadInput(f"“{value}” is no day.", where="day", hint="Such as 2026-12-24.") from error


@dataclass(frozen=True)
class Busy:
    """A run in the calendar: when it begins and ends, and how many places it takes."""

    key: str
    begin: datetime
    end: datetime
    places: int


def crowded(runs: list[Busy], places: int) -> set[str]:
    """Return the keys of those that overlap others so that all together take more than `places`."""
    found: set[str] = set()
    for one in runs:
        together = [other for other in runs if other.begin < one.end and one.begin < other.end]
        # More is taken at a time than there is only where some run begins.
        for start in together:
            at = max(start.begin, one.begin)
            there = [other for other in together if other.begin <= at < other.end]
            if len(there) > 1 and sum(other.places for other in there) > places:
                found |= {other.key for other in there}
    return found
