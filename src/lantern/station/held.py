"""What is done while a rehearsal is held: values, watches, on the spot, candidates, searches."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from lantern.core.channel import (
    OnTheSpotAsked,
    OnTheSpotSaid,
    SearchAsked,
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
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import BadInput, Problem
from lantern.core.rehearsing.tracing import called
from lantern.core.rehearsing.watching import MOST, Watched, looked_at, worked_out
from lantern.core.steps.catalogue import action_of, check_inputs
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.values.templates import resolve
from lantern.station.guides import Watcher
from lantern.station.lookup import survey
from lantern.station.orders import Order
from lantern.station.player import Player
from lantern.station.rehearsal import Rehearsal
from lantern.station.searching import Search
from lantern.store.documents import new_id

if TYPE_CHECKING:
    from lantern.station.stage import Stage

ON_THE_SPOT = "on-the-spot"


class _Last(Watcher):
    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self.result: StepResult | None = None

    def file(self, name: str) -> bytes | None:
        return self._stage.keeper.file(name)

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        self.result = result


class Held:
    """What who has the controls does while the rehearsal of a stage is held.

    `need` returns the rehearsal that is on, or raises BadInput.
    """

    def __init__(self, stage: Stage, need: Callable[[], Rehearsal]) -> None:
        self._stage, self._need = stage, need
        self._watches: list[WatchAsked] = []
        self._done: tuple[Step, Element | None, OnTheSpotSaid] | None = None
        self._doing: Player | None = None
        self._search: Search | None = None
        self.commands: dict[str, Callable[[Any], None]] = {
            "set value": self._set_value,
            "values": lambda _: self._need().order(Order(work=self.tell_values)),
            "watch": self._watch,
            "on the spot": self._on_the_spot,
            "keep on the spot": self._keep,
            "candidates": lambda _: self._need().order(Order(work=self._candidates)),
            "search": self._search_otherwise,
            "stop search": self.stop_search,
        }

    @property
    def busy(self) -> bool:
        """Whether something is being done on the spot."""
        return self._doing is not None

    def forget(self) -> None:
        """Forget what was done on the spot: another rehearsal begins."""
        self._done = None

    # -- values ----------------------------------------------------------------------------------

    def _set_value(self, message: ValueAsked) -> None:
        rehearsal = self._need()

        def change() -> None:
            if rehearsal.spot is None:
                return
            source, name = str(message["source"]), str(message["name"])
            rehearsal.ledger.change(rehearsal.spot, source, name, str(message["value"]))
            self.tell_values()

        rehearsal.order(Order(work=change))

    def _watch(self, message: WatchesAsked) -> None:
        self._watches = list(message["watches"])[:MOST]
        try:
            rehearsal = self._need()
        except BadInput:
            return  # they are told as soon as one is held
        if rehearsal.held:
            rehearsal.order(Order(work=self.tell_values))

    def tell_values(self) -> None:
        """Tell the values in reach, and what is watched; while it is held, on its thread."""
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
        except (Problem, ask.PageGone, ask.StageLost, ask.DriverFailed) as error:
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
        self.tell_values()

    def stop_doing(self) -> None:
        """Stop what is being done on the spot."""
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
        self.stop_search(None)
        element, spot = self._element(rehearsal)
        seconds = min(max(float(message.get("seconds") or 20.0), 1.0), 120.0)
        failed, settings = rehearsal.failed, spot.script.document.settings
        limit = failed.limit if failed and failed.limit else settings.limit
        self._search = Search(self._stage, element, spot, limit, seconds)
        self._search.begin()

    def stop_search(self, _: object = None) -> None:
        """Stop searching; what was found stays told."""
        if self._search is not None:
            self._search.stop()
