"""What an author does on a stage besides using it: stills, trying elements, playing a part."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import structlog

from lantern.browser.errors import BrowserError
from lantern.core.channel import (
    ActAsked,
    PeekAsked,
    PlainAsked,
    PlayToAsked,
    RepickAsked,
    TryAsked,
    box_said,
)
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts, tidy
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.repair import FINDS, verdict
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import query_for
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import BadInput, Problem
from lantern.core.recording.proposals import propose
from lantern.core.steps.catalogue import action_of
from lantern.core.steps.properties import avoided, offered
from lantern.station.guides import Cancelled, Watcher
from lantern.station.inspecting import learned
from lantern.station.lookup import look, survey
from lantern.station.player import Player
from lantern.station.proving import Prover, set_back
from lantern.station.redaction import safe_picture

if TYPE_CHECKING:
    from lantern.station.stage import Stage

log = structlog.get_logger()


class _Author(Watcher):
    """Tells the author's page how playing on the stage goes."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self.failed: StepResult | None = None

    def file(self, name: str) -> bytes | None:
        return self._stage.keeper.file(name)

    def step_starts(self, step: ask.StepStarts) -> None:
        self._stage.live.say({"type": "playing", "step": step.step_id})

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        if result.outcome == "failed":
            self.failed = result


