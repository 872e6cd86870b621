"""What a row asks for between its pages: time, code, pictures, noting its sentences."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Literal

from lantern.core.engine.requests.base import Request

if TYPE_CHECKING:
    from lantern.core.engine.attempt import Script
    from lantern.core.engine.driver import Driver
    from lantern.core.engine.outcomes import StepResult
    from lantern.core.steps.model import Step


@dataclass(frozen=True)
class Now(Request[float]):
    """The time in seconds on a clock that never goes back. Answer: float."""

    def ask_of(self, driver: Driver) -> float:
        return driver.now(self)


@dataclass(frozen=True)
class Wait(Request[None]):
    """Let some seconds pass, or less when something happens. Answer: None."""

    seconds: float

    def ask_of(self, driver: Driver) -> None:
        driver.wait(self)


@dataclass(frozen=True)
class RunCode(Request["Ran"]):
    """Run a Python function apart, with inputs as text. Answer: Ran."""

    source: str
    function: str
    types: Mapping[str, str]
    inputs: Mapping[str, str]
    limit: float

    def ask_of(self, driver: Driver) -> Ran:
        return driver.run_code(self)


@dataclass(frozen=True)
class Ran:
    """How code went: what it gave by name, or the error in words with its line (0: none)."""

    gave: Mapping[str, str] = field(default_factory=dict)
    error: str = ""
    line: int = 0


@dataclass(frozen=True)
class Picture(Request[str]):
    """Take a picture of the page. Answer: the digest under which it is kept, or "".

    `failed` tells that a step has just failed on it: then all that is on the page is kept as well.
    """

    failed: bool = False

    def ask_of(self, driver: Driver) -> str:
        return driver.picture(self)


@dataclass(frozen=True)
class Spot:
    """Where a row is: at which sentence, and what is around it.

    `calls` are the sentences that called the flows it is in, outermost first, `within` the words
    for these and for the rounds of repeats; `depth` counts calls, rounds and blocks around it.
    `flow` is the id of the flow that it stands in, "" for the test. `script` has the names that
    hold there. `passing` tells that the row only passes it on the way to where it begins.
    """

    step: Step
    script: Script
    calls: tuple[str, ...] = ()
    within: tuple[str, ...] = ()
    depth: int = 0
    flow: str = ""
    passing: bool = False


@dataclass(frozen=True)
class Onward:
    """How it goes on at a sentence: carried out, passed over, or (after a failure) tried again.

    A `story` takes the place of the one that was played so far: what was edited meanwhile.
    """

    do: Literal["go on", "skip", "again"] = "go on"
    story: Script | None = None


GO_ON = Onward()


@dataclass(frozen=True)
class StepStarts(Request[Onward]):
    """A step is about to begin. Answer: whether it does."""

    step_id: str
    position: int
    sentence: str
    spot: Spot

    def ask_of(self, driver: Driver) -> Onward:
        return driver.step_starts(self)


@dataclass(frozen=True)
class StepFails(Request[Onward]):
    """A step has failed, and nothing has followed from it yet. Answer: whether it counts.

    It is not asked where the failure of what is only tried counts for nothing. "go on" lets the
    failure take its course, "skip" passes the step over, "again" tries it again.
    """

    result: StepResult
    spot: Spot

    def ask_of(self, driver: Driver) -> Onward:
        return driver.step_fails(self)


@dataclass(frozen=True)
class StepEnds(Request[None]):
    """A step is over; `result` is to be kept now. Answer: None."""

    result: Any

    def ask_of(self, driver: Driver) -> None:
        driver.step_ends(self)


@dataclass(frozen=True)
class StopEverything(Request[None]):
    """A step failed whose failure ends the whole run, not its row alone. Answer: None."""

    def ask_of(self, driver: Driver) -> None:
        driver.stop_everything(self)
