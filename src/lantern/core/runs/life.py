"""The life of a run and of its casts: states, events and what follows.

A cast is one row in one browser. It waits until it is *fed* to the queue, is *taken* by a station
under a token, and is over when that taking *ends*. Whoever dies in between, the taking is *lost*:
the cast is interrupted, or waits again where the run allows it. Nothing here knows of a database,
a queue or a clock; store.casts applies it to what it finds.
"""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass, replace
from typing import Literal

CastState = Literal[
    "waiting", "running", "passed", "unsteady", "failed", "interrupted", "cancelled", "skipped"
]
RunState = Literal["queued", "running", "passed", "unsteady", "failed", "interrupted", "cancelled"]
Outcome = Literal["passed", "failed", "interrupted", "cancelled"]

RUN_OVER = ("passed", "unsteady", "failed", "interrupted", "cancelled")
"""States of runs that nothing leads out of."""
OVER = ("passed", "unsteady", "failed", "interrupted", "cancelled", "skipped")
"""States that nothing leads out of."""
MOST_TAKINGS = 3
"""How often a cast is begun at most where interrupted rows are played again."""

STOPPED_STATION = "The station that played it stopped."
BEFORE_IT_BEGAN = "Cancelled before it began."
A_ROW_FAILED = "A row failed, and the plan stops the test then."


class TooLate(Exception):
    """What was reported is of a taking that is over, or of a cast that is not to be had."""


@dataclass(frozen=True)
class Cast:
    """One row in one browser.

    `job` is the queue's number of the job that offers it, 0 when none does; `token` that of the
    taking under way, "" when none is; `takings` counts how often it was taken, `failures` how
    often it failed and was played again; `cancel_asked` tells that this one alone is to stop.
    """

    id: int
    state: CastState = "waiting"
    engine: str = ""
    job: int = 0
    token: str = ""
    takings: int = 0
    message: str = ""
    failures: int = 0
    cancel_asked: bool = False

    @property
    def over(self) -> bool:
        """Whether nothing more will happen to it."""
        return self.state in OVER


@dataclass(frozen=True)
class Run:
    """A run with its casts in order.

    `again` allows that interrupted casts are played again, `retries` how often a failed one is; one
    that failed for good stops a `fragile` run. `stopped` is why no further cast begins, "" when
    nothing stopped the run.
    """

    casts: tuple[Cast, ...]
    state: RunState = "queued"
    cancel_asked: bool = False
    stopped: str = ""
    again: bool = False
    message: str = ""
    retries: int = 0
    fragile: bool = False

    @property
    def over(self) -> bool:
        """Whether nothing more will happen to it."""
        return self.state not in ("queued", "running")

    @property
    def ending(self) -> bool:
        """Whether what is under way is to stop and nothing further begins."""
        return self.cancel_asked or bool(self.stopped)

    def cast(self, key: int) -> Cast:
        """Return a cast by its id; raises TooLate when the run has none of it."""
        for cast in self.casts:
            if cast.id == key:
                return cast
        raise TooLate(f"The run has no cast {key}.")


@dataclass(frozen=True)
class Fed:
    """A job of the queue offers the cast."""

    cast: int
    job: int


@dataclass(frozen=True)
class Taken:
    """A station has the cast's job and plays it from now on, under a token of its own."""

    cast: int
    job: int
    token: str


@dataclass(frozen=True)
class Ended:
    """The taking is over; with `stops` no further cast of the run begins.

    One that failed is played again where the run says so, unless it `counts` at once.
    """

    cast: int
    token: str
    outcome: Outcome
    message: str = ""
    stops: str = ""
    counts: bool = False


@dataclass(frozen=True)
class Lost:
    """Whoever took the cast will not end it."""

    cast: int
    token: str
    message: str = STOPPED_STATION


@dataclass(frozen=True)
class JobLost:
    """The job that offered the cast is gone, and nobody took the cast."""

    cast: int
    job: int


@dataclass(frozen=True)
class CancelAsked:
    """Someone wants the run to stop."""


@dataclass(frozen=True)
class Stopped:
    """No further cast begins, and those under way stop, for a reason outside of the run."""

    why: str


@dataclass(frozen=True)
class CastCancelAsked:
    """Someone wants one cast to stop, and the others to go on."""

    cast: int


Event = CastCancelAsked | Fed | Taken | Ended | Lost | JobLost | CancelAsked | Stopped


