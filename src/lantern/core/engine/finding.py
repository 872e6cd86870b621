"""Waiting for an element: there, alone, and ready for input, within a time limit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lantern.core.elements.clues import POSITION, Element, held_by
from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import candidates_of
from lantern.core.elements.nearest import nearest_to
from lantern.core.elements.repair import contradicts, doubted, found_by
from lantern.core.engine.outcomes import Evidence, StepFailed
from lantern.core.engine.requests import (
    Aim,
    Aimed,
    Lookup,
    Mouse,
    Nearby,
    Now,
    Play,
    Query,
    Seen,
    Unready,
)

WAIT = 0.1
"""Longest time in seconds that the page waits for a change before it is looked at again:
layout can change without any change of the document."""

_STATE: dict[Unready, str] = {
    "hidden": "is on the page but not shown",
    "disabled": "is shown but disabled",
    "covered": "is covered",
    "moving": "does not stop moving",
    "outside": "lies outside what can be scrolled to",
}


MISSED = "the page moved at the last moment"
"""What the message of a press says that met something else."""


def unready_in(message: str) -> Unready:
    """Return in which state a failure's message says that a thing was; "" for in none of these."""
    return next((state for state, words in _STATE.items() if f" {words}" in message), "")


@dataclass(frozen=True)
class Target:
    """The node found for an element, and where to press it if that was asked."""

    facts: Facts
    aimed: Aimed


def query_for(element: Element) -> Query:
    """Return what the page is asked for: a superset of what the element can match."""
    clues = tuple(clue for clue in element.clues if clue.fact != POSITION)
    return Query(candidates_of(element.kind), clues)


def look_once(
    element: Element, *, aim: bool, after: int | None, wait: float
) -> Play[tuple[list[Facts], Seen]]:
    """Look for the element once; returns the nodes that match and all that was seen."""
    seen: Seen = yield from Lookup(query_for(element), aim, after, wait)
    found = found_by(element, seen.candidates)
    if len(found) == 1 and (
        doubted(element, found[0], seen.candidates) or contradicts(element, found[0])
    ):
        found = []
    return found, seen


def find(
    element: Element,
    limit: float,
    evidence: Evidence,
    *,
    ready: bool = True,
    waited: float = 0.0,
    at: tuple[float, float] | None = None,
) -> Play[Target]:
    """Wait up to `limit` seconds for the element; with `ready` also until input can reach it.

    `at` is the place in it that input has to reach (shares from its left and top), None for any;
    `waited` are the seconds for which it was looked for already, which messages count.
    Raises StepFailed with the reason: not found, found several or not ready.
    """
    start: float = yield from Now()
    found, seen = yield from look_once(element, aim=ready, after=None, wait=0)
    while True:
        if seen.dialog is not None:
            raise StepFailed(
                "not ready",
                f"The page asks “{seen.dialog}” and waits for an answer.",
                hint="Add a sentence that answers the dialog.",
            )
        aimed = Aimed(0)
        if len(found) == 1:
            aimed = yield from _aim(found[0], seen, ready, at)
            if not aimed.problem:
                _note(evidence, element, seen, found)
                evidence.box = aimed.box if ready else found[0].box
                if ready:
                    _note_thing(evidence, found[0])
                return Target(found[0], aimed)
        now: float = yield from Now()
        if now - start >= limit:
            break
        wait = min(WAIT, limit - (now - start))
        found, seen = yield from look_once(element, aim=ready, after=seen.stamp, wait=wait)
    _note(evidence, element, seen, found)
    if found:
        evidence.box = found[0].box
    if len(found) > 1:
        raise _several(element, found)
    if found:
        raise _unready(element, aimed, limit + waited)
    raise (yield from _not_found(element, limit + waited))


def _aim(facts: Facts, seen: Seen, ready: bool, at: tuple[float, float] | None) -> Play[Aimed]:
    if not ready:
        return Aimed(facts.handle, box=facts.box)
    if at is None and seen.aimed and seen.aimed.handle == facts.handle:
        return seen.aimed
    aimed: Aimed = yield from Aim(facts.handle, facts.frame, at)
    return aimed


def _note(evidence: Evidence, element: Element, seen: Seen, found: list[Facts]) -> None:
    evidence.lookups.append(
        {
            "element": element.name,
            "kind": element.kind,
            "looked_at": seen.total,
            "found": len(found),
            "clues": held_by(element.kind, element.clues, seen.candidates),
        }
    )


def _note_thing(evidence: Evidence, facts: Facts) -> None:
    evidence.thing = facts.name or facts.label or facts.text
    evidence.around = (facts.label, facts.text, facts.section, *facts.row)


def _several(element: Element, found: list[Facts]) -> StepFailed:
    examples = ", ".join(f"“{facts.name or facts.text or facts.tag}”" for facts in found[:3])
    return StepFailed(
        "found several",
        f"The {element.kind} “{element.name}” was found {len(found)} times: {examples}.",
        hint="Add a clue that only the right one has, such as its row or section.",
    )


def _unready(element: Element, aimed: Aimed, limit: float) -> StepFailed:
    state = _STATE.get(aimed.problem, aimed.problem)
    by = f" by {aimed.by}" if aimed.by else ""
    return StepFailed(
        "not ready",
        f"The {element.kind} “{element.name}” {state}{by}; it did not get ready in {limit:g} s.",
    )


def _not_found(element: Element, limit: float) -> Play[StepFailed]:
    candidates = yield from Nearby()
    near = nearest_to(element, candidates)
    message = f"The {element.kind} “{element.name}” was not on the page within {limit:g} s."
    found = element.among(candidates)
    against = contradicts(element, found[0]) if len(found) == 1 else ""
    if against:
        return StepFailed("not found", f"{message} {against}", hint="Repair the element.")
    if len(found) == 1 and doubted(element, found[0], candidates):
        name = found[0].name or found[0].label or found[0].text or found[0].tag
        message += f" Its clues lead to “{name}”, which looks like another thing."
    if near is None:
        return StepFailed("not found", message, hint="Nothing on the page is like it.")
    name = near.facts.name or near.facts.label or near.facts.text or near.facts.tag
    differs = "; ".join(near.differs) or "it was only there too late"
    return StepFailed(
        "not found",
        f"{message} The nearest thing there is “{name}” ({near.score:.0%} likely): {differs}.",
        found=name,
    )


def press(
    target: Target, name: str, button: Literal["left", "right"] = "left", count: int = 1
) -> Play[None]:
    """Press what was found for an element of a name; raises StepFailed when something else was.

    What the press did to that cannot be taken back, so it is not tried again.
    """
    facts, aimed = target.facts, target.aimed
    met: str = yield from Mouse(aimed.x, aimed.y, button, count, facts.handle, facts.frame)
    if met:
        raise StepFailed(
            "not ready",
            f"The press on “{name}” went to {met}: {MISSED}.",
            hint="Wait for what moves it first, for example with a check.",
        )
