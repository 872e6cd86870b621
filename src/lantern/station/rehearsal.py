"""A rehearsal: a row that is played on a stage with a hand on it, on a thread of its own."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any, Literal

import structlog

from lantern.browser.errors import BrowserError
from lantern.core.channel import (
    PersonSaid,
    PlayedStepSaid,
    RehearsalSaid,
    Said,
    TroubleSaid,
)
from lantern.core.engine import requests as ask
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import BadInput, Problem
from lantern.core.rehearsing.hand import Hand, Reason
from lantern.core.rehearsing.tracing import Trace
from lantern.core.rehearsing.values import Ledger
from lantern.station.guides import Cancelled, Guide, Watcher
from lantern.station.orders import Moved, Order, Room
from lantern.station.pacing import Pacing
from lantern.station.player import Player
from lantern.station.scripts import Begun, Scripts
from lantern.station.telling import failed_said, nothing, spot_said, step_said

log = structlog.get_logger()
State = Literal["none", "playing", "held", "over"]
KEPT = 1800.0
"""Seconds for which a rehearsal that is held waits for somebody to go on."""
MOST_STEPS = 2000
"""Sentences that were rehearsed which are told to who comes later."""
NOT_IN_RUN: TroubleSaid = {
    "type": "error",
    "message": "A row of a run goes on where it is.",
    "hint": "Rehearse the test to go on from another sentence.",
}
WENT_ON: TroubleSaid = {
    "type": "error",
    "message": "That was not done: the rehearsal had gone on already.",
    "hint": "Do it now that it is held again.",
}


class Rehearsal(Guide, Watcher):
    """Plays a row in a room, stops where the hand says, and is told how to go on.

    What is asked of it may come from any thread; what is done in the room while it is held is done
    on its own, one after the other. The clock of limits stands while it is held or slowed.
    """

    def __init__(self, room: Room, scripts: Scripts, owner: PersonSaid) -> None:
        self._room, self._scripts = room, scripts
        self.owner, self.controls = owner, owner
        self.here: list[PersonSaid] = []
        self._changed = threading.Condition()
        self._orders: deque[Order] = deque()
        self._player: Player | None = None
        self._thread: threading.Thread | None = None
        self._begun: Begun | None = None
        self.hand = Hand(scripts.test_id)
        self.ledger = Ledger()
        self._trace = Trace()
        self._steps: list[PlayedStepSaid] = []
        self.in_run = False
        """Whether it is a row of a run that was taken in hand: it goes on as the run would."""
        self._since = datetime.now(UTC).isoformat()
        self.spot: ask.Spot | None = None
        self.failed: StepResult | None = None
        self._sentence = ""
        self.state: RehearsalSaid = self._state_of("playing")
        self._let_go: Callable[[], None] = lambda: None
        self._pacing = Pacing(room.say, self._rest)
        self._held_for = 0.0
        self._stale = False
        self._ended = ""
        self.on_stop: list[Callable[[], None]] = []
        """What is done, on its own thread, each time it is held."""

    # -- asked of it -----------------------------------------------------------------------------

    @property
    def held(self) -> bool:
        """Whether it waits for somebody to go on."""
        return self.state["state"] == "held"

    @property
    def on(self) -> bool:
        """Whether it is not over."""
        return self.state["state"] in ("playing", "held")

    @property
    def script(self) -> Script:
        """What is played; raises BadInput before anything is."""
        if self._begun is None:
            raise BadInput("Nothing is being rehearsed here.")
        return self._begun.script

    def prepare(self, row_id: str, *, hold: bool) -> None:
        """Take what is to be played, with a row; raises Problem when it can not be played."""
        self._begun = self._scripts.rehearsal(row_id, {})
        self.hand = self._fresh_hand(self._begun)
        self.read_breakpoints()
        if hold:
            self.hand.go("into", None)

    def begin(self, start: Sequence[str], *, fresh: bool) -> None:
        """Play on a thread of its own."""
        first = Moved(start, fresh=fresh)
        self._thread = threading.Thread(
            target=self._run, args=(first,), name="rehearsal", daemon=True
        )
        self._thread.start()

    def take(self, script: Script, number: int, stop: Callable[[], None]) -> None:
        """Take a row of a run in hand that is being played; `stop` lets it go on by itself."""
        self._begun = Begun(script, number, "")
        self.hand = self._fresh_hand(self._begun)
        self.read_breakpoints()
        self.in_run, self._let_go = True, stop

    def let_go(self, told: str) -> None:
        """Say that the row that was in hand goes on, or is over, without it."""
        self.state = {**self._state_of("over"), "ended": told, "moment": self.state["moment"] + 1}
        self.tell()

    def read_breakpoints(self) -> None:
        """Take the breakpoints of whose rehearsal it is as they are now."""
        points, self.hand.all_off = self._scripts.breakpoints()
        self.hand.breakpoints = tuple(points)

    def edited(self) -> None:
        """Be told that the story may be another now."""
        self._stale = True

    def order(self, order: Order) -> None:
        """Do something, or go on; raises BadInput unless it is held."""
        with self._changed:
            if not self.held:
                raise BadInput("The rehearsal is not held.", hint="Hold it first.")
            self._orders.append(order)
            self._changed.notify_all()

    def hold(self, why: Reason = "asked") -> None:
        """Stop as soon as possible, also within a sentence."""
        if self.on and not self.held:
            self.hand.hold(why)

    def end(self, why: str = "Ended by hand.") -> None:
        """End; the stage stays as it is. What is in hand of a run goes on without it."""
        if self.in_run:
            if self.held:
                self.order(Order(ask.GO_ON, leaves=True))
            else:
                self._let_go()
            return
        self.stop(why)

    def stop(self, why: str) -> None:
        """End whatever is played."""
        with self._changed:
            self._ended = self._ended or why
            self._changed.notify_all()
        if self._player:
            self._player.cancel()

    def wait(self, seconds: float) -> None:
        """Wait until its thread has ended."""
        if self._thread is not None:
            self._thread.join(seconds)

    def set_pace(self, seconds: float | None, *, light: bool) -> None:
        """Set how many seconds a sentence takes at least: 0 full speed, None by hand."""
        self._pacing.set(seconds, light=light)
        self.tell()

    def tell(self) -> None:
        """Tell everybody how it stands."""
        self.state = {
            **self.state,
            "pace": self._pacing.seconds,
            "light": self._pacing.light,
            "cost": round(self._pacing.cost, 1),
            "hand": self.controls,
            "here": list(self.here),
        }
        self._room.say(self.state)

    def all_told(self) -> list[Said]:
        """Return what somebody needs to know who comes now."""
        return [self.state, {"type": "rehearsed", "anew": True, "steps": list(self._steps)}]

    # -- playing ---------------------------------------------------------------------------------

    def _run(self, moved: Moved) -> None:
        outcome, told = "", ""
        try:
            outcome = self._play_on(moved)
        except Cancelled:
            told = self._ended or "Ended by hand."
        except (Problem, BrowserError) as error:
            told = str(error)
        except Exception:
            log.exception("rehearsal_failed")
            told = "Lantern itself failed here; the station's log says more."
        self.spot = self.failed = None
        self._pacing.put_out()
        self.state = {
            **self._state_of("over"),
            "outcome": outcome,
            "ended": told,
            "moment": self.state["moment"] + 1,
        }
        self.tell()

    def _play_on(self, moved: Moved) -> str:
        while True:
            if moved.fresh or not moved.start:
                self._steps.clear()
                self._room.say({"type": "rehearsed", "anew": True, "steps": []})
            if moved.fresh:
                self._room.fresh()
            self._player = Player(self._room.context, self, closes=False, guide=self)
            if self._ended:
                raise Cancelled
            self._say("playing")
            try:
                return self._player.play(self.script, moved.start)
            except Moved as further:
                moved = further
                self._renew(fresh=moved.fresh)

    def _renew(self, *, fresh: bool) -> None:
        """Take the story as it is now; what was kept stays, unless the row begins anew."""
        begun = self._begun
        if begun is None:
            return
        if fresh:
            again = self._scripts.rehearsal(begun.row_id, {})
            self._begun = again
            self.ledger = Ledger()
            self.hand = self._fresh_hand(again)
            self.read_breakpoints()
        else:
            self._refresh(begun)

    def _fresh_hand(self, begun: Begun) -> Hand:
        return Hand(self._scripts.test_id, begun.number, columns=begun.script.names.row)

    def _refresh(self, begun: Begun) -> Script:
        """Take the story and the row as they are now; what was changed by hand stays."""
        self.ledger.refresh(begun.script.names, self._scripts.row(begun.row_id))
        script = self._scripts.now(begun.script)
        self._begun = replace(begun, script=script)
        return script

    # -- guide -----------------------------------------------------------------------------------

    @property
    def stood(self) -> float:
        """Seconds for which the clock of limits has stood still."""
        return self._held_for + self._pacing.cost

    def before(self, request: ask.Request[Any]) -> None:
        """Hold within a sentence where somebody asked to, and light what is acted on."""
        if self.hand.asked:
            self._hold(self.hand.asked, mid=True)
        self._pacing.before(request)

    def after(self, request: ask.Request[Any], answer: object, seconds: float) -> None:
        """Note a part of the sentence for its trace."""
        self._trace.note(request, answer, seconds)
        self._pacing.aimed(answer)

    def starts(self, request: ask.StepStarts) -> ask.Onward:
        """Stop before a sentence, or let it be carried out."""
        self.spot, self.failed, self._sentence = request.spot, None, request.sentence
        self._trace.taken()
        self._pacing.put_out()
        self.ledger.note(request.spot, request.sentence)
        stop = self.hand.reached(request.spot)
        reason: Reason = stop.reason
        if not reason and self._pacing.by_hand and not request.spot.passing:
            reason = "stepped"
        if reason:
            onward = self._hold(reason, stop.told)
        else:
            self._say("playing")
            self._pacing.slow(request.spot)
            onward = ask.GO_ON
        return self._with_story(onward)

    def fails(self, request: ask.StepFails) -> ask.Onward:
        """Hold at trouble, before the failure counts."""
        self.spot, self.failed = request.spot, request.result
        self._sentence = request.result.sentence
        return self._with_story(self._hold("trouble"))

    def ends(self, result: StepResult) -> None:
        """Tell how a sentence went."""
        spot = self.spot
        calls = list(spot.calls) if spot and spot.step.id == result.step_id else []
        step = step_said(result, calls, self._trace.taken(), self.script.names.secret)
        self._steps.append(step)
        del self._steps[:-MOST_STEPS]
        self._room.say({"type": "rehearsed", "anew": False, "steps": [step]})

    def file(self, name: str) -> bytes | None:
        """Return a file of the test."""
        return self._room.file(name)

    def _with_story(self, onward: ask.Onward) -> ask.Onward:
        """Let what was edited meanwhile be played."""
        if not self._stale or self._begun is None:
            return onward
        self._stale = False
        return replace(onward, story=self._refresh(self._begun))

    # -- held ------------------------------------------------------------------------------------

    def _hold(self, reason: Reason, told: str = "", *, mid: bool = False) -> ask.Onward:
        """Wait until somebody goes on; returns how. Raises Moved, or Cancelled at its end."""
        began = time.monotonic()
        try:
            with self._changed:
                late = any(one.work for one in self._orders)
                self._orders.clear()
                self.hand.stopped()
                self._say("held", reason, told, mid=mid)
            if late:
                self._room.say(WENT_ON)
            for work in self.on_stop:
                self._do(work)
            return self._wait_for_order(mid=mid)
        finally:
            self._held_for += time.monotonic() - began

    def _wait_for_order(self, *, mid: bool) -> ask.Onward:
        while True:
            order = self._next_order()
            if order.work:
                self._do(order.work)
                continue
            if order.leaves:
                self._let_go()
                return ask.GO_ON
            self._stale = True  # whatever was edited while it was held counts at once
            if order.moved:
                if self.in_run:
                    self._room.say(NOT_IN_RUN)
                    continue
                raise order.moved
            self.hand.go(order.way, self.spot, order.goal)
            onward = order.onward or ask.GO_ON
            if self.failed is not None and order.onward is None:
                onward = ask.Onward("again")
            self._say("playing")
            return ask.GO_ON if mid else onward

    def _next_order(self) -> Order:
        with self._changed:
            came = self._changed.wait_for(lambda: self._orders or self._ended, KEPT)
            if self._ended:
                raise Cancelled
            if not came and self.in_run:
                return Order(ask.GO_ON, leaves=True)
            if not came:
                self._ended = f"Nobody went on for {KEPT / 60:g} minutes."
                raise Cancelled
            return self._orders.popleft()

    def _do(self, work: Callable[[], None]) -> None:
        try:
            work()
        except (Problem, BrowserError) as error:
            hint = error.hint if isinstance(error, Problem) else ""
            self._room.say({"type": "error", "message": str(error), "hint": hint})
        except Exception:
            log.exception("not_done_while_held")
            self._room.say({"type": "error", "message": "That went wrong.", "hint": ""})

    # -- telling ---------------------------------------------------------------------------------

    def _rest(self, seconds: float) -> None:
        """Let time pass, or less when it is to be held or ends."""
        with self._changed:
            self._changed.wait_for(lambda: self._ended or self.hand.asked, seconds)

    def _say(self, state: State, reason: Reason = "", told: str = "", *, mid: bool = False) -> None:
        moment = self.state["moment"] + (state == "held")
        self.state = {**self._state_of(state, reason, told, mid=mid), "moment": moment}
        self.tell()

    def _state_of(
        self, state: State, reason: Reason = "", told: str = "", *, mid: bool = False
    ) -> RehearsalSaid:
        spot, failed, begun = self.spot, self.failed, self._begun
        return {
            **nothing(self.controls),
            "state": state,
            "spot": spot_said(spot, self._sentence) if spot else None,
            "why": reason,
            "told": told,
            "mid": mid,
            "failed": failed_said(failed, spot) if failed and spot else None,
            "row": begun.number if begun else 0,
            "row_id": begun.row_id if begun else "",
            "of_run": self.in_run,
            "began": self._since,
        }
