"""Calls of flows: what they are given, what they give back."""

from __future__ import annotations

from dataclasses import dataclass, replace

from lantern.core.data.table import Trait
from lantern.core.engine import requests as ask
from lantern.core.engine.attempt import Flow, Script
from lantern.core.engine.coding import code_request
from lantern.core.engine.outcomes import StepFailed, StepResult
from lantern.core.problems import Problem
from lantern.core.steps.model import Step
from lantern.core.steps.tree import Node
from lantern.core.values.sources import Names
from lantern.core.values.templates import resolve


@dataclass
class Call:
    """A call of a flow that is under way: how it failed, where that is the call's own doing."""

    node: Node
    position: int
    failed: StepResult | None = None
    on_failure: str = "stop"


def names_inside(step: Step, flow: Flow, names: Names) -> Names:
    """Return the names that hold inside a flow as a step calls it; raises Problem for a value."""
    given = {
        one.name: resolve(step.inputs.get(one.name, "") or one.default, names, step.id)
        for one in flow.document.takes
    }
    for one in flow.document.takes:
        message, _ = Trait(one.kind).problem(given[one.name])
        if message:
            raise Problem(f"The input {one.name} of “{flow.name}”: {message}", where=step.id)
    # What is made up inside differs from call to call.
    seed = f"{names.seed}|{step.id}"
    return replace(names, row={}, kept={}, each={}, given=given, seed=seed)


def handed_back(script: Script, stopped: str) -> dict[str, str]:
    """Return the outputs of a flow; raises Problem when it ended well without one of them."""
    kept = script.names.kept
    missing = [name for name in script.document.gives if name not in kept]
    if missing and not stopped:
        raise Problem(f"The flow kept no {missing[0]}, which it is to give.", where=missing[0])
    return {name: kept[name] for name in script.document.gives if name in kept}


def run_code(script: Script, limit: float) -> ask.Play[dict[str, str]]:
    """Run a flow that is written in Python; returns what it gives. Raises StepFailed."""
    ran: ask.Ran = yield code_request(script.document.code, script.names.given, limit)
    if ran.error:
        where = f" in line {ran.line}" if ran.line else ""
        raise StepFailed("code failed", f"The code failed{where}: {ran.error}")
    missing = [name for name in script.document.gives if name not in ran.gave]
    if missing:
        raise StepFailed("code failed", f"The code gave no {missing[0]}, which it is to give.")
    return {name: ran.gave[name] for name in script.document.gives}
