"""A second look after a failure: whether what was waited for came after all, only later."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from lantern.core.elements.facts import tidy
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import look_once
from lantern.core.engine.outcomes import Reason, StepFailed
from lantern.core.problems import Problem
from lantern.core.steps.actions.base import Action, Call

LONGEST = 8.0
"""Seconds after a failure for which answers are waited for that the page itself waits for."""
BUSY = 4.0
"""The same for a page that shows that it is busy, but has asked for nothing."""
PAUSE = 0.2
WAITED: frozenset[Reason] = frozenset(
    {"not found", "not ready", "check differed", "waited in vain", "page error", "bad value"}
)
"""Reasons of which time may have been the cause."""
SIGNS = "progress,[role=progressbar],[aria-busy=true]"
"""What pages show while they are busy (WAI-ARIA 1.2, aria-busy and progressbar)."""
MOST_TOLD = 5


@dataclass(frozen=True)
class Late:
    """What a second look saw, `waited` seconds after the failure.

    `pending` is what the page was waiting for when the sentence failed, as "GET /path", `busy`
    whether it said so itself; `came` tells whether what the sentence wanted is there now.
    """

    waited: float
    pending: Sequence[str] = ()
    busy: bool = False
    came: bool = False

    def as_json(self) -> dict[str, Any]:
        """Return it as a JSON object."""
        return asdict(self) | {"pending": list(self.pending)}


def look_late(action: Action, call: Call, failure: StepFailed) -> ask.Play[Late | None]:
    """Look again where time may have been the cause; None where nothing speaks for that.

    The page is only looked at: nothing is pressed or typed. Pages that wait for nothing and are
    not busy cost no time.
    """
    if failure.reason not in WAITED:
        return None
    pending = tuple((yield from ask.Outstanding()) or ())
    busy = (yield from _is_busy()) if not pending else False
    if not pending and not busy:
        return None
    start: float = yield from ask.Now()
    waited = yield from _waited(start, LONGEST if pending else BUSY, bool(pending))
    came = yield from _is_there(action, call)
    return Late(round(waited, 2), pending[:MOST_TOLD], busy, came)


def _is_busy() -> ask.Play[bool]:
    seen: ask.Seen = yield from ask.Lookup(ask.Query(SIGNS))
    return any(one.visible or one.role != "progressbar" for one in seen.candidates)


def _waited(start: float, most: float, pending: bool) -> ask.Play[float]:
    """Wait until the page waits for nothing more; returns the seconds."""
    while True:
        yield from ask.Wait(PAUSE)
        now: float = yield from ask.Now()
        left = (yield from ask.Outstanding()) if pending else (yield from _is_busy())
        if not left or now - start >= most:
            yield from ask.Wait(PAUSE)  # what came of the answer is drawn
            return now - start


def _is_there(action: Action, call: Call) -> ask.Play[bool]:
    try:
        if action.looks:
            return bool((yield from action.looks(call)))
        if call.element is None:
            return False
        found, seen = yield from look_once(call.element, aim=True, after=None, wait=0)
    except (StepFailed, Problem, ask.PageGone):
        return False
    return len(found) == 1 and seen.aimed is not None and not seen.aimed.problem


def told(late: Late, limit: float) -> str:
    """Return what a second look saw in words, "" for nothing that is worth saying."""
    if late.came:
        return f"It was there {late.waited:.1f} s after the limit of {limit:g} s had passed."
    if late.pending:
        return tidy(f"The page was still waiting for {', '.join(late.pending)}.")
    return ""
