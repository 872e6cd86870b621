"""The book of a cast: what who plays it asks for, and where is kept what comes of it.

A station beside the database writes into that; one that joined over the network hands everything
on to the server. Who plays a cast knows neither.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

from lantern.browser.session import Session
from lantern.core.elements.facts import Facts
from lantern.core.engine.attempt import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.runs.life import Ended, Lost
from lantern.core.runs.work import Work
from lantern.station.live import Live
from lantern.station.offering import Offer
from lantern.station.proving import Prover

OUTAGE = 120.0
"""Seconds for which who keeps the book may be away before a cast is given up."""
Told = Callable[[], bool]


@dataclass(frozen=True)
class SeenPage:
    """All that was on a page at a step; `picture` is the digest of one, "" for none."""

    title: str
    address: str
    nodes: Sequence[Facts]
    picture: str
    step: str


class Book(Protocol):
    """The book of one cast.

    Whatever is written waits while who keeps the book is away, for OUTAGE seconds at the most.
    Every method raises TooLate when the cast was taken away meanwhile.
    """

    @property
    def work(self) -> Work:
        """What is to be played."""

    def began(self, version: str) -> None:
        """Take note of the browser in which it is played."""

    def following(self) -> str | None:
        """Return the browser of the next cast of the run, None when none waits."""

    def at(self, sentence: str, step: str) -> None:
        """Take note of the sentence that is under way, and of its step."""

    def ends(
        self, place: int, result: StepResult, console: Sequence[str], requests: Sequence[str]
    ) -> None:
        """Keep how a sentence ended, as the `place`-th result from 1."""

    def keep(self, content: bytes, mime: str) -> None:
        """Keep a picture or a file, which is known by its digest from then on."""

    def remember(self, element: str, nodes: Sequence[Facts]) -> None:
        """Let an element that is known by its clues alone know what it looks like."""

    def saw(self, page: SeenPage) -> None:
        """Keep all that was on a page."""

    def file(self, name: str) -> bytes | None:
        """Return a file of the test, None when there is none of that name."""

    def over(self, ended: Ended | Lost, release: str, prover: Prover | None) -> None:
        """Take note of the end, of the application's release, and of what a green row proved."""

    def offers(self, script: Script, context: Session, live: Live) -> Offer | None:
        """Return what offers the row to its author when it fails, None where nothing does."""

    def proves(self, script: Script) -> Prover | None:
        """Return what holds the row against its recording, None where nothing does."""


class Books(Protocol):
    """Where casts are taken from."""

    def take(self, cast_id: int, job: int, stopped: Told, ending: Told) -> Book | None:
        """Take a cast; None when it is not to be had.

        `stopped` tells that nobody wants more of it, `ending` that the station itself ends: who
        keeps the book is not waited for any more then.
        """
