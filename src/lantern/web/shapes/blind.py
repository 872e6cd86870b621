"""Blind spots: what the checks of a test would not notice."""

from __future__ import annotations

from lantern.core.review.blind.changes import ChangeKind
from lantern.web.shapes.base import Shape


class OfferOut(Shape):
    """A check that would notice: of a node of a saved page, behind a sentence of the test.

    `adds` is how much would be noticed besides, as a share from 0 to 1.
    """

    page: int
    node: int
    after: str | None
    property: str
    expected: str
    sentence: str
    adds: float


class SpotOut(Shape):
    """Something that may change: what it says now and then, where it is, and who would notice.

    `where` says in which row and column it is, "" for in none; `box` is x, y, width and height as
    shares of the window; `by` the sentence that would notice, "" for none, `step` its id;
    `depends` tells that it follows the values of the row.
    """

    kind: ChangeKind
    name: str
    where: str
    before: str
    after: str
    weight: float
    depends: bool
    box: list[float]
    by: str
    step: str
    offer: OfferOut | None


class BlindPage(Shape):
    """A page at a moment: its title, the saved page, its picture, and what may change on it."""

    title: str
    page: int
    picture: str
    spots: list[SpotOut]


class CheckOut(Shape):
    """A sentence, and what is to be said of it."""

    step: str
    sentence: str
    why: str = ""


class BlindOut(Shape):
    """What a test would not notice: the share that it would, from 0 to 1, None while unknown.

    Told on the pages of a `run` that passed, 0 for none. `never` are checks that can not fail,
    `untried` sentences that do not hold on the saved pages; `left_out` how many changes of long
    pages were not tried.
    """

    run: int
    share: float | None
    pages: list[BlindPage]
    never: list[CheckOut]
    untried: list[CheckOut]
    left_out: int


class BlindTest(Shape):
    """The figures of a test: the share that it would notice, and how many spots are blind."""

    test: int
    name: str
    share: float | None
    blind: int
    never: int


class BlindList(Shape):
    """All tests, and the `share` of all; `left` are still to be looked at, by asking again."""

    tests: list[BlindTest]
    share: float | None
    left: int
