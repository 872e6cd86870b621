"""Verdicts: whose fault what failed is."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from lantern.core.review.verdicts import Act, Kind, Verdict
from lantern.web.shapes.base import Shape


class SignOut(Shape):
    """What speaks for a kind of fault, or against it where the weight is below 0."""

    kind: Kind
    weight: float
    told: str


class SaidOut(Shape):
    """What a person says that a failure is, beside what Lantern had said."""

    id: int
    kind: Kind
    verdict: Verdict
    word: str
    author: str
    at: datetime


class VerdictOut(Shape):
    """Whose fault a failure is: shares by kind from 0 to 1, what they are made of, what to do next.

    `given` is for the act: the `column` of a value. `green` is the run that it was held against,
    0 for none, `changed` what is other since then; `wants` says what would make it clear, `said`
    what a person says.
    """

    verdict: Verdict
    shares: dict[Kind, float]
    signs: list[SignOut]
    act: Act
    given: dict[str, str]
    wants: str
    green: int
    changed: list[str]
    said: SaidOut | None


class FailureOut(Shape):
    """A failure among those of one cause.

    `place` is that of its sentence in the test, from 1; 0 for one of a flow.
    """

    result: int
    cast: int
    run: int
    test: int | None
    test_name: str
    number: int
    browser: str
    place: int


class CauseOut(Shape):
    """Failures of one cause: the verdict is that of the one that shows it best, the first.

    `count` is how many they are; `failures` names the first of them.
    """

    fingerprint: str
    kind: Verdict
    verdict: VerdictOut
    sentence: str
    message: str
    picture: str
    count: int
    failures: list[FailureOut]
    defect: int | None


class CausesOut(Shape):
    """What failed, by cause; `left` failures are judged when it is asked for again.

    `corrected` counts how often people said otherwise than Lantern so far.
    """

    causes: list[CauseOut]
    failed: int
    left: int
    corrected: int


class SayAsk(Shape):
    """What a failure is in the eyes of a person, with a word why."""

    kind: Literal["product", "test", "data", "timing", "environment"]
    word: str = Field(default="", max_length=2000)
