"""How a run of a plan goes: which of its runs may be offered, and what all of them come to.

A run of a plan consists of runs, one for each test and environment, in order. The flow before the
plan is one of them, and has to pass before anything else begins; the one after it plays when all
others are over, whatever came of them.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

Phase = Literal["before", "main", "after"]
State = Literal["queued", "running", "passed", "unsteady", "failed", "interrupted", "cancelled"]

GOING = ("queued", "running")
NOT_BEGUN = "The flow before the plan did not pass."
NOTHING = "Nothing of it was played."
TIME_IS_UP = "The time of the plan is up."
_WORST_FIRST: tuple[State, ...] = ("failed", "interrupted", "cancelled", "unsteady")


@dataclass(frozen=True)
class Part:
    """One run of it: its id, phase and state, and how many of its casts are offered or play."""

    id: int
    phase: Phase = "main"
    state: State = "queued"
    busy: int = 0
    waiting: int = 0

    @property
    def over(self) -> bool:
        """Whether nothing more will happen to it."""
        return self.state not in GOING


@dataclass(frozen=True)
class Going:
    """All runs of it in order; `at_once` casts may be offered or play, None for no limit."""

    parts: tuple[Part, ...]
    at_once: int | None = None
    cancel_asked: bool = False
    stopped: str = ""

    @property
    def over(self) -> bool:
        """Whether nothing more will happen to it."""
        return all(one.over for one in self.parts)


def may_feed(going: Going) -> list[tuple[int, int]]:
    """Return the runs that may have casts offered, in order, each with how many lanes it has.

    Lanes count those that are offered or play already, as core.runs.life.to_feed takes them.
    """
    phase = _phase(going.parts)
    open_parts = [one for one in going.parts if one.phase == phase and not one.over]
    free = 10**6 if going.at_once is None else going.at_once
    free -= sum(one.busy for one in going.parts)
    found = []
    for one in open_parts:
        more = min(free, one.waiting)
        if more > 0:
            found.append((one.id, one.busy + more))
            free -= more
    return found


def _phase(parts: Iterable[Part]) -> Phase:
    """Return which part of a plan has its turn."""
    left = {one.phase for one in parts if not one.over}
    return "before" if "before" in left else "main" if "main" in left else "after"


def to_stop(going: Going, *, late: bool = False) -> dict[int, str]:
    """Return the runs that are not to begin or to go on any more, with why.

    `late` tells that the time of the whole is up: what is left is stopped, but for the flow after.
    """
    open_parts = [one for one in going.parts if not one.over and one.phase != "after"]
    before = [one for one in going.parts if one.phase == "before" and one.over]
    if any(one.state not in ("passed", "unsteady") for one in before):
        return {one.id: NOT_BEGUN for one in open_parts}
    why = going.stopped or (TIME_IS_UP if late else "")
    return {one.id: why for one in open_parts} if why else {}


def verdict(going: Going) -> tuple[State, str]:
    """Return the state of all of it together, with what is to be said of that."""
    states = [one.state for one in going.parts]
    if not states:
        return "cancelled", NOTHING
    if not going.over:
        begun = any(one.state != "queued" for one in going.parts)
        return ("running" if begun else "queued"), ""
    if going.cancel_asked and "cancelled" in states:
        return "cancelled", ""
    worst: State = next((state for state in _WORST_FIRST if state in states), "passed")
    if going.stopped and worst in ("passed", "unsteady"):
        worst = "failed"
    return worst, going.stopped


def forgiven(going: Going, known: Mapping[int, Collection[int]]) -> tuple[State, str] | None:
    """Return the state of all of it where what failed does not count, and which defects those are.

    `known` holds open defects by run: a run is in it where all its failures are known. None where
    something failed besides, or it was not only rows that failed.
    """
    failed = [one for one in going.parts if one.state == "failed"]
    if not failed or going.stopped or any(one.id not in known for one in failed):
        return None
    rest = {one.state for one in going.parts} - {"failed"}
    if not rest <= {"passed", "unsteady"}:
        return None
    numbers = sorted({defect for one in failed for defect in known[one.id]})
    named = f"defect{'s' if len(numbers) > 1 else ''} {', '.join(map(str, numbers))}"
    return ("unsteady" if "unsteady" in rest else "passed"), f"All that failed is known: {named}."


@dataclass(frozen=True)
class Change:
    """How a cell (a test in a browser) went in two runs of a plan, "" where it was not in one."""

    test: str
    browser: str
    before: str
    now: str


def changes(before: dict[tuple[str, str], str], now: dict[tuple[str, str], str]) -> list[Change]:
    """Return the cells that went otherwise than in the run before, in the order of now."""
    keys = [*now, *(key for key in before if key not in now)]
    return [
        Change(*key, before.get(key, ""), now.get(key, ""))
        for key in keys
        if before.get(key, "") != now.get(key, "")
    ]


def together(states: Sequence[str]) -> str:
    """Return the outcome of several casts as one: the worst that is over, else what is going on."""
    for state in ("running", "failed", "interrupted", "cancelled", "skipped", "unsteady"):
        if state in states:
            if state != "running" and "waiting" in states:
                return "running"
            return state
    if "waiting" in states:
        return "running" if "passed" in states else "waiting"
    return "passed" if states else ""
