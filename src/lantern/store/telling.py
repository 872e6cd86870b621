"""What was done to a test, as a line for its list of versions."""

from __future__ import annotations

from sqlalchemy.orm import Session

from lantern.core.history.telling import in_words
from lantern.core.steps.comparing import difference
from lantern.core.steps.model import Document, Step
from lantern.core.steps.sentences import sentence
from lantern.store import calls, elements


def told(session: Session, before: Document, after: Document, otherwise: str) -> str:
    """Return what changed from one document to the other; `otherwise` where no words fit."""
    found = difference(before, after)
    steps = [step for one in found.steps for step in (one.before, one.after) if step]
    known = elements.load(session, {key for s in steps for key in (s.element, s.onto) if key})
    flows = calls.load(session, {step.flow for step in steps if step.flow})
    names = {key: flow.name for key, flow in flows.items()}

    def words(step: Step) -> str:
        return sentence(step, known, flows=names)

    return in_words(found, before, after, words) or otherwise
