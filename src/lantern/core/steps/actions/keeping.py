"""Keeping what the page shows, for later steps and for the results."""

from __future__ import annotations

from lantern.core.engine import requests as ask
from lantern.core.engine.finding import find
from lantern.core.engine.outcomes import StepFailed
from lantern.core.steps.actions.base import Action, Call, Input
from lantern.core.steps.actions.checking import observe
from lantern.core.steps.properties import check_property
from lantern.core.values.templates import check_name


def _keep(call: Call) -> ask.Play[None]:
    name = check_name(call.inputs["name"], "kept value")
    prop = check_property(call.inputs["property"])
    element = call.target()
    yield from find(element, call.limit, call.evidence, ready=False)
    value, _ = yield from observe(call, element, prop, None)
    if value is None:
        raise StepFailed(
            "not ready",
            f"“{element.name}” has no {prop} to keep.",
            hint="Choose another property of it.",
        )
    call.evidence.found = call.evidence.kept[name] = value
    yield from call.picture()


ENTRIES = (
    Action(
        "keep",
        "Keep",
        "Keep the {property} of {element} as {name}",
        _keep,
        (Input("property", "property", default="text"), Input("name", "name", default="kept")),
        help="Later sentences use it as ${kept.name}; the results show it beside the row.",
    ),
)
