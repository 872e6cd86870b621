"""How changes of a test are told."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from lantern.core.steps.comparing import StepChange
from lantern.core.steps.model import Step
from lantern.core.steps.sentences import sentence
from lantern.store import calls, elements
from lantern.web import shapes


def changes_out(session: Session, changes: Sequence[StepChange]) -> list[shapes.StepChangeOut]:
    """Return the shapes of changes, with the sentences as they were and are."""
    steps = [step for one in changes for step in (one.before, one.after) if step]
    known = elements.load(session, {key for s in steps for key in (s.element, s.onto) if key})
    flows = calls.load(session, {step.flow for step in steps if step.flow})
    names = {key: flow.name for key, flow in flows.items()}

    def words(step: Step | None) -> str:
        return sentence(step, known, flows=names) if step else ""

    return [
        shapes.StepChangeOut(
            what=one.what,
            step=(one.after or one.before or Step("", "")).id,
            before=words(one.before),
            after=words(one.after),
            parts=[part.replace("_", " ") for part in one.parts],
        )
        for one in changes
    ]
