"""Visits: known pages opened once more, and what would not be found on them."""

from __future__ import annotations

from datetime import datetime

from lantern.web.shapes.base import Shape


class VisitAsk(Shape):
    """In which environment the known pages are visited."""

    environment: int


class VisitBrief(Shape):
    """A visit: of how many pages, and how the run stands that makes it."""

    id: int
    run: int
    state: str
    environment: str
    pages: int
    author: str
    at: datetime


class VisitList(Shape):
    """The newest visits, how many pages a new one would open, and by which flow it signs in."""

    visits: list[VisitBrief]
    known: int
    signs_in: str


class MetOut(Shape):
    """An element on a visited page: what its clues find, and what it could be where it is lost.

    `likely` names the node that it could be, `score` (0 to 1) how likely that is.
    """

    element: str
    name: str
    word: str
    count: int
    lost: bool
    likely: str
    score: float


class VisitedPage(Shape):
    """A page that was visited; `reached` is False where it did not come, or led elsewhere."""

    page: str
    address: str
    title: str
    saved: int
    reached: bool
    known: bool
    changed: bool
    met: list[MetOut]
    new: list[str]
    gone: list[str]


class VisitOut(Shape):
    """A visit with its pages: those with something lost first."""

    visit: VisitBrief
    pages: list[VisitedPage]
