"""Pointing at things of the stage: what is there, and the checks that are made of it."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from lantern.browser.errors import CommandFailed
from lantern.browser.session import Window
from lantern.core.channel import ChecksAsked, PointAsked, ShineAsked, TryChecksAsked, box_said
from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of, pressable_selector
from lantern.core.elements.naming import propose_name
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import query_for
from lantern.core.problems import BadInput
from lantern.core.recording.events import Event
from lantern.core.recording.proposals import Proposal, propose
from lantern.core.steps.properties import COMPARISONS, avoided, offered
from lantern.core.values.templates import literal
from lantern.core.values.templates import propose_name as propose_variable
from lantern.station.lookup import look
from lantern.station.trying import try_checks

if TYPE_CHECKING:
    from lantern.station.stage import Stage

Message = dict[str, Any]


class Pointer:
    """The commands by which an author points at things of one stage; remembers what was picked."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self._picked: dict[str, Any] | None = None
        self.commands: dict[str, Callable[[Any], None]] = {
            "point": self._point,
            "pick": self._pick,
            "shine": self._shine,
            "checks": self._add_checks,
            "try checks": self._try_checks,
        }

    @property
    def _page(self) -> Window:
        return self._stage.context.current

    def at_point(self, function: str, x: float, y: float, up: int = 0) -> tuple[Any, str]:
        """Ask the probe at a point, in the frame that is there; returns the answer and the frame.

        `up` says how many steps wider than what is right there is meant: the cell, its row, the
        table, the section it is in.

        Boxes in the answer are in the window's coordinates. Raises what `Page.probe` raises.
        """
        page = self._page
        frame, dx, dy = "", 0.0, 0.0
        try:
            frame = page.frame_at(x, y)
            dx, dy = page.frame_offset(frame)
        except CommandFailed:
            frame = ""  # nothing is there, or the frame is just going
        ask_at = (x - dx, y - dy, pressable_selector(), up)
        raw = page.probe(function, *ask_at, frame=frame, timeout=5)
        known = raw or {}
        for facts in [known.get("facts", known), *(known.get("rivals") or [])]:
            if facts.get("box"):
                facts["box"]["x"] += dx
                facts["box"]["y"] += dy
            own = "" if frame == page.main_frame else frame
            facts |= {"frame": own, "frames": page.frame_path(own)}
        return raw, frame

    def _point(self, message: PointAsked) -> None:
        up = int(message.get("wider") or 0)
        raw, _ = self.at_point("at", float(message["x"]), float(message["y"]), up)
        if raw is None:
            self._stage.live.say({"type": "light", "box": None, "name": "", "kind": ""})
            return
        facts = Facts.read(raw)
        self._stage.live.say(
            {
                "type": "light",
                "box": box_said(facts.box),
                "name": propose_name(facts),
                "kind": kind_of(facts),
            }
        )

    def _shine(self, message: ShineAsked) -> None:
        """Light up what an element finds on the page now: the answer to "which one is it?"."""
        element = self._stage.keeper.element(str(message["element"]))
        if element is None or self._page.dialog or not self._page.address.startswith("http"):
            self._stage.live.say({"type": "shine", "boxes": [], "name": "", "kind": ""})
            return
        seen = look(self._page, ask.Lookup(query_for(element)), time.sleep)
        found = element.among(seen.candidates)
        self._stage.live.say(
            {
                "type": "shine",
                "boxes": [box_said(facts.box) for facts in found if facts.visible],
                "name": element.name,
                "kind": element.kind,
            }
        )

    def _pick(self, message: PointAsked) -> None:
        up = int(message.get("wider") or 0)
        raw, _ = self.at_point("pick", float(message["x"]), float(message["y"]), up)
        if raw is None:
            raise BadInput("There is nothing at that point.", hint="Point at something else.")
        self._picked = raw | {
            "page": self._stage.title_of(self._page),
            "picture": self._stage.live.last,
        }
        facts = Facts.read(raw["facts"])
        proposal = propose(facts, tuple(map(Facts.read, raw["rivals"])), self._picked["page"])
        kind = kind_of(facts)
        self._stage.live.say(
            {
                "type": "picked",
                "name": proposal.name,
                "kind": kind,
                "box": box_said(facts.box),
                "clues": [clue.sentence() for clue in proposal.clues],
                "properties": offered(kind, raw["properties"]),
                "comparisons": list(COMPARISONS),
            }
        )

    def _add_checks(self, message: ChecksAsked) -> None:
        """Add a check, a wait or a kept value per chosen property of what was picked last."""
        if self._picked is None:
            raise BadInput("Point at something first, then choose what to check.")
        action = str(message.get("as") or "check")
        picked = self._picked
        facts = Facts.read(picked["facts"])
        rivals = tuple(map(Facts.read, picked["rivals"]))
        for check in message["checks"]:
            name = str(check["property"])
            avoid = avoided(kind_of(facts), name)
            proposal = propose(facts, rivals, picked["page"], avoid)
            inputs = {
                "property": name,
                "comparison": str(check["comparison"]),
                "expected": literal(str(check["expected"])),
            }
            if action == "keep":
                inputs = {"property": name, "name": self._kept_name(proposal.name, name)}
            self._look(action, proposal, inputs, picked)
        self._stage.live.say({"type": "checked"})

    def _try_checks(self, message: TryChecksAsked) -> None:
        """Say what each check of what was picked would find now."""
        if self._picked is None or self._page.dialog:
            return
        tried = try_checks(self._stage.context, self._picked, list(message["checks"]))
        self._stage.live.say({"type": "tried", "checks": tried})

    def _look(
        self, action: str, proposal: Proposal, inputs: dict[str, str], picked: dict[str, Any]
    ) -> None:
        """Add a sentence that looks at something, behind what was done before it."""
        page = self._page
        event = Event("window", page=str(picked["page"]), window=page.target)

        def add() -> None:
            # A window that has come up by itself has to be gone to first.
            for change in self._stage.recording.go_to(event):
                self._stage.keeper.keep(change, self._stage.live.last)
            self._stage.keeper.add_look(action, proposal, inputs, picked["page"], picked["picture"])

        self._stage.recording.in_turn(add)

    def _kept_name(self, element: str, prop: str) -> str:
        """Return a free name for a kept value: the element's, and the property if not text."""
        words = element if prop in ("text", "value") else f"{element} {prop}"
        first = name = propose_variable(words)
        taken = self._stage.keeper.kept_names()
        number = 2
        while name in taken:
            name, number = f"{first}_{number}", number + 1
        return name
