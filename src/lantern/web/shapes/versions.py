"""Versions of a test, and what differs between them."""

from __future__ import annotations

from datetime import datetime

from lantern.web.shapes.base import Query, Shape


class VersionOut(Shape):
    """A version: what was done, by whom and when."""

    number: int
    summary: str
    author: str
    at: datetime
    steps: int
    rows: int


class VersionList(Shape):
    """Versions, newest first; `more` tells whether there are older ones."""

    versions: list[VersionOut]
    more: bool
    baseline: int | None


class VersionsAsk(Query):
    """Which versions to list: those below `before`."""

    before: int | None = None


class StepChangeOut(Shape):
    """A sentence that differs, as it was and as it is; `parts` names what changed of it."""

    what: str
    step: str
    before: str
    after: str
    parts: list[str]


class CompareAsk(Query):
    """Two versions to compare."""

    before: int
    after: int


class DifferenceOut(Shape):
    """What differs between two versions."""

    steps: list[StepChangeOut]
    others: list[str]


class RestoreAsk(Shape):
    """An earlier version to go back to, from version `base`."""

    base: int
    version: int


class BaselineAsk(Shape):
    """The version that is the test's clean run; null for none."""

    version: int | None
