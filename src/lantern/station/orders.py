"""What is asked of a rehearsal that is held, and where it takes place."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

from lantern.browser.session import Session
from lantern.core.channel import Said
from lantern.core.engine import requests as ask
from lantern.core.rehearsing.hand import Way
from lantern.station.guides import Cancelled


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
