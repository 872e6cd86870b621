"""The hand on a rehearsal: decides before which sentence it stops."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from lantern.core.engine.requests import Spot
from lantern.core.rehearsing.breakpoints import Breakpoint, meets
from lantern.core.steps.catalogue import ACTIONS

Way = Literal["play", "over", "into", "out", "to"]
"""How it goes on: to the next reason to stop; past this sentence with all that is in it; to the
very next sentence; out of the block, round or flow; to a certain sentence."""
Reason = Literal["", "asked", "left", "stepped", "breakpoint", "pause", "here", "trouble"]
"""Why it stops: somebody asked, nobody looks at it, it was to go so far, a breakpoint, a sentence
of the story that says so, the sentence that was to be come to, a failure."""


@dataclass(frozen=True)
class Stop:
    """Whether the rehearsal stops at a sentence, and why; `told` says more in words."""

    reason: Reason = ""
    told: str = ""


GO_ON = Stop()


class Hand:
    """Where one rehearsal of a test stops. It keeps count of how often sentences are passed.

    `row` is the number of the row that is played, 0 for none, `columns` are its values: conditions
    name them inside flows as well.
    """

    def __init__(
        self,
        test: int,
        row: int = 0,
        breakpoints: Sequence[Breakpoint] = (),
        columns: Mapping[str, str] | None = None,
    ) -> None:
        self.test, self.row, self.columns = test, row, columns or {}
        self.breakpoints = tuple(breakpoints)
        self.all_off = False
        self._way: Way = "play"
        self._depth = 0
        self._goal: tuple[str, str] = ("", "")
        self._asked: Reason = ""
        self._times: Counter[tuple[str, str]] = Counter()

    def hold(self, why: Reason = "asked") -> None:
        """Stop as soon as possible."""
        self._asked = why

    @property
    def asked(self) -> Reason:
        """Why it is to stop as soon as possible, "" when it is not."""
        return self._asked

    def stopped(self) -> None:
        """It has stopped, for whatever reason: what was asked is done."""
        self._asked = ""

    def go(self, way: Way, spot: Spot | None, goal: tuple[str, str] = ("", "")) -> None:
        """Go on from where it stopped; `goal` is the flow and the sentence to go to."""
        self._asked = ""
        self._way, self._goal = way, goal
        self._depth = spot.depth if spot else 0

    def reached(self, spot: Spot) -> Stop:
        """Decide whether it stops at the sentence that the row has come to."""
        key = (spot.flow, spot.step.id)
        self._times[key] += 1
        if spot.passing:
            return GO_ON
        stop = self._why(spot, key)
        if stop.reason:
            self._way = "play"
        return stop

    def _why(self, spot: Spot, key: tuple[str, str]) -> Stop:
        if self._asked:
            return Stop(self._asked)
        if self._way == "to" and key == self._goal:
            return Stop("here")
        if (
            self._way == "into"
            or (self._way == "over" and spot.depth <= self._depth)
            or (self._way == "out" and spot.depth < self._depth)
        ):
            return Stop("stepped")
        action = ACTIONS.get(spot.step.action)
        if action is not None and action.holds:
            return Stop("pause", spot.step.title or spot.step.comment)
        return self._at_breakpoint(spot, key)

    def _at_breakpoint(self, spot: Spot, key: tuple[str, str]) -> Stop:
        if self.all_off:
            return GO_ON
        place = int(spot.flow) if spot.flow else self.test
        for point in self.breakpoints:
            if not point.concerns(self.test, place, spot.step.id):
                continue
            names = spot.script.names
            names = replace(names, row={**self.columns, **names.row})
            met = meets(point, names, self._times[key], self.row)
            if met.stops:
                return Stop("breakpoint", met.why or point.condition.words())
        return GO_ON
