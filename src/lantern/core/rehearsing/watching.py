"""What a person watches while rehearsing: values, small expressions, properties of elements."""

from __future__ import annotations

import re
from dataclasses import dataclass

from lantern.core.elements.clues import Element
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import look_once
from lantern.core.engine.outcomes import Evidence, StepFailed
from lantern.core.problems import BadInput, Problem
from lantern.core.steps.actions.base import Call
from lantern.core.steps.actions.checking import observe
from lantern.core.steps.properties import COMPARISONS, check_property, compare
from lantern.core.values.sources import SOURCES, Names
from lantern.core.values.templates import places, resolve, shown

MOST = 50
"""Things that one person may watch in a test."""
LONGEST = 500
_COMPARED = re.compile(
    rf"(.*?)\s+({'|'.join(sorted(map(re.escape, COMPARISONS), key=len, reverse=True))})\s+(.*)",
    re.DOTALL,
)
NOT_THERE = "not there"


@dataclass(frozen=True)
class Watched:
    """What came of something watched; `wrong` says why it could not be told, "" where it could."""

    value: str = ""
    wrong: str = ""


def worked_out(expression: str, names: Names) -> Watched:
    """Work out an expression: a value with names in it, or two that are compared.

    `${row.clay}`, `${kept.price} is at least 20`: what is compared gives yes or no.
    """
    try:
        if len(expression) > LONGEST:
            raise BadInput(f"An expression has up to {LONGEST} letters.", where="watch")
        parts = _COMPARED.fullmatch(expression.strip())
        if parts is None:
            return Watched(shown(expression, names))
        if any(
            SOURCES[source].hidden for part in (parts[1], parts[3]) for source, _ in places(part)
        ):
            raise BadInput("A secret is not compared here: it could be guessed from the answers.")
        left, right = resolve(parts[1], names), resolve(parts[3], names)
        return Watched("yes" if compare(left, parts[2], right) else "no")
    except Problem as error:
        return Watched(wrong=f"{error.message} {error.hint}".strip())


def looked_at(element: Element, prop: str) -> ask.Play[Watched]:
    """Read a property of an element as the page is now; never waits for it."""
    nothing = lambda: _nothing()  # noqa: E731 - a picture that is not taken
    call = Call({}, element, None, 0.0, "", Evidence(), nothing)
    try:
        check_property(prop)
        value, _ = yield from observe(call, element, prop, None)
        if value is not None:
            return Watched(value)
        found, _ = yield from look_once(element, aim=False, after=None, wait=0)
    except (Problem, StepFailed) as error:
        return Watched(wrong=error.message)
    if len(found) > 1:
        return Watched(wrong=f"there are {len(found)} of them")
    return Watched(wrong=f"it has no {prop}" if found else NOT_THERE)


def _nothing() -> ask.Play[None]:
    return
    yield  # pragma: no cover - a generator that asks for nothing
