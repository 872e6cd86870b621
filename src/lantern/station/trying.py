"""Trying checks before they are added: what each of them would find on the page now."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from lantern.browser.errors import BrowserError
from lantern.browser.session import Session
from lantern.core.channel import TriedSaid
from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import Problem
from lantern.core.recording.proposals import propose
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.steps.properties import avoided
from lantern.core.values.sources import Names
from lantern.core.values.templates import literal
from lantern.station.guides import Watcher
from lantern.station.player import Player
from lantern.store import elements

LIMIT = 0.3
"""Seconds that a check which is tried waits for what it wants."""


class _Last(Watcher):
    def __init__(self) -> None:
        self.result: StepResult | None = None

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        self.result = result


def try_checks(
    context: Session, picked: Mapping[str, Any], checks: Sequence[Mapping[str, Any]]
) -> list[TriedSaid]:
    """Carry checks of what was picked out at once; returns whether each holds, and what it found.

    Each check has `property`, `comparison` and `expected`; it is found by the clues that it would
    get. What can not be carried out does not hold, with the reason in `why`.
    """
    return [_try(context, picked, check) for check in checks]


def _try(context: Session, picked: Mapping[str, Any], check: Mapping[str, Any]) -> TriedSaid:
    facts = Facts.read(picked["facts"])
    name = str(check["property"])
    told = TriedSaid(property=name, holds=False, found="", why="")
    rivals = tuple(map(Facts.read, picked["rivals"]))
    avoid = avoided(kind_of(facts), name)
    element = elements.new(propose(facts, rivals, str(picked["page"]), avoid))
    inputs = {
        "property": name,
        "comparison": str(check["comparison"]),
        "expected": literal(str(check["expected"])),
    }
    step = Step("tried", "check", element=element.id, inputs=inputs)
    document = Document((step,), settings=Settings(LIMIT, pictures="none"))
    last = _Last()
    try:
        Player(context, last, closes=False).play(
            Script(document, {element.id: element}, Names(), "")
        )
    except (BrowserError, Problem) as error:
        return {**told, "why": str(error)}
    result = last.result
    if result is None:
        return told
    holds = result.outcome == "passed"
    why = "" if holds or result.reason == "check differed" else result.message
    return {**told, "holds": holds, "found": result.found, "why": why}
