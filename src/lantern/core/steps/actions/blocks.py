"""Blocks: sentences that decide whether, and how often, the sentences inside them are played."""

from __future__ import annotations

from collections.abc import Mapping

from lantern.core.engine import requests as ask
from lantern.core.engine.finding import find
from lantern.core.engine.outcomes import StepFailed
from lantern.core.problems import BadInput
from lantern.core.steps.actions.base import Action, Block, Call, Input
from lantern.core.steps.actions.checking import observe, wait_for
from lantern.core.steps.properties import COMPARISONS, compare
from lantern.core.steps.tables import READ, Table
from lantern.core.values.templates import propose_name

SHORT = 1.0
"""Seconds that a condition looks for what it is about: its absence must not make a test slow."""
MOST_ROUNDS = 1000
NUMBER = "number"
"""The name under which a repeat tells the round it is in: ${each.number}."""


def _once(_: Call) -> ask.Play[bool]:
    return True
    yield  # pragma: no cover - a generator that asks for nothing


def _holds(call: Call) -> ask.Play[bool]:
    """Tell whether a property is as said within the limit; what is not there has none."""
    try:
        held: bool = yield from wait_for(call)
    except StepFailed as failure:
        if failure.reason != "not found":
            raise
        call.evidence.found = "not there"
        return False
    return held


def _compares(call: Call) -> ask.Play[bool]:
    value, comparison = call.inputs["value"], call.inputs["comparison"]
    call.evidence.expected, call.evidence.found = call.inputs["expected"], value
    return compare(value, comparison, call.inputs["expected"])
    yield  # pragma: no cover - a generator that asks for nothing


def rounds(call: Call, name: str) -> int:
    """Return how many rounds an input allows; raises BadInput outside 0 to MOST_ROUNDS."""
    text = call.inputs[name]
    if not text.strip().isdigit() or int(text) > MOST_ROUNDS:
        raise BadInput(f"{text!r} is not a number from 0 to {MOST_ROUNDS}.", where=name)
    return int(text)


def _times(call: Call) -> ask.Play[list[Mapping[str, str]]]:
    return [{NUMBER: str(n + 1)} for n in range(rounds(call, "times"))]
    yield  # pragma: no cover - a generator that asks for nothing


def _rows(call: Call) -> ask.Play[list[Mapping[str, str]]]:
    element = call.target()
    yield from find(element, call.limit, call.evidence, ready=False)
    text, _ = yield from observe(call, element, READ, None)
    if text is None:
        raise StepFailed("not ready", f"“{element.name}” has no rows to repeat for.")
    table = Table.read(text)
    if len(table.rows) > MOST_ROUNDS:
        raise BadInput(f"The table has {len(table.rows)} rows; a repeat takes {MOST_ROUNDS}.")
    names = [propose_name(head) for head in table.headers]
    return [
        {**dict(zip(names, row, strict=False)), NUMBER: str(place + 1)}
        for place, row in enumerate(table.rows)
    ]


_PROPERTY = (
    Input("property", "property", default="shown"),
    Input("comparison", "comparison", tuple(COMPARISONS), "is"),
    Input("expected", default="yes"),
)
_VALUE = (
    Input("value"),
    Input("comparison", "comparison", tuple(COMPARISONS), "is"),
    Input("expected"),
)
_OF_ELEMENT = "the {property} of {element} {comparison} {expected}"
_LOOKS = f"Looks for up to {SHORT:g} s, then goes on; it never fails because something is missing."


def _condition(name: str, title: str, block: Block) -> Action:
    """Return a condition on a property of an element."""
    template = f"{title} {_OF_ELEMENT}"
    return Action(name, title, template, _holds, _PROPERTY, help=_LOOKS, block=block, limit=SHORT)


def _comparison(name: str, title: str, block: Block) -> Action:
    """Return a condition on a value."""
    template = f"{title.removesuffix(' a value')} {{value}} {{comparison}} {{expected}}"
    told = "Compares two values; either may hold ${…}."
    return Action(name, title, template, _compares, _VALUE, kinds=None, help=told, block=block)


ENTRIES = (
    _condition("if", "If", "if"),
    _comparison("if value", "If a value", "if"),
    _condition("else if", "Else, if", "else if"),
    _comparison("else if value", "Else, if a value", "else if"),
    Action(
        "else",
        "Else",
        "Else",
        _once,
        kinds=None,
        help="For when no condition right before it held.",
        block="else",
    ),
    Action(
        "repeat",
        "Repeat",
        "Repeat {times} times",
        _times,
        (Input("times", "number", default="2"),),
        kinds=None,
        help="The sentences inside use ${each.number} for the round they are in.",
        block="repeat",
    ),
    Action(
        "repeat rows",
        "Repeat for each row",
        "Repeat for each row of {element}",
        _rows,
        kinds=frozenset({"table", "list"}),
        help="The sentences inside use the row's cells by their headers, as ${each.piece}.",
        block="repeat",
    ),
    Action(
        "while",
        "Repeat while",
        f"Repeat while {_OF_ELEMENT}, at most {{most}} times",
        _holds,
        (*_PROPERTY, Input("most", "number", default="20")),
        help="Fails when it still holds after that many rounds.",
        block="while",
        limit=SHORT,
    ),
    Action(
        "try",
        "Try",
        "Try this; go on if it fails",
        _once,
        kinds=None,
        help="For what is there only at times, such as a notice to close.",
        block="try",
        limit=3.0,
    ),
    Action(
        "section",
        "Section",
        "Section {name}",
        _once,
        (Input("name", default="A part of the test"),),
        kinds=None,
        help="Gives a part of the test a name, and its own limits where it has any.",
        block="group",
    ),
    Action(
        "always",
        "Always at the end",
        "Always at the end",
        _once,
        kinds=None,
        help="Is played last whatever happened before, to clean up.",
        block="always",
    ),
    Action(
        "flow",
        "Do a flow",
        "Do {flow}",
        _once,
        kinds=None,
        help="Plays the sentences of a flow with the values given here.",
        block="flow",
    ),
)
