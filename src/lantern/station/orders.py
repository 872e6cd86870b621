"""What is asked of a rehearsal that is held, where it takes place, and how it is said to stand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

from lantern.browser.session import Session
from lantern.core.channel import FailedSaid, PersonSaid, RehearsalSaid, Said, SpotSaid
from lantern.core.engine import requests as ask
from lantern.core.engine.outcomes import StepResult
from lantern.core.rehearsing.hand import Way
from lantern.station.player import Cancelled


class Moved(Cancelled):
    """The row goes on elsewhere: from a sentence, or from its start on a fresh stage."""

    def __init__(self, start: Sequence[str], *, fresh: bool = False) -> None:
        super().__init__(start)
        self.start, self.fresh = tuple(start), fresh


@dataclass(frozen=True)
class Order:
    """What somebody wants of a rehearsal that is held: a way to go on, or something to be done."""

    onward: ask.Onward | None = None
    way: Way = "play"
    goal: tuple[str, str] = ("", "")
    work: Callable[[], None] | None = None
    moved: Moved | None = None
    leaves: bool = False


class Room(Protocol):
    """Where a rehearsal takes place."""

    context: Session

    def say(self, message: Said) -> None:
        """Tell everybody who looks on."""

    def fresh(self) -> None:
        """Make it as new."""

    def file(self, name: str) -> bytes | None:
        """Return a file of the test."""


def nothing(owner: PersonSaid) -> RehearsalSaid:
    """Return what is said where nothing is rehearsed."""
    return {
        "type": "rehearsal",
        "state": "none",
        "spot": None,
        "why": "",
        "told": "",
        "mid": False,
        "failed": None,
        "ended": "",
        "outcome": "",
        "row": 0,
        "row_id": "",
        "pace": 0.0,
        "light": True,
        "cost": 0.0,
        "hand": owner,
        "here": [],
        "of_run": False,
        "began": "",
        "moment": 0,
    }


def spot_said(spot: ask.Spot, sentence: str) -> SpotSaid:
    """Return where a rehearsal is, as it is said."""
    return {
        "step": spot.step.id,
        "calls": list(spot.calls),
        "flow": spot.flow,
        "within": list(spot.within),
        "depth": spot.depth,
        "sentence": sentence,
    }


def failed_said(result: StepResult, spot: ask.Spot) -> FailedSaid:
    """Return a failure that does not count yet, as it is said."""
    return {
        "reason": result.reason,
        "message": result.message,
        "hint": result.hint,
        "expected": result.expected,
        "found": result.found,
        "element": spot.step.element,
    }
