"""The interpreter: plays the steps of a test for one row, as a generator of requests."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from lantern.core.elements.clues import Element
from lantern.core.engine import requests as ask
from lantern.core.engine.outcomes import Evidence, Outcome, StepFailed, StepResult
from lantern.core.problems import Problem
from lantern.core.steps.actions.base import Call
from lantern.core.steps.catalogue import action_of, check_inputs
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.steps.sentences import sentence
from lantern.core.values.templates import Names, masked, resolve, shown


@dataclass(frozen=True)
class Script:
    """What is played: the document, its elements by id, the values of names, the base address."""

    document: Document
    elements: Mapping[str, Element]
    names: Names
    base: str


def play_row(script: Script) -> ask.Play[Outcome]:
    """Play all steps for one row; returns "passed" or "failed".

    Yields StepStarts and StepEnds around each step. After a failure that stops the row, the
    steps that did not run end as skipped.
    """
    outcome: Outcome = "passed"
    stopped = False
    for position, step in enumerate(script.document.steps):
        if stopped or not step.enabled:
            why = "An earlier sentence failed." if stopped else "The sentence is switched off."
            text = _sentence(step, script)
            yield ask.StepEnds(StepResult(step.id, position, text, "skipped", message=why))
            continue
        result = yield from play_step(step, position, script)
        yield ask.StepEnds(result)
        if result.outcome == "failed":
            outcome = "failed"
            on_failure = step.on_failure or script.document.settings.on_failure
            stopped = on_failure == "stop" or result.reason == "browser died"
    return outcome


def play_step(step: Step, position: int, script: Script) -> ask.Play[StepResult]:
    """Play one step; returns how it ended and never raises for what a page or a value does."""
    settings = script.document.settings
    limit = settings.limit if step.limit is None else step.limit
    text = _sentence(step, script)
    evidence = Evidence()
    yield ask.StepStarts(step.id, position, text)
    start: float = yield ask.Now()
    failure: StepFailed | None = None
    try:
        yield from _perform(step, script, limit, evidence)
    except StepFailed as error:
        failure = error
    except ask.StageLost as error:
        failure = StepFailed("browser died", f"The browser stopped working: {error}")
    except ask.PageGone:
        failure = StepFailed(
            "not ready",
            "The page went away while this sentence was carried out.",
            hint="Wait for the new page first, for example with a check.",
        )
    except Problem as error:
        failure = StepFailed("bad value", error.message, hint=error.hint)
    end: float = yield ask.Now()
    if failure and failure.reason != "browser died" and settings.pictures != "none":
        evidence.picture = (yield ask.Picture(failed=True)) or evidence.picture
    return _result(step, position, text, failure, evidence, end - start, limit, script.names)


def _perform(step: Step, script: Script, limit: float, evidence: Evidence) -> ask.Play[None]:
    action = action_of(step.action)
    check_inputs(action, step.inputs)
    element, onto = _element(step.element, script), _element(step.onto, script)
    inputs = {name: resolve(value, script.names, step.id) for name, value in step.inputs.items()}

    def picture() -> ask.Play[None]:
        if script.document.settings.pictures == "each step":
            evidence.picture = yield ask.Picture()

    call = Call(inputs, element, onto, limit, script.base, evidence, picture)
    yield from action.perform(call)
    script.names.kept.update(evidence.kept)


def _element(key: str, script: Script) -> Element | None:
    """Return an element with the names in its clues filled in; None for none."""
    if not key:
        return None
    element = script.elements.get(key)
    if element is None:
        raise StepFailed("bad value", "The element of this sentence was deleted.")
    return element.filled(lambda value: resolve(value, script.names))


def _sentence(step: Step, script: Script) -> str:
    def value(template: str) -> str:
        try:
            return shown(template, script.names, step.id)
        except Problem:
            return template

    try:
        return sentence(step, script.elements, value)
    except Problem as error:
        return error.message


def _result(
    step: Step,
    position: int,
    text: str,
    failure: StepFailed | None,
    evidence: Evidence,
    used: float,
    limit: float,
    names: Names,
) -> StepResult:
    def safe(words: str) -> str:
        return masked(words, names.secret)

    return StepResult(
        step_id=step.id,
        position=position,
        sentence=text,
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
    )


def _safe_lookup(lookup: dict[str, Any], safe: Callable[[str], str]) -> dict[str, Any]:
    """Return the evidence of a lookup without the secrets that its clues may hold."""
    clues = [clue | {"clue": safe(clue["clue"])} for clue in lookup["clues"]]
    return lookup | {"clues": clues}


def effective(step: Step, settings: Settings) -> tuple[float, str]:
    """Return the time limit (seconds) and what to do on failure that hold for a step."""
    limit = settings.limit if step.limit is None else step.limit
    return limit, step.on_failure or settings.on_failure
