"""Defects."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from lantern.web.shapes.base import Query, Shape
from lantern.web.shapes.trackers import HandedOut


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
    version: int
    priority: str
    owner: str
    owner_id: int | None
    fixed_in: str
    handed: str


class DefectList(Shape):
    """A page of the defects; `next` leads on, "" at the end."""

    defects: list[DefectBrief]
    next: str


class DefectsAsk(Query):
    """Which defects to list: `order` is newest, changed, severity or priority, `owner` 0 for any.

    `state` may be several, with commas between.

    `after` is the `next` of the page before.
    """

    state: str = ""
    severity: str = ""
    q: str = ""
    order: str = "newest"
    after: str = ""
    owner: int = 0


class AlikeDefect(Shape):
    """A defect that a failure is likely to be: how likely (0 to 1), and why."""

    defect: DefectBrief
    share: float
    why: list[str]


class DefectDraft(Shape):
    """A defect as proposed from a failed step.

    `same_as` lists defects for the same failure, `alike` others that showed and said the same.
    """

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
    alike: list[AlikeDefect]


class FailureIn(Shape):
    """A failure on no record, as a rehearsal showed it; `before` are the sentences before."""

    test: int
    step: str
    sentence: str
    reason: str
    message: str
    expected: str
    found: str
    before: list[str] = Field(default_factory=list, max_length=2000)


class NewDefect(Shape):
    """A defect to be raised from a failed step on record, or else from a failure in a rehearsal.

    `also` are the other results that failed of the same cause: it was seen in them as well.
    """

    result_id: int | None = None
    failure: FailureIn | None = None
    also: list[int] = Field(default_factory=list, max_length=20_000)
    title: str = Field(min_length=1, max_length=300)
    severity: str
    steps: str
    expected: str
    found: str
    notes: str = ""


class SightingAsk(Shape):
    """The defect was seen in another result, and in those that failed of the same cause."""

    result_id: int
    also: list[int] = Field(default_factory=list, max_length=20_000)


class SightingOut(Shape):
    """Where a defect was seen."""

    result_id: int
    run_id: int
    cast_id: int
    row: int
    test_name: str
    sentence: str
    at: datetime


class DefectChangeOut(Shape):
    """Something that was changed of a defect; no `author` where seeing it again did it.

    `source` is the tracker at which it was changed, "" for here.
    """

    source: str
    what: str
    before: str
    after: str
    author: str
    at: datetime


class PassedOut(Shape):
    """A run on another release in which all passed in which a defect had been seen."""

    run: int
    release: str


class DefectFileOut(Shape):
    """A file that belongs to a defect."""

    name: str
    size: int
    digest: str
    picture: bool
    author: str
    at: datetime


class DefectOut(Shape):
    """A defect in full; with `passed` it asks to be closed.

    `handed` tells of outside trackers, `requirements` what the rows cover in which it was seen.
    """

    defect: DefectBrief
    version: int
    steps: str
    expected: str
    found: str
    notes: str
    browser: str
    picture: str
    sightings: list[SightingOut]
    history: list[DefectChangeOut]
    passed: PassedOut | None
    handed: list[HandedOut]
    requirements: list[str]
    files: list[DefectFileOut]


class RetestOut(Shape):
    """The runs that play the rows again in which a defect was seen."""

    runs: list[int]


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
    priority: str | None = None
    owner_id: int | None = None
    fixed_in: str | None = Field(default=None, max_length=200)


class FilterIn(Shape):
    """What one looks for again and again, as the parameters of a list."""

    view: str = Field(max_length=20)
    name: str = Field(max_length=200)
    body: dict[str, str]


class FilterOut(Shape):
    """A saved filter."""

    id: int
    name: str
    body: dict[str, str]


class FiltersAsk(Query):
    """Of which list."""

    view: str


class FilterList(Shape):
    """One's own filters of a list, by name."""

    filters: list[FilterOut]
