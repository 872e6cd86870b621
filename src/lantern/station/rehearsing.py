"""What is asked of the rehearsal on a stage, by who has the controls."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from lantern.core.channel import (
    GiveHandAsked,
    HandAsked,
    PaceAsked,
    PathAsked,
    PersonSaid,
    RehearseAsked,
    Said,
    ToAsked,
)
from lantern.core.elements.clues import Element
from lantern.core.elements.repair import found_by
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import query_for
from lantern.core.engine.interpreter import Script
from lantern.core.problems import BadInput, Problem
from lantern.core.rehearsing.beginning import missing, needs
from lantern.core.rehearsing.hand import Way
from lantern.core.steps.model import Document
from lantern.core.values.templates import resolve
from lantern.station.held import Held
from lantern.station.lookup import look
from lantern.station.orders import Moved, Order
from lantern.station.rehearsal import Rehearsal
from lantern.station.telling import nothing

if TYPE_CHECKING:
    from lantern.station.stage import Stage

ENDING = 5.0
"""Seconds that a rehearsal gets to end when its stage is closed."""
WAYS: dict[str, Way] = {"play": "play", "over": "over", "into": "into", "out": "out"}


class Rehearsals:
    """The rehearsal of one stage: begun, gone on with, looked into, one at a time."""

    def __init__(self, stage: Stage, owner: PersonSaid) -> None:
        self._stage, self.owner = stage, owner
        self.now: Rehearsal | None = None
        self._here: list[PersonSaid] = []
        self.held = Held(stage, self._need)
        self.commands: dict[str, Callable[[Any], None]] = {
            "rehearse": self._rehearse,
            "hand": self._hand,
            "on to": self._on_to,
            "from here": self._from_here,
            "pace": self._pace,
            "give hand": self._give_hand,
            **self.held.commands,
        }

    # -- who is here -----------------------------------------------------------------------------

    def controls(self) -> PersonSaid:
        """Return who may use the stage: who has the controls of the rehearsal, else its owner."""
        return self.now.controls if self.now and self.now.on else self.owner

    def come(self, person: PersonSaid) -> list[Said]:
        """Let somebody look on; returns what they need to know."""
        self._here.append(person)
        if self.now is None:
            return [nothing(self.owner)]
        self._tell_who()
        return self.now.all_told()

    def leave(self, person: PersonSaid) -> None:
        """Somebody looks on no more; a rehearsal that nobody looks at is held."""
        if person in self._here:
            self._here.remove(person)
        if self.now is None:
            return
        if not self._here:
            self.now.hold("left")
        elif self.now.controls["account"] not in {one["account"] for one in self._here}:
            self.now.controls = self.owner  # who had the controls is gone
        self._tell_who()

    def _tell_who(self) -> None:
        if self.now:
            self.now.here = list({one["account"]: one for one in self._here}.values())
            self.now.tell()

    def _give_hand(self, message: GiveHandAsked) -> None:
        rehearsal = self._need()
        account = int(message["account"])
        for one in [*self._here, self.owner]:
            if one["account"] == account:
                rehearsal.controls = one
                self._tell_who()
                return
        raise BadInput("Who is to have the controls does not look on any more.")

    def may(self, account: int, what: str) -> bool:
        """Tell whether an account may ask for something; looking is everybody's.

        Who has handed the controls over may take them back.
        """
        if account == self.controls()["account"]:
            return True
        return what == "give hand" and account == self.owner["account"]

    def take(self, rehearsal: Rehearsal) -> None:
        """Have a row of a run in hand."""
        rehearsal.here = [self.owner]
        rehearsal.on_stop = [self.held.tell_values]
        self._here = [self.owner]
        self.now = rehearsal

    def need_none(self) -> None:
        """Raise BadInput while a rehearsal is under way."""
        if self.now is not None and self.now.on:
            raise BadInput("A rehearsal is under way on this stage.", hint="End it first.")

    def close(self) -> None:
        """End what is under way: the stage goes."""
        self.held.stop_search()
        self.held.stop_doing()
        if self.now is not None and self.now.on and not self.now.in_run:
            self.now.stop("The stage was closed.")
            self.now.wait(ENDING)

    # -- beginning -------------------------------------------------------------------------------

    def _need(self) -> Rehearsal:
        if self.now is None or not self.now.on:
            raise BadInput("Nothing is being rehearsed here.", hint="Press Rehearse first.")
        return self.now

    def _rehearse(self, message: RehearseAsked) -> None:
        self.need_none()
        self._stage.desk.end_recording()
        start, row = message.get("start"), str(message.get("row") or "")
        path = _path(start) if start else ()
        rehearsal = Rehearsal(self._stage, self._stage.keeper.scripts, self.owner)
        if start and not message.get("fresh") and not message.get("sure"):
            begun = self._stage.keeper.scripts.rehearsal(row, {})
            if self._lacks(begun.script, start):
                return
        rehearsal.here = list({one["account"]: one for one in self._here}.values())
        rehearsal.on_stop = [self.held.tell_values]
        rehearsal.prepare(row, hold=bool(message.get("hold")))
        self.now = rehearsal
        self.held.forget()
        rehearsal.begin(path, fresh=bool(message.get("fresh")))

    def _lacks(self, script: Script, start: PathAsked) -> bool:
        """Tell what is missing on the page to begin at a sentence; whether anything is."""
        document = _document(script, start["calls"])
        page = self._stage.context.current
        address = self._stage.keeper.scripts.played_at(start["step"])
        wants = needs(document.steps, start["step"], address)
        known = {key: script.elements[key] for key in wants.elements if key in script.elements}
        found = {key: len(self._find(one, script)) for key, one in known.items()}
        names = {key: one.name for key, one in known.items()}
        told = missing(wants, self._stage.title_of(page), page.address, found, names)
        if told:
            self._stage.live.say(
                {"type": "lacks", "calls": start["calls"], "step": start["step"], "missing": told}
            )
        return bool(told)

    def _find(self, element: Element, script: Script) -> list[Any]:
        page = self._stage.context.current
        if page.dialog or not page.address.startswith("http"):
            return []
        try:
            element = element.filled(lambda value: resolve(value, script.names))
        except Problem:
            return [element]  # its values are not known yet: nothing can be said
        seen = look(page, ask.Lookup(query_for(element)), threading.Event().wait)
        return list(found_by(element, seen.candidates))

    # -- going on --------------------------------------------------------------------------------

    def _hand(self, message: HandAsked) -> None:
        rehearsal, what = self._need(), message["do"]
        if what == "hold":
            self.held.stop_doing()
            rehearsal.hold()
        elif what == "end":
            self._settle()
            self.held.stop_doing()
            rehearsal.end()
        elif what in WAYS:
            self._go(Order(way=WAYS[what]))
        elif what == "again":
            self._go(Order(ask.Onward("again"), "play"))
        elif what == "skip":
            self._go(Order(ask.Onward("skip"), "into"))
        else:
            self._go(Order(ask.GO_ON, "play"))

    def _go(self, order: Order) -> None:
        rehearsal = self._need()
        if self.held.busy:
            raise BadInput("Something is being done on the spot.", hint="Hold it first.")
        self._settle()
        rehearsal.order(order)

    def _settle(self) -> None:
        """End what belongs to a stop: recording and searching."""
        self.held.stop_search()
        if self._stage.recording.on:
            self._stage.recording.turn(on=False)
            self._stage.recording.in_turn(lambda: None)

    def _on_to(self, message: ToAsked) -> None:
        flow = _flow_of(self._need().script, message["calls"])
        self._go(Order(way="to", goal=(flow, str(message["step"]))))

    def _from_here(self, message: ToAsked) -> None:
        rehearsal = self._need()
        start: PathAsked = {"calls": list(message["calls"]), "step": str(message["step"])}
        if not start["step"]:
            self._go(Order(moved=Moved((), fresh=True)))
            return
        script = self._stage.keeper.scripts.now(rehearsal.script)

        def move() -> None:
            if message.get("sure") or not self._lacks(script, start):
                rehearsal.order(Order(moved=Moved(_path(start))))

        self._settle()
        rehearsal.order(Order(work=move))

    def _pace(self, message: PaceAsked) -> None:
        seconds = message["seconds"]
        self._need().set_pace(
            None if seconds is None else float(seconds), light=bool(message["light"])
        )

    def recording_place(self) -> str | None:
        """Return before which sentence recording goes on, None for as it is asked.

        Raises BadInput while the rehearsal plays, or is held where nothing can be recorded.
        """
        if self.now is None or not self.now.on:
            return None
        if not self.now.held or self.now.spot is None:
            raise BadInput("The rehearsal plays.", hint="Hold it, then record.")
        if self.now.spot.flow:
            raise BadInput(
                "Recording goes into the test, and this sentence is in a flow.",
                hint="Open the flow to record in it, or do one sentence on the spot.",
            )
        self.now.edited()
        return self.now.spot.step.id

    def recorded(self, steps: Sequence[str]) -> None:
        """Tell which sentences were recorded while it was held."""
        if self.now is not None and self.now.held and steps:
            self._stage.live.say(
                {
                    "type": "on the spot",
                    "sentence": "",
                    "outcome": "recorded",
                    "message": "",
                    "found": "",
                    "kept": True,
                    "steps": list(steps),
                }
            )


def _path(start: PathAsked) -> tuple[str, ...]:
    return (*map(str, start["calls"]), str(start["step"]))


def _flow_of(script: Script, calls: Sequence[str]) -> str:
    """Return the id of the flow that calls lead to, "" for none; raises BadInput."""
    flow, document = "", script.document
    for call in calls:
        step = next((one for one in document.steps if one.id == call), None)
        if step is None or step.flow not in script.flows:
            raise BadInput("The flow is not called there any more.")
        flow, document = step.flow, script.flows[step.flow].document
    return flow


def _document(script: Script, calls: Sequence[str]) -> Document:
    flow = _flow_of(script, calls)
    return script.flows[flow].document if flow else script.document
