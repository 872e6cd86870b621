"""Waiting: for a property, for a quiet page, or just for some time."""

from __future__ import annotations

from lantern.core.engine import requests as ask
from lantern.core.engine.outcomes import StepFailed
from lantern.core.problems import BadInput
from lantern.core.steps.actions.base import Action, Call, Input
from lantern.core.steps.actions.checking import looks, wait_for
from lantern.core.steps.properties import COMPARISONS

LONGEST_PAUSE = 600.0


def _number(call: Call, name: str, most: float) -> float:
    text = call.inputs[name]
    try:
        number = float(text)
    except ValueError as error:
        raise BadInput(f"{text!r} is not a number.", where=name) from error
    if not 0 <= number <= most:
        raise BadInput(f"{text} is not between 0 and {most:g}.", where=name)
    return number


def _wait_until(call: Call) -> ask.Play[None]:
    if not (yield from wait_for(call)):
        prop, comparison = call.inputs["property"], call.inputs["comparison"]
        raise StepFailed(
            "waited in vain",
            f"The {prop} of “{call.target().name}” was “{call.evidence.found}” after "
            f"{call.limit:g} s; waited until it {comparison} “{call.inputs['expected']}”.",
            expected=call.evidence.expected,
            found=call.evidence.found,
            hint="Give it a longer time limit if the page may take that long.",
        )


def _quiet(call: Call) -> ask.Play[None]:
    still = _number(call, "milliseconds", LONGEST_PAUSE * 1000) / 1000
    if not (yield from ask.Quiet(still, call.limit)):
        raise StepFailed(
            "waited in vain",
            f"The page was never quiet for {still * 1000:g} ms within {call.limit:g} s.",
            hint="A page that asks its server all the time is never quiet: wait for an element.",
        )
    yield from call.picture()


def _pause(call: Call) -> ask.Play[None]:
    yield from ask.Wait(_number(call, "seconds", LONGEST_PAUSE))
    yield from call.picture()


def _go_on(_: Call) -> ask.Play[None]:
    return
    yield  # pragma: no cover - a generator that asks for nothing


ENTRIES = (
    Action(
        "wait until",
        "Wait until",
        "Wait until the {property} of {element} {comparison} {expected}",
        _wait_until,
        (
            Input("property", "property", default="shown"),
            Input("comparison", "comparison", tuple(COMPARISONS), "is"),
            Input("expected", default="yes"),
        ),
        looks=looks,
        help="Goes on as soon as it is so; fails when it is not within the time limit.",
    ),
    Action(
        "quiet",
        "Wait until quiet",
        "Wait until the page is quiet for {milliseconds} ms",
        _quiet,
        (Input("milliseconds", "number", default="500"),),
        kinds=None,
        help="No request under way and nothing changing for that long.",
    ),
    Action(
        "pause",
        "Pause",
        "Pause for {seconds} s",
        _pause,
        (Input("seconds", "number", default="1"),),
        kinds=None,
        help="Costs its whole time in every row. Waiting until something is so is better.",
    ),
    Action(
        "hold",
        "Pause here when rehearsing",
        "Pause here when rehearsing",
        _go_on,
        kinds=None,
        help="Stops everybody's rehearsals at this place. Tries and runs pass over it.",
        holds=True,
    ),
)
