"""Rows of runs that fail while their author watches: offered for a short time, and taken."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from contextlib import ExitStack
from dataclasses import dataclass
from typing import Any

from lantern.browser.session import Session as Windows
from lantern.core.channel import PersonSaid
from lantern.core.engine import requests as ask
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.station.guides import Cancelled, Guide
from lantern.station.keeping import Keeper
from lantern.station.live import Live
from lantern.station.rehearsal import Rehearsal
from lantern.station.stage import Stage

LOOK = 0.25
"""Seconds between two looks whether somebody still watches."""


@dataclass(frozen=True)
class Row:
    """A row of a run that is being played: whose run it is, and what is played where."""

    test: int
    author: int
    number: int
    script: Script
    base: str
    windows: Windows
    live: Live


class Offer(Guide):
    """Offers a row to its author when it fails, and plays it by their hand once they take it.

    `seconds` tells for how long it is offered, `taken` is called with the name of who took it, and
    `keeper_of` makes what keeps what they record.
    """

    def __init__(
        self,
        row: Row,
        seconds: Callable[[], float],
        taken: Callable[[str], None],
        keeper_of: Callable[[int, int], Keeper],
    ) -> None:
        self._row, self._seconds, self._taken, self._keeper_of = row, seconds, taken, keeper_of
        self._changed = threading.Condition()
        self._answer: PersonSaid | None = None
        self._declined = self._stopped = self._left = False
        self._waited = 0.0
        self._owned = ExitStack()
        self.stage: Stage | None = None
        self.by = ""
        """The name of who took it in hand, "" for nobody."""
        self.at = ""

    # -- asked of it -------------------------------------------------------------------------------

    def take_in_hand(self, person: PersonSaid) -> None:
        """Take what is offered; only its author may."""
        if person["account"] == self._row.author:
            with self._changed:
                self._answer = person
                self._changed.notify_all()

    def decline(self, person: PersonSaid) -> None:
        """Let the failure take its course at once."""
        if person["account"] == self._row.author:
            with self._changed:
                self._declined = True
                self._changed.notify_all()

    def stop(self) -> None:
        """Let nothing wait any more: the row is to end."""
        with self._changed:
            self._stopped = True
            self._changed.notify_all()
        if self._rehearsal is not None:
            self._rehearsal.stop("The run was stopped.")

    def close(self) -> None:
        """Let go of what it opened; the row is over."""
        if self._rehearsal is not None and self._rehearsal.on:
            self._rehearsal.let_go("The row is over.")
        self._owned.close()

    # -- guide -------------------------------------------------------------------------------------

    @property
    def _rehearsal(self) -> Rehearsal | None:
        return self.stage.rehearsals.now if self.stage is not None else None

    @property
    def _hand(self) -> Guide | None:
        """Who goes on with it: the rehearsal, as long as it has not let go."""
        return self._rehearsal if self._rehearsal is not None and not self._left else None

    @property
    def stood(self) -> float:
        """Seconds for which limits stood still."""
        return self._waited + (self._rehearsal.stood if self._rehearsal else 0.0)

    def before(self, request: ask.Request[Any]) -> None:
        """Let who has it in hand hold it."""
        if self._hand:
            self._hand.before(request)

    def after(self, request: ask.Request[Any], answer: object, seconds: float) -> None:
        """Let who has it in hand follow it."""
        if self._hand:
            self._hand.after(request, answer, seconds)

    def starts(self, request: ask.StepStarts) -> ask.Onward:
        """Let who has it in hand stop it."""
        return self._hand.starts(request) if self._hand else ask.GO_ON

    def ends(self, result: StepResult) -> None:
        """Let who has it in hand see how a sentence ended."""
        if self._hand:
            self._hand.ends(result)

    def fails(self, request: ask.StepFails) -> ask.Onward:
        """Offer the row, and let who takes it decide; else the failure takes its course."""
        if self._hand:
            return self._hand.fails(request)
        if self.by or not self._row.live.watched_by(self._row.author):
            return ask.GO_ON
        seconds = self._seconds()
        if seconds <= 0:
            return ask.GO_ON
        person = self._offered(request.result, seconds)
        if person is None:
            return ask.GO_ON
        return self._begin(person, request)

    def _offered(self, result: StepResult, seconds: float) -> PersonSaid | None:
        began = time.monotonic()
        self._answer, self._declined = None, False
        self._say(result, seconds)
        with self._changed:
            while (left := seconds - (time.monotonic() - began)) > 0:
                if self._answer or self._declined or self._stopped:
                    break
                if not self._row.live.watched_by(self._row.author):
                    break
                self._changed.wait(min(left, LOOK))
            person = self._answer
        self._waited += time.monotonic() - began
        self._say(result, 0.0)
        if self._stopped:
            raise Cancelled
        return person

    def _say(self, result: StepResult, seconds: float) -> None:
        self._row.live.say(
            {
                "type": "offer",
                "seconds": seconds,
                "sentence": result.sentence,
                "message": result.message,
            }
        )

    def _begin(self, person: PersonSaid, request: ask.StepFails) -> ask.Onward:
        """Make a stage of where the row is played, with a rehearsal that has it in hand."""
        row = self._row
        self.by, self.at = person["name"], request.result.sentence
        self._taken(person["name"])
        keeper = self._keeper_of(row.test, person["account"])
        stage = Stage(None, keeper, row.base, owner=person, taken=(row.windows, row.live))
        self._owned.callback(stage.close)
        rehearsal = Rehearsal(stage, keeper.scripts, person)
        rehearsal.take(row.script, row.number, self._leave)
        stage.rehearsals.take(rehearsal)
        self.stage = stage
        return rehearsal.fails(request)

    def _leave(self) -> None:
        """Let the row go on by itself."""
        self._left = True
        if self._rehearsal is not None:
            self._rehearsal.let_go("It goes on without you.")
