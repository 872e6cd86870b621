"""Doing what a search otherwise proposes: to the element, or to the story before its sentence."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from sqlalchemy.orm import Session

from lantern.core.elements.clues import Element
from lantern.core.problems import BadInput
from lantern.core.searching.looked import Act
from lantern.core.steps.edits import Change, Edit, Insert
from lantern.core.steps.model import Step, check_limit
from lantern.core.values.templates import literal
from lantern.store import acts, documents, elements, tests
from lantern.store.database import tell
from lantern.store.rows import unpacked


def mend(
    session: Session,
    place: int,
    step_id: str,
    act: Act,
    given: Mapping[str, Any],
    account_id: int,
    key: str | None = None,
) -> None:
    """Do an act for a sentence of a test or flow; done again under the same key, it is done once.

    Raises Missing for a sentence that is gone, BadInput for what can not be done here.
    """
    if key and acts.known(session, key):
        return
    if act not in _ACTS:
        raise BadInput("Nothing can be changed about that here.", where=act)
    step = unpacked(documents.get(session, place)).step(step_id)
    begun = acts.begin(session, account_id, place, _TOLD[act])
    begun.key = key
    edit = _ACTS[act](session, step, given)
    if edit is not None:
        tests.edit(session, place, edit, account_id)


def _use_clues(session: Session, step: Step, given: Mapping[str, Any]) -> None:
    element = Element.read(given["element"])
    if element.id not in (step.element, step.onto):
        raise BadInput("Those are clues of another element.", where=element.name)
    now = Element.read(elements.get(session, element.id, lock=True).body)
    # What else is known of it, such as its name, may have been changed since.
    elements.save(session, replace(element, name=now.name, page=now.page))
    tell(session, "element", id=element.id)


def _raise_limit(_: Session, step: Step, given: Mapping[str, Any]) -> Edit:
    return Change(step.id, {"limit": check_limit(given.get("limit"))})


def _close_first(session: Session, step: Step, given: Mapping[str, Any]) -> Edit:
    closer = Element.read(given["element"])
    known = elements.same(session, closer)
    if known is None:
        known = replace(closer, id=tests.new_id())
        elements.save(session, known)
    shown = {"property": "shown", "comparison": "is", "expected": "yes"}
    block = Step(tests.new_id(), "if", element=known.id, inputs=shown, page=step.page)
    press = Step(tests.new_id(), "press", element=known.id, page=step.page, depth=1)
    return Insert((block, press), before=step.id)


def _before(action: str, **inputs: str) -> Callable[[Step], Edit]:
    return lambda step: Insert((Step("", action, inputs=inputs, page=step.page),), before=step.id)


def _go_to_window(_: Session, step: Step, given: Mapping[str, Any]) -> Edit:
    return _before("window", window=literal(str(given.get("window") or "newest")))(step)


def _answer(_: Session, step: Step, given: Mapping[str, Any]) -> Edit:
    return _before("dialog", answer=str(given.get("answer") or "OK"))(step)


def _sign_in(_: Session, step: Step, given: Mapping[str, Any]) -> Edit:
    flow = str(given.get("flow") or "")
    return Insert((Step("", "flow", flow=flow, page=step.page),), before=step.id)


_ACTS: Mapping[str, Callable[[Session, Step, Mapping[str, Any]], Edit | None]] = {
    "use clues": _use_clues,
    "raise limit": _raise_limit,
    "close first": _close_first,
    "go to window": _go_to_window,
    "answer dialog": _answer,
    "sign in": _sign_in,
}
_TOLD = {
    "use clues": "clues of an element",
    "raise limit": "time limit of a sentence",
    "close first": "what covers is closed first",
    "go to window": "gone to a window first",
    "answer dialog": "a dialog answered first",
    "sign in": "signed in first",
}
"""What is said of each where it can be undone."""
