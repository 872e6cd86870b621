"""Reports: how they are asked for, mailed, and ordered."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from lantern.store.reporting import MOST_DAYS, What
from lantern.web.shapes.base import Query, Shape
from lantern.web.shapes.schedules import ScheduleBody


class ReportAsk(Query):
    """How a report is made: by which template; trends of how many days, in which time zone."""

    template: str = "full"
    days: int = Field(default=30, ge=1, le=MOST_DAYS)
    zone: str = "UTC"


class ByIdAndForm(Shape):
    """Which run, and as which form."""

    id: int
    form: str


class ByForm(Shape):
    """As which form."""

    form: str


class Choice(Shape):
    """Something that can be chosen: its name, what it is called, and what there is to say of it."""

    name: str
    title: str
    told: str = ""
    of_trends: str = ""
    templated: bool = True


class ReportChoices(Shape):
    """What reports are given out as, and which templates there are."""

    forms: list[Choice]
    templates: list[Choice]


class ReportIn(Shape):
    """Which report: of which run (`key`), or of so many days."""

    what: What
    key: int = 0
    template: str = "short"
    form: str = "html"
    days: int = Field(default=30, ge=1, le=MOST_DAYS)
    zone: str = "UTC"


class MailReport(Shape):
    """A report to be mailed to people, with a word of whoever sends it."""

    report: ReportIn
    people: list[int] = Field(max_length=200)
    word: str = Field(default="", max_length=4000)


class ReportMailed(Shape):
    """To how many people a report goes, and to whom it can not, for want of an address."""

    mails: int
    without: list[str]


class OrderIn(Shape):
    """A report on order: of a plan's newest run, or of trends; `schedule` as for plans.

    To change one it is read as `version`.
    """

    name: str = Field(max_length=200)
    report: ReportIn
    plan: int | None = None
    people: list[int] = Field(max_length=200)
    schedule: ScheduleBody
    version: int | None = None


class OrderOut(Shape):
    """A report on order."""

    id: int
    name: str
    report: ReportIn
    plan: int | None
    plan_name: str
    people: list[int]
    names: list[str]
    schedule: ScheduleBody
    next_at: datetime | None
    version: int


class OrderList(Shape):
    """The reports on order, by name."""

    orders: list[OrderOut]
