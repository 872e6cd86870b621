"""What recordings saw become ready before their steps: what a pause there would better wait for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from sqlalchemy.orm import Session

from lantern.core.elements.clues import Element
from lantern.core.recording.proposals import Waited
from lantern.core.steps.edits import ToWait, step_after
from lantern.core.steps.model import Document
from lantern.store import elements
from lantern.store.models import SeenWait


def keep(session: Session, step_id: str, waited: Waited, secrets: Mapping[str, str]) -> None:
    """Keep what was waited for before a recorded step, with secrets masked."""
    found = waited.element and elements.new(waited.element.without(secrets))
    body = found.as_json() if found else None
    session.merge(SeenWait(step_id=step_id, property=waited.property, element=body))


def informed(session: Session, document: Document, edit: ToWait) -> ToWait:
    """Return the edit with what the recording saw before the next sentence, if it saw anything."""
    following = step_after(document, edit.step)
    seen = session.get(SeenWait, following.id) if following else None
    if seen is None:
        return edit
    if seen.element is None:
        return replace(edit, property=seen.property)
    element = Element.read(seen.element)
    known = elements.same(session, element) or elements.load(session, [element.id]).get(element.id)
    if known is None:
        elements.save(session, element)
    return replace(edit, property=seen.property, element=(known or element).id)