def after(run: Run, event: Event) -> Run:
    """Return the run as it is after an event.

    Raises TooLate for a taking, an end or a job of which somebody else disposed meanwhile; what is
    merely told again changes nothing.
    """
    if isinstance(event, CancelAsked):
        return run if run.over else _settled(replace(run, cancel_asked=True))
    if isinstance(event, Stopped):
        return run if run.over else _settled(replace(run, stopped=run.stopped or event.why))
    cast = run.cast(event.cast)
    stopped = run.stopped
    match event:
        case CastCancelAsked():
            cast = _cancelled(cast)
        case Fed():
            if cast.state != "waiting" or cast.job or run.ending:
                raise TooLate(f"Cast {cast.id} needs no job.")
            cast = replace(cast, job=event.job)
        case Taken():
            if cast.state != "waiting" or cast.job != event.job or run.ending:
                raise TooLate(f"Cast {cast.id} is not waiting for job {event.job}.")
            cast = replace(cast, state="running", token=event.token, takings=cast.takings + 1)
        case Ended():
            if cast.state != "running" or cast.token != event.token:
                raise TooLate(f"Cast {cast.id} is not played under that token.")
            cast = _ended(run, cast, event)
            if cast.over:
                stopped = stopped or event.stops
            if cast.state == "failed" and run.fragile:
                stopped = stopped or A_ROW_FAILED
        case Lost():
            if cast.state != "running" or cast.token != event.token:
                return run
            cast = _lost(run, cast, event.message)
        case JobLost():
            if cast.state != "waiting" or cast.job != event.job:
                return run
            cast = replace(cast, job=0)
    casts = tuple(cast if one.id == cast.id else one for one in run.casts)
    return _settled(replace(run, casts=casts, stopped=stopped))


def _over(cast: Cast, state: CastState, message: str) -> Cast:
    return replace(cast, state=state, token="", job=0, message=message)


def _ended(run: Run, cast: Cast, event: Ended) -> Cast:
    ending = run.ending or cast.cancel_asked
    again = event.outcome == "failed" and not event.counts and not ending
    if again and cast.failures < run.retries:
        waiting = replace(cast, state="waiting", token="", job=0, message=event.message)
        return replace(waiting, failures=cast.failures + 1)
    if event.outcome == "passed" and cast.failures:
        return _over(cast, "unsteady", event.message or told_unsteady(cast.failures))
    return _over(cast, event.outcome, event.message)


def told_unsteady(failures: int) -> str:
    """Return what is said of a cast that passed after it had failed."""
    times = "once" if failures == 1 else f"{failures} times"
    return f"It failed {times} before it passed."


def _cancelled(cast: Cast) -> Cast:
    if cast.state == "waiting":
        return replace(_over(cast, "cancelled", BEFORE_IT_BEGAN), cancel_asked=True)
    return cast if cast.over else replace(cast, cancel_asked=True)


def _lost(run: Run, cast: Cast, message: str) -> Cast:
    if run.ending or cast.cancel_asked:
        return _over(cast, "cancelled", message)
    if run.again and cast.takings - cast.failures < MOST_TAKINGS:
        return replace(cast, state="waiting", token="", job=0, message=message)
    return _over(cast, "interrupted", message)


def _settled(run: Run) -> Run:
    """Return the run with what follows for the casts that wait, and with its own state."""
    if run.ending:
        state: CastState = "cancelled" if run.cancel_asked else "skipped"
        said = BEFORE_IT_BEGAN if run.cancel_asked else ""
        run = replace(
            run,
            casts=tuple(
                _over(one, state, said) if one.state == "waiting" else one for one in run.casts
            ),
        )
    if not all(one.over for one in run.casts):
        begun = any(one.state != "waiting" or one.takings for one in run.casts)
        return replace(run, state="running" if begun else "queued")
    verdict, message = _verdict(run)
    return replace(run, state=verdict, message=message)


def _verdict(run: Run) -> tuple[RunState, str]:
    """Return how a run ended whose casts are over, and what is to be said of it."""
    states = [one.state for one in run.casts]
    lost = [one for one in run.casts if one.state == "interrupted"]
    if run.cancel_asked and "cancelled" in states:
        begun = any(one.takings for one in run.casts)
        return "cancelled", "" if begun else BEFORE_IT_BEGAN
    if "failed" in states or run.stopped:
        return "failed", run.stopped
    if lost:
        return "interrupted", lost[0].message
    if not set(states) <= {"passed", "unsteady"}:
        return "cancelled", ""
    return ("unsteady" if "unsteady" in states else "passed"), ""


def to_stop(run: Run) -> tuple[Cast, ...]:
    """Return the casts under way that are to stop."""
    return tuple(
        one for one in run.casts if one.state == "running" and (run.ending or one.cancel_asked)
    )


def to_feed(run: Run, lanes: int, engines: Container[str]) -> tuple[Cast, ...]:
    """Return the casts to offer next, so that `lanes` of the run are offered or under way.

    They are offered in their order; those for whose engine no station is up are passed over.
    """
    if run.ending or run.over:
        return ()
    busy = sum(
        one.state == "running" or (one.state == "waiting" and one.job > 0) for one in run.casts
    )
    waiting = [
        one for one in run.casts if one.state == "waiting" and not one.job and one.engine in engines
    ]
    return tuple(waiting[: max(0, lanes - busy)])
