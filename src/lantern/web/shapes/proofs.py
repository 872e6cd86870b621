"""Shapes of what holding a play against its recording showed."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from lantern.web.shapes.base import Shape


class DiffersOut(Shape):
    """A difference, as it is said, and the line that can be set aside; "" where it is no line."""

    said: str
    line: str


class FoundOut(Shape):
    """A sentence that did something else than while recording, and how that shows.

    `place` is its number in the test, 0 when it is not there any more.
    """

    step: str
    place: int
    sentence: str
    told: list[DiffersOut]


class ProofOut(Shape):
    """What is known of a recording; `due` when it was not played since something was recorded.

    `compared` is how many sentences were held against the recording, `run` the run that did it.
    """

    recorded: int
    due: bool
    at: datetime | None
    run: int | None
    compared: int
    found: list[FoundOut]
    aside: list[str]


class AsideIn(Shape):
    """Lines that move by themselves: what only they make different is no difference."""

    lines: list[str] = Field(min_length=1, max_length=50)
