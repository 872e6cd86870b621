"""Checking what the page shows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from lantern.core.data.table import REFUSED
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import tidy
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import WAIT, find, look_once
from lantern.core.engine.outcomes import StepFailed
from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.actions.base import Action, Call, Input
from lantern.core.steps.properties import COMPARISONS, check_property, compare
from lantern.core.steps.tables import READ, Table, aspect


def _check(call: Call) -> ask.Play[None]:
    """Wait until the property is as wanted, and fail with what was found last if it never is."""
    if not (yield from wait_for(call)):
        prop, found = call.inputs["property"], call.evidence.found
        raise StepFailed(
            "check differed",
            f"The {prop} of “{call.target().name}” was “{found}” for {call.limit:g} s, but "
            f"{_wish(call)}.",
            expected=call.evidence.expected,
            found=found,
        )


def _wish(call: Call) -> str:
    operator, wanted = call.inputs["comparison"], call.inputs["expected"]
    if operator == "is":
        return f"“{wanted}” was expected"
    return f"the check is: {operator} “{wanted}”"


def wait_for(call: Call) -> ask.Play[bool]:
    """Wait up to the limit until the property is as wanted; tells whether that came about.

    Notes in the evidence what is wanted and what was found last. Raises StepFailed when the
    element is not there alone at the end.
    """
    element = call.target()
    prop = check_property(call.inputs["property"])
    operator, wanted = call.inputs["comparison"], call.inputs["expected"]
    call.evidence.expected = wanted if operator == "is" else f"{operator} {wanted}"
    compare(wanted, operator, wanted)  # what nothing can be compared with is told at once
    start: float = yield from ask.Now()
    stamp: int | None = None
    while True:
        now: float = yield from ask.Now()
        left = call.limit - (now - start)
        value, stamp = yield from observe(call, element, prop, stamp)
        if value is not None:
            call.evidence.found = value
            if _holds_now(value, operator, wanted):
                yield from call.picture()
                return True
        if left <= 0:
            break
    if value is None:
        yield from find(element, 0.0, call.evidence, ready=False, waited=call.limit)
    return False


def looks(call: Call) -> ask.Play[bool]:
    """Tell whether the property is as wanted now."""
    return (yield from wait_for(replace(call, limit=0.0)))


def _holds_now(value: str, operator: str, wanted: str) -> bool:
    """Compare; a price that is not there yet is no number, and may become one."""
    try:
        return compare(value, operator, wanted)
    except BadInput:
        return False


def observe(
    call: Call, element: Element, prop: str, stamp: int | None
) -> ask.Play[tuple[str | None, int]]:
    """Read the property now; None when the element is not there alone."""
    found, seen = yield from look_once(element, aim=False, after=stamp, wait=WAIT)
    if prop == "shown" and len(found) <= 1:
        return ("yes" if found and found[0].visible else "no"), seen.stamp
    if len(found) != 1:
        return None, seen.stamp
    call.evidence.box = found[0].box
    worked_out = aspect(prop)
    read = READ if worked_out else prop
    value: str | None = yield from ask.Read(found[0].handle, read, found[0].frame)
    if worked_out and value is not None:
        value = _of_table(value, *worked_out)
    return (None if value is None else tidy(value)), seen.stamp


def _of_table(text: str, work: Callable[[Table, str], str], of_what: str) -> str | None:
    """Work a property of a table out; None while the table does not have what it is about yet."""
    try:
        return work(Table.read(text), of_what)
    except UnknownName:
        raise
    except BadInput as error:
        return f"({error.message})"


def _check_outcome(call: Call) -> ask.Play[None]:
    """Wait for the value that is expected, or for the refusal that is."""
    wanted = call.inputs["expected"]
    call.evidence.expected = wanted
    start: float = yield from ask.Now()
    value = said = None
    while True:
        now: float = yield from ask.Now()
        value, stamp = yield from observe(call, call.target(), "text", None)
        said, _ = yield from _words_of(call.onto, stamp)
        call.evidence.found = said or value or "neither"
        refused = said is not None and (wanted == REFUSED or tidy(wanted) in said)
        if refused or (value is not None and compare(value, "is", wanted) and said is None):
            yield from call.picture()
            return
        if now - start >= call.limit:
            break
    shown = f"refused it: “{said}”" if said else f"showed “{value}”" if value else "showed neither"
    raise StepFailed(
        "check differed",
        f"“{wanted}” was expected, but the page {shown}.",
        expected=wanted,
        found=call.evidence.found,
    )


def _words_of(element: Element | None, stamp: int) -> ask.Play[tuple[str | None, int]]:
    """Read what a shown element says; None when it is not there."""
    if element is None:
        raise StepFailed("bad value", "This sentence needs a second element.")
    found, seen = yield from look_once(element, aim=False, after=stamp, wait=WAIT)
    shown = [facts for facts in found if facts.visible]
    return (tidy(shown[0].text) if shown else None), seen.stamp


ENTRIES = (
    Action(
        "check",
        "Check",
        "Check that the {property} of {element} {comparison} {expected}",
        _check,
        (
            Input("property", "property", default="text"),
            Input("comparison", "comparison", tuple(COMPARISONS), "is"),
            Input("expected"),
        ),
        help="Waits until the property is as expected, up to the time limit.",
        looks=looks,
    ),
    Action(
        "check outcome",
        "Check the outcome",
        "Check that {element} is {expected} or that {onto} says so",
        _check_outcome,
        (Input("expected", default=REFUSED),),
        onto=True,
        help="For rows of which some are refused: expects a value, words of the refusal, or "
        f"just “{REFUSED}”.",
    ),
)
