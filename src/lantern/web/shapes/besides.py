"""Two plays side by side."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from lantern.core.review.parting import What
from lantern.web.shapes.base import Shape


class SideOut(Shape):
    """A row as it was played in a run; `values` are those of the row."""

    cast: int
    run: int
    kind: str
    test: int | None
    test_name: str
    version: int
    number: int
    values: dict[str, str]
    browser: str
    environment: str
    release: str
    outcome: str
    at: datetime | None


class BeatOut(Shape):
    """A sentence as it was played: `used` in seconds, `picture` tells whether one is kept."""

    result: int
    sentence: str
    outcome: str
    used: float
    found: str
    expected: str
    message: str


class DifferingOut(Shape):
    """What differs: in `one` play, and in the `other`; of lists only what the other one lacks."""

    what: What
    one: list[str]
    other: list[str]


class PairOut(Shape):
    """A sentence in both plays, None where one has none; `parts` where they part there.

    `aside` counts texts that differ in nothing but what moves by itself.
    """

    one: BeatOut | None
    other: BeatOut | None
    differs: list[DifferingOut]
    aside: int
    parts: bool


class CastsBeside(Shape):
    """Two plays in pairs of sentences; `first` is the place (from 0) at which they part, if any."""

    one: SideOut
    other: SideOut
    pairs: list[PairOut]
    first: int | None


class PlaysBeside(Shape):
    """Plays that one may be held against, the likeliest first."""

    one: SideOut
    plays: list[SideOut]


class MaskIn(Shape):
    """A part of a result's picture: x, y, width and height as shares of it."""

    box: list[float] = Field(min_length=4, max_length=4)


class MaskOut(Shape):
    """A part of a picture that may differ."""

    id: int
    box: list[float]


class BesideOut(Shape):
    """Where two pictures differ, as shares of them; `share` of them is otherwise, 0 to 1.

    `learned` tells that what differs between plays that passed does not count.
    """

    one: str
    other: str
    places: list[list[float]]
    share: float
    masks: list[MaskOut]
    learned: bool


class TwoCasts(Shape):
    """Two rows by their numbers."""

    id: int
    other: int
