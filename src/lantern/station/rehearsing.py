"""What is asked of the rehearsal on a stage, by who has the controls."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from lantern.core.channel import (
    GiveHandAsked,
    HandAsked,
    OnTheSpotAsked,
    OnTheSpotSaid,
    PaceAsked,
    PathAsked,
    PersonSaid,
    RehearseAsked,
    Said,
    SearchAsked,
    ToAsked,
    ValueAsked,
    ValuesSaid,
    WatchAsked,
    WatchesAsked,
    WatchSaid,
    box_said,
)
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import tidy
from lantern.core.elements.repair import found_by, propose
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import query_for
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import BadInput, Problem
from lantern.core.rehearsing.beginning import missing, needs
from lantern.core.rehearsing.hand import Way
from lantern.core.rehearsing.tracing import called
from lantern.core.rehearsing.watching import MOST, Watched, looked_at, worked_out
from lantern.core.steps.catalogue import action_of, check_inputs
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.values.templates import resolve
from lantern.station.lookup import look, survey
from lantern.station.player import Player, Watcher
from lantern.station.rehearsal import Moved, Order, Rehearsal, nothing
from lantern.station.searching import Search
from lantern.store.documents import new_id

if TYPE_CHECKING:
    from lantern.station.stage import Stage

ON_THE_SPOT = "on-the-spot"
WAYS: dict[str, Way] = {"play": "play", "over": "over", "into": "into", "out": "out"}


class _Last(Watcher):
    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self.result: StepResult | None = None

    def file(self, name: str) -> bytes | None:
        return self._stage.keeper.file(name)

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        self.result = result


class Rehearsals:
    """The rehearsal of one stage: begun, gone on with, looked into, one at a time."""

    def __init__(self, stage: Stage, owner: PersonSaid) -> None:
        self._stage, self.owner = stage, owner
        self.now: Rehearsal | None = None
        self._here: list[PersonSaid] = []
        self._watches: list[WatchAsked] = []
        self._done: tuple[Step, Element | None, OnTheSpotSaid] | None = None
        self._doing: Player | None = None
        self._search: Search | None = None
        self.commands: dict[str, Callable[[Any], None]] = {
            "rehearse": self._rehearse,
            "hand": self._hand,
            "on to": self._on_to,
            "from here": self._from_here,
            "pace": self._pace,
            "set value": self._set_value,
            "values": lambda _: self._need().order(Order(work=self._tell_values)),
            "watch": self._watch,
            "on the spot": self._on_the_spot,
            "keep on the spot": self._keep,
            "candidates": lambda _: self._need().order(Order(work=self._candidates)),
            "search": self._search_otherwise,
            "stop search": self._stop_search,
            "give hand": self._give_hand,
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
            self.now.hold()
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
        rehearsal.on_stop = [self._tell_values]
        self._here = [self.owner]
        self.now = rehearsal

    def need_none(self) -> None:
        """Raise BadInput while a rehearsal is under way."""
        if self.now is not None and self.now.on:
            raise BadInput("A rehearsal is under way on this stage.", hint="End it first.")

    def close(self) -> None:
        """End what is under way: the stage goes."""
        self._stop_search(None)
        self._stop_doing()
        if self.now is not None and self.now.on and not self.now.in_run:
            self.now.end("The stage was closed.")

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
        rehearsal.on_stop = [self._tell_values]
        rehearsal.prepare(row, hold=bool(message.get("hold")))
        self.now, self._done = rehearsal, None
        rehearsal.begin(path, fresh=bool(message.get("fresh")))

    def _lacks(self, script: Script, start: PathAsked) -> bool:
        """Tell what is missing on the page to begin at a sentence; whether anything is."""
        document = _document(script, start["calls"])
        page = self._stage.context.current
        address = self._stage.keeper.scripts.played_at(start["step"])
        try:
            wants = needs(document.steps, start["step"], address)
        except StopIteration:
            raise BadInput("That sentence is not in the story any more.") from None
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
            self._stop_doing()
            rehearsal.hold()
        elif what == "end":
            self._settle()
            self._stop_doing()
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
        if self._doing is not None:
            raise BadInput("Something is being done on the spot.", hint="Hold it first.")
        self._settle()
        rehearsal.order(order)

    def _settle(self) -> None:
        """End what belongs to a stop: recording and searching."""
        self._stop_search(None)
        if self._stage.recording:
            self._stage.record(on=False)
            self._stage.in_turn(lambda: None)

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

    # -- values ----------------------------------------------------------------------------------

    def _set_value(self, message: ValueAsked) -> None:
        rehearsal = self._need()

        def change() -> None:
            if rehearsal.spot is None:
                return
            source, name = str(message["source"]), str(message["name"])
            rehearsal.ledger.change(rehearsal.spot, source, name, str(message["value"]))
            self._tell_values()

        rehearsal.order(Order(work=change))

    def _watch(self, message: WatchesAsked) -> None:
        self._watches = list(message["watches"])[:MOST]
        if self.now is not None and self.now.held:
            self.now.order(Order(work=self._tell_values))

    def _tell_values(self) -> None:
        rehearsal = self._need()
        if rehearsal.spot is None:
            return
        told: ValuesSaid = {
            "type": "values",
            "values": [
                {
                    "source": one.source,
                    "name": one.name,
                    "value": one.value,
                    "what": one.what,
                    "changed": one.changed,
                    "hidden": one.hidden,
                    "before": [
                        {"value": was.value, "sentence": was.sentence} for was in one.before
                    ],
                }
                for one in rehearsal.ledger.in_reach(rehearsal.spot)
            ],
            "watches": [self._watched(one, rehearsal.spot) for one in self._watches],
        }
        self._stage.live.say(told)

    def _watched(self, watch: WatchAsked, spot: ask.Spot) -> WatchSaid:
        if watch.get("expression"):
            came = worked_out(watch["expression"], spot.script.names)
        else:
            came = self._read(str(watch.get("element")), str(watch.get("property")), spot)
        return {"id": watch["id"], "value": came.value, "wrong": came.wrong}

    def _read(self, key: str, prop: str, spot: ask.Spot) -> Watched:
        element = spot.script.elements.get(key) or self._stage.keeper.element(key)
        if element is None:
            return Watched(wrong="the element was deleted")
        try:
            filled = element.filled(lambda value: resolve(value, spot.script.names))
            player = Player(self._stage.context, Watcher(), closes=False)
            return player.carry_out(looked_at(filled, prop))
        except (Problem, ask.PageGone, ask.StageLost) as error:
            return Watched(wrong=str(error))

    # -- on the spot -----------------------------------------------------------------------------

    def _on_the_spot(self, message: OnTheSpotAsked) -> None:
        rehearsal = self._need()
        action = action_of(str(message["action"]))
        if action.block:
            raise BadInput("A block can not be done on the spot.", hint="Do what is in it.")
        inputs = {str(key): str(value) for key, value in message["inputs"].items()}
        check_inputs(action, inputs)
        made = Element.read(message["made"]) if message.get("made") else None
        made = made and replace(made, id=new_id())
        element = made.id if made else str(message.get("element") or "")
        step = Step(ON_THE_SPOT, action.name, element, inputs)
        rehearsal.order(Order(work=lambda: self._do(rehearsal, step, made)))

    def _do(self, rehearsal: Rehearsal, step: Step, made: Element | None) -> None:
        """Carry a sentence out that is not in the story, with the names that hold here."""
        spot = rehearsal.spot
        if spot is None:
            return
        known = dict(spot.script.elements)
        if made:
            known[made.id] = made
        elif step.element and step.element not in known:
            there = self._stage.keeper.element(step.element)
            known |= {step.element: there} if there else {}
        limit = spot.script.document.settings.limit
        document = Document((step,), settings=Settings(limit, pictures="none"))
        script = replace(spot.script, document=document, elements=known)
        last = _Last(self._stage)
        self._doing = player = Player(self._stage.context, last, closes=False)
        try:
            player.play(script)
        finally:
            self._doing = None
        if last.result is None:
            return
        said: OnTheSpotSaid = {
            "type": "on the spot",
            "sentence": last.result.sentence,
            "outcome": last.result.outcome,
            "message": last.result.message,
            "found": last.result.found,
            "kept": False,
            "steps": [],
        }
        self._done = step, made, said
        self._stage.live.say(said)
        self._tell_values()

    def _stop_doing(self) -> None:
        if self._doing is not None:
            self._doing.cancel()

    def _keep(self, _: object) -> None:
        """Put what was done on the spot into the story, before the sentence at which it is held."""
        rehearsal = self._need()
        if self._done is None or rehearsal.spot is None:
            raise BadInput("Nothing was done on the spot.")
        step, made, said = self._done
        spot = rehearsal.spot
        page = self._stage.title_of(self._stage.context.current)
        placed = replace(step, page=page)
        scripts = self._stage.keeper.scripts
        made_id = scripts.put_before(spot.flow, spot.step.id, placed, made)
        self._done = None
        rehearsal.edited()
        self._stage.live.say({**said, "kept": True, "steps": [made_id]})

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

    # -- which one is it, and why was it not found ---------------------------------------------

    def _element(self, rehearsal: Rehearsal) -> tuple[Element, ask.Spot]:
        spot = rehearsal.spot
        key = spot.step.element if spot else ""
        story = self._stage.keeper.scripts.now(rehearsal.script)
        element = story.elements.get(key)
        if spot is None or element is None:
            raise BadInput("The sentence at which it is held has no element.")
        return element.filled(lambda value: resolve(value, spot.script.names)), spot

    def _candidates(self) -> None:
        element, spot = self._element(self._need())
        nodes = survey(self._stage.context.current)
        fits = {facts.handle for facts in found_by(element, nodes)}
        listed = propose(element, nodes, most=8)
        shares = {one.facts.handle: one for one in listed}
        for facts in nodes:
            if facts.handle in fits and facts.handle not in shares:
                listed += propose(element, [facts], most=1)
        self._stage.live.say(
            {
                "type": "candidates",
                "element": element.id,
                "name": element.name,
                "all": [
                    {
                        "name": tidy(called(one.facts)),
                        "share": one.score,
                        "fits": one.facts.handle in fits,
                        "box": box_said(one.facts.box),
                        "agrees": list(one.agrees),
                        "differs": list(one.differs),
                        "node": one.facts.handle,
                    }
                    for one in listed
                ],
                "picture": spot.step.picture,
                "place": list(spot.step.box) if spot.step.box else None,
            }
        )

    def _search_otherwise(self, message: SearchAsked) -> None:
        rehearsal = self._need()
        if not rehearsal.held:
            raise BadInput("The rehearsal is not held.", hint="Hold it first.")
        self._stop_search(None)
        element, spot = self._element(rehearsal)
        seconds = min(max(float(message.get("seconds") or 20.0), 1.0), 120.0)
        story = self._stage.keeper.scripts.now(rehearsal.script)
        self._search = Search(self._stage, element, spot, story, seconds)
        self._search.begin()

    def _stop_search(self, _: object) -> None:
        if self._search is not None:
            self._search.stop()


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