class Desk:
    """The author's commands on one stage."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self._player: Player | None = None
        self._nodes: dict[int, Facts] = {}
        self.commands: dict[str, Callable[[Any], None]] = {
            "still": self._still,
            "act": self._act,
            "peek": self._peek,
            "try": self._try,
            "repick": self._repick,
            "play to": self._play_to,
            "prove": self._prove,
            "stop playing": self._stop_playing,
        }

    # -- stills --------------------------------------------------------------------------------

    def _still(self, _: PlainAsked | None = None) -> None:
        """Freeze the page: keep its picture and all that is recognised on it, tell the number."""
        page = self._stage.context.current
        if page.dialog:
            raise BadInput("Answer the dialog of the page first.")
        picture = safe_picture(page, self._stage.keeper.secrets())
        nodes = survey(page)
        said = page.probe("page")
        kept = self._stage.keeper.save_page(
            str(said["title"]), nodes, page.address, str(said["release"]), picture
        )
        self._nodes = {facts.order + 1: facts for facts in nodes}
        self._stage.live.say({"type": "still", "page": kept})

    def _peek(self, message: PeekAsked) -> None:
        """Tell what a thing of the still shows now: every property that can be checked of it."""
        facts = self._nodes.get(int(message["node"]))
        page = self._stage.context.current
        if facts is None or page.dialog:
            return
        values = page.probe("properties", facts.handle, frame=facts.frame)
        shows = {one["name"]: one["value"] for one in offered(kind_of(facts), values or {})}
        self._stage.live.say({"type": "peeked", "node": int(message["node"]), "shows": shows})

    def _act(self, message: ActAsked) -> None:
        """Add a sentence for a node of the still, and carry it out at once if asked."""
        facts = self._nodes.get(int(message["node"]))
        if facts is None:
            raise BadInput("That still is too old.", hint="Take a new still.")
        page = self._stage.context.current
        title = self._stage.title_of(page)
        inputs = {str(k): str(v) for k, v in (message.get("inputs") or {}).items()}
        avoid = avoided(kind_of(facts), inputs.get("property", ""))
        proposal = propose(facts, tuple(self._nodes.values()), title, avoid)
        if str(message.get("name") or "").strip():
            proposal = replace(proposal, name=tidy(message["name"])[:120])
        step = self._stage.keeper.add_step(
            str(message["action"]), inputs, proposal, title, self._stage.live.last
        )
        if action_of(str(message["action"])).block:
            self._stage.keeper.after = step  # what is added next goes into the block
        if message.get("perform"):
            self._play([step], then=self._still)

    # -- elements ------------------------------------------------------------------------------

    def _try(self, message: TryAsked) -> None:
        """Tell what an element, as it is being edited, finds on the stage now."""
        raw = dict(message["element"])
        try:
            element = Element.read(raw)
        except Problem as error:
            self._say_verdict("does not work", error.message, [])
            return
        element = element.filled(self._stage.keeper.scripts.fill)
        page = self._stage.context.current
        if page.dialog or not page.address.startswith("http"):
            self._say_verdict("finds nothing", "Open a page on the stage first.", [])
            return
        seen = look(page, ask.Lookup(query_for(element)), threading.Event().wait)
        its = verdict(element, seen.candidates, int(message.get("meant") or 0))
        self._say_verdict(its.word, "", list(its.found))

    def _say_verdict(self, word: str, why: str, found: list[Facts]) -> None:
        self._stage.live.say(
            {
                "type": "verdict",
                "word": word,
                "fine": word == FINDS,
                "why": why,
                "count": len(found),
                "boxes": [box_said(facts.box) for facts in found if facts.visible],
                "shows": [(facts.name or facts.text)[:60] for facts in found[:5]],
            }
        )

    def _repick(self, message: RepickAsked) -> None:
        """Learn the element anew from the thing at a point."""
        raw, _ = self._stage.pointer.at_point("pick", float(message["x"]), float(message["y"]))
        if raw is None:
            raise BadInput("There is nothing at that point.", hint="Point at something else.")
        page = self._stage.context.current
        nodes = survey(page)
        facts = Facts.read(raw["facts"])
        target = next((node for node in nodes if node.handle == facts.handle), facts)
        made = learned(target, [*nodes, target], self._stage.title_of(page))
        element = made.element.as_json() | {"kind": kind_of(target)}
        self._stage.live.say(
            {
                "type": "repicked",
                "element": element,
                "handle": target.handle,
                "strength": made.strength.share,
                "weakest": made.strength.weakest,
            }
        )

    # -- playing -------------------------------------------------------------------------------

    def _play_to(self, message: PlayToAsked) -> None:
        """Play the test from its start up to a sentence, then record on from there if asked."""
        if self._rehearsed():
            return
        until = str(message["step"])
        without = {str(step) for step in message.get("without") or ()}
        steps = [one for one in self._stage.keeper.scripts.until(until) if one not in without]
        self._stage.fresh()

        def then() -> None:
            if message.get("record"):
                self._stage.recording.turn(on=True, after=until)

        self._play(steps, then=then)

    def _prove(self, _: PlainAsked) -> None:
        """Play the whole test on a fresh stage and hold every page against its recording."""
        keeper = self._stage.keeper
        if self._rehearsed():
            return
        self.end_recording()
        if address := keeper.scripts.reset_address():
            try:
                set_back(address)
            except BadInput as error:
                self._say_played(error.message, error.hint)
                return
        self._stage.fresh()
        script, prover = keeper.scripts.proof()

        def then() -> None:
            keeper.keep_proof(prover)
            self._stage.live.say({"type": "proved", "differ": len(prover.found)})

        self._play_script(script, then, prover)

    def _rehearsed(self) -> bool:
        """Tell whether a rehearsal is under way, and say that nothing else is played then."""
        try:
            self._stage.rehearsals.need_none()
        except BadInput as error:
            self._say_played(error.message, error.hint)
            return True
        return False

    def end_recording(self) -> None:
        """End recording, so that something can be played; raises BadInput while something is."""
        if self._player is not None:
            raise BadInput("Something is being played on this stage already.")
        if self._stage.recording.on:
            self._stage.recording.turn(on=False)
        self._stage.recording.in_turn(lambda: None)  # what was reported is recorded first

    def _play(self, steps: list[str], then: Callable[[], None]) -> None:
        self.end_recording()
        self._play_script(self._stage.keeper.scripts.some(steps), then)

    def _play_script(
        self, script: Script, then: Callable[[], None], prover: Prover | None = None
    ) -> None:
        watcher = _Author(self._stage)
        player = self._player = Player(self._stage.context, watcher, closes=False, prover=prover)
        threading.Thread(
            target=self._carry_out, args=(player, script, watcher, then), daemon=True
        ).start()

    def _carry_out(
        self, player: Player, script: Script, watcher: _Author, then: Callable[[], None]
    ) -> None:
        failed = hint = ""
        try:
            player.play(script)
            if watcher.failed:
                failed, hint = watcher.failed.message, watcher.failed.hint
        except Cancelled:
            failed = "Playing was stopped."
        except (Problem, BrowserError) as error:
            failed = str(error)
        except Exception:
            log.exception("playing_on_stage_failed")
            failed = "Playing on the stage went wrong."
        finally:
            self._player = None
        self._say_played(failed, hint)
        if not failed:
            try:
                then()
            except (Problem, BrowserError) as error:
                self._stage.live.say({"type": "error", "message": str(error), "hint": ""})

    def _say_played(self, failed: str, hint: str) -> None:
        self._stage.live.say({"type": "played", "failed": failed, "hint": hint})

    def _stop_playing(self, _: PlainAsked) -> None:
        player = self._player
        if player:
            player.cancel()
