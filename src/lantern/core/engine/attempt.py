"""Carrying out one step, once: never raises for what a page or a value does."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from lantern.core.elements.clues import Element
from lantern.core.engine import requests as ask
from lantern.core.engine.late import look_late
from lantern.core.engine.outcomes import Evidence, StepFailed, StepResult
from lantern.core.problems import Problem
from lantern.core.review.deeds import contradiction
from lantern.core.steps.actions.base import Call
from lantern.core.steps.catalogue import action_of, check_inputs
from lantern.core.steps.constants import is_business
from lantern.core.steps.defaults import Effective
from lantern.core.steps.model import Document, Step
from lantern.core.steps.sentences import sentence
from lantern.core.values.fitting import drawn_for
from lantern.core.values.sources import Names
from lantern.core.values.templates import masked, resolve, shown


@dataclass(frozen=True)
class Flow:
    """A flow that can be called: its name, and its steps, inputs and outputs."""

    name: str
    document: Document


@dataclass(frozen=True)
class Script:
    """What is played: the document, its elements and flows by id, the values of names.

    `base` is the address that addresses begin at.
    """

    document: Document
    elements: Mapping[str, Element]
    names: Names
    base: str
    flows: Mapping[str, Flow] = field(default_factory=dict)


@dataclass(frozen=True)
class Attempt:
    """How a step ended, what its action returned, and the values that it was called with."""

    result: StepResult
    value: Any
    call: Call


def try_step(
    step: Step, position: int, text: str, script: Script, held: Effective
) -> ask.Play[Attempt]:
    """Carry out one step as what holds for it says."""
    limit = held.limit
    evidence = Evidence()
    call = Call({}, None, None, limit, script.base, evidence, lambda: _picture(held, evidence))
    start: float = yield from ask.Now()
    failure: StepFailed | None = None
    value: Any = None
    while True:
        failure, acted = None, _Acted()
        try:
            value = yield from _watched(_perform(step, script, call), acted)
        except StepFailed as error:
            failure = error
        except ask.StageLost as error:
            failure = StepFailed("browser died", f"The browser stopped working: {error}")
        except ask.DriverFailed as error:
            failure = StepFailed(
                "lantern failed",
                f"Lantern itself could not do this ({error}).",
                hint="The station's log says more. Whether the application is right is not known.",
            )
        except ask.PageGone:
            now: float = yield from ask.Now()
            if not acted.so and now - start < limit:
                continue  # a document that is being replaced is waited for, as what is not there
            failure = StepFailed(
                "not ready",
                "The page went away while this sentence was carried out.",
                hint="Wait for the new page first, for example with a check.",
            )
        except Problem as error:
            failure = StepFailed("bad value", error.message, hint=error.hint)
        break
    end: float = yield from ask.Now()
    if failure and failure.reason != "browser died" and held.pictures != "none":
        evidence.picture = (yield from ask.Picture(failed=True)) or evidence.picture
    names = script.names
    late = (yield from _late(step, call, failure)) if failure else {}
    result = ending(step, position, text, failure, evidence, end - start, limit, names)
    result = replace(result, late=late)
    return Attempt(replace(result, contrary=_contrary(step, call, names)), value, call)


def _late(step: Step, call: Call, failure: StepFailed) -> ask.Play[dict[str, Any]]:
    seen = replace(call, evidence=Evidence(), picture=_no_picture)  # what was seen in time stays
    try:
        late = yield from look_late(action_of(step.action), seen, failure)
    except (ask.StageLost, ask.PageGone, ask.DriverFailed, Problem):
        return {}
    return late.as_json() if late else {}


def _no_picture() -> ask.Play[None]:
    return
    yield  # pragma: no cover - a generator that asks for nothing


LONGEST_SAID = 80
"""Letters of a comment up to which it may say what a sentence does; a longer one tells a story."""


def _contrary(step: Step, call: Call, names: Names) -> str:
    """Tell where what people call a sentence is not what it acted on; secrets are masked."""
    evidence = call.evidence
    if not evidence.thing:
        return ""
    around = (*evidence.around, *call.inputs.values())
    comment = step.comment if len(step.comment) <= LONGEST_SAID else ""
    for said in (step.title, comment, call.element.name if call.element else ""):
        told = contradiction(said, evidence.thing, around)
        if told:
            return masked(told, names.secret)
    return ""


@dataclass
class _Acted:
    """Whether something was done to the page already, which must not be done again."""

    so: bool = False


def _watched(play: ask.Play[Any], acted: _Acted) -> ask.Play[Any]:
    """Play on, noting when something was done to the page."""
    answer: Any = None
    gone: ask.PageGone | ask.StageLost | ask.DriverFailed | None = None
    while True:
        try:
            request = play.throw(gone) if gone else play.send(answer)
        except StopIteration as end:
            return end.value
        gone = None
        # What was sent to a page that went away, or did not answer, may well have been done.
        acted.so = acted.so or isinstance(request, ask.ACTING)
        try:
            answer = yield request
        except (ask.PageGone, ask.StageLost, ask.DriverFailed) as error:
            gone = error


def _picture(held: Effective, evidence: Evidence) -> ask.Play[None]:
    if held.pictures == "each step":
        evidence.picture = yield from ask.Picture()


def _perform(step: Step, script: Script, call: Call) -> ask.Play[Any]:
    action = action_of(step.action)
    check_inputs(action, step.inputs)
    call.element, call.onto = _element(step.element, script), _element(step.onto, script)
    call.inputs = {
        name: resolve(value, *_drawn(step, name, script)) for name, value in step.inputs.items()
    }
    value = yield from action.perform(call)
    script.names.kept.update(call.evidence.kept)
    return value


def _drawn(step: Step, name: str, script: Script) -> tuple[Names, str]:
    """Return the names and the key by which an input of a step is filled in."""
    element = script.elements.get(step.element) if is_business(step, name) else None
    seen = element.seen if element else None
    return drawn_for(step.inputs[name], script.names, step.id, seen)


def _element(key: str, script: Script) -> Element | None:
    """Return an element with the names in its clues filled in; None for none."""
    if not key:
        return None
    element = script.elements.get(key)
    if element is None:
        raise StepFailed("bad value", "The element of this sentence was deleted.")
    return element.filled(lambda value: resolve(value, script.names))


def sentence_of(step: Step, script: Script) -> str:
    """Return the sentence of a step with its values filled in and secrets masked."""

    def value(template: str) -> str:
        name = next((n for n, given in step.inputs.items() if given == template), "")
        try:
            if not name:
                return shown(template, script.names, step.id)
            return shown(template, *_drawn(step, name, script))
        except Problem:
            return template

    try:
        flows = {key: flow.name for key, flow in script.flows.items()}
        return sentence(step, script.elements, value, flows)
    except Problem as error:
        return error.message


def ending(
    step: Step,
    position: int,
    text: str,
    failure: StepFailed | None,
    evidence: Evidence,
    used: float,
    limit: float,
    names: Names,
) -> StepResult:
    """Return how a step ended: failed with a failure, else passed. Secrets are masked."""

    def safe(words: str) -> str:
        return masked(words, names.secret)

    return StepResult(
        step_id=step.id,
        position=position,
        sentence=safe(text),
        outcome="failed" if failure else "passed",
        reason=failure.reason if failure else "",
        message=safe(failure.message) if failure else "",
        hint=safe(failure.hint) if failure else "",
        expected=safe(failure.expected if failure else evidence.expected),
        found=safe(failure.found if failure else evidence.found),
        used=round(used, 3),
        limit=limit,
        lookups=tuple(_safe_lookup(lookup, safe) for lookup in evidence.lookups),
        picture=evidence.picture,
        box=evidence.box,
        files=tuple(evidence.files),
        kept={name: safe(value) for name, value in evidence.kept.items()},
        title=safe(step.title),
        comment=safe(step.comment),
        thing=safe(evidence.thing),
    )


def _safe_lookup(lookup: dict[str, Any], safe: Callable[[str], str]) -> dict[str, Any]:
    """Return the evidence of a lookup without the secrets that its clues may hold."""
    clues = [clue | {"clue": safe(clue["clue"])} for clue in lookup["clues"]]
    return lookup | {"clues": clues}
