"""Schedules of plans, and the calendar."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from pydantic import Field

from lantern.web.shapes.base import Query, Shape


class PauseShape(Shape):
    """Days on which nothing starts, both included."""

    first: date
    last: date


class ScheduleBody(Shape):
    """When a plan starts (core.plans.schedule.Schedule); times without an offset are in `zone`."""

    at: str | None = Field(default=None, max_length=40)
    cron: str = Field(default="", max_length=200)
    zone: str = Field(default="UTC", max_length=60)
    until: date | None = None
    pauses: list[PauseShape] = Field(default=[], max_length=200)
    skips: list[str] = Field(default=[], max_length=2000)
    enabled: bool = True


class ScheduleChange(Shape):
    """Give a schedule other times, on the version `base` that was read."""

    base: int
    schedule: ScheduleBody


class SchedulePreview(Shape):
    """What a schedule comes to: in words, its next times; `trouble` is what is wrong with it."""

    words: str
    next: list[datetime]
    trouble: str
    hint: str


class ScheduleOut(Shape):
    """A schedule: `last` is when its time came last, `trouble` why nothing was started then."""

    id: int
    plan_id: int
    version: int
    schedule: ScheduleBody
    words: str
    next: list[datetime]
    last: datetime | None
    last_run: int | None
    trouble: str


class ScheduleList(Shape):
    """The schedules of a plan."""

    schedules: list[ScheduleOut]


class CalendarAsk(Query):
    """From when to when the calendar is shown, with offsets."""

    begin: datetime
    end: datetime


class CalendarEntry(Shape):
    """Something in the calendar: a run that was or is, one that will be, or one that was missed.

    `end` of what is to come is told from how long the plan took before. `crowded`: together with
    what overlaps it, it takes more than the places of the stations.
    """

    kind: Literal["run", "planned", "missed"]
    plan_id: int | None
    plan: str
    run: int | None
    schedule: int | None
    repeats: bool
    begin: datetime
    end: datetime
    state: str
    why: str
    crowded: bool


class Calendar(Shape):
    """What is in the calendar, in the order of time; `places` are those of all stations."""

    entries: list[CalendarEntry]
    places: int


class ScheduleMove(Shape):
    """Move the time `was` of a schedule to `to`, or every one of a repeated one."""

    was: datetime
    to: datetime
    every: bool = False
