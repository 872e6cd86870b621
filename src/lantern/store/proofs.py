"""What came of recorded sentences, and what playing them showed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.proving.comparing import Found, shape_of
from lantern.core.proving.noting import read_effects
from lantern.core.proving.shown import Effect
from lantern.core.steps.model import Step
from lantern.store.models import Now, Proof, RecordedEffect, Run

Effects = dict[str, dict[str, tuple[Effect, ...]]]
"""What came of each step, by its id and by the path of frames of the document."""


def note(session: Session, test_id: int, step: Step, path: str, effects: Sequence[Effect]) -> None:
    """Keep what has come of a step in one document, in place of what was known of it there."""
    row = session.get(RecordedEffect, (test_id, step.id), with_for_update=True)
    body = {**(row.body if row else {}), path: [one.as_json() for one in effects]}
    kept = RecordedEffect(
        test_id=test_id, step_id=step.id, body=body, inputs=dict(step.inputs), at=Now
    )
    session.merge(kept)


def given_otherwise(session: Session, test_id: int, steps: Sequence[Step]) -> set[str]:
    """Return the ids of the steps that are given other values now than while recording."""
    rows = session.scalars(select(RecordedEffect).filter_by(test_id=test_id))
    recorded = {row.step_id: row.inputs for row in rows}
    return {step.id for step in steps if step.inputs != recorded.get(step.id, step.inputs)}


def effects(session: Session, test_id: int) -> Effects:
    """Return what came of the steps of a test while they were recorded."""
    rows = session.scalars(select(RecordedEffect).filter_by(test_id=test_id))
    return {row.step_id: read_effects(row.body) for row in rows}


def get(session: Session, test_id: int) -> Proof | None:
    """Return what is known of a test's recording; None when it was never played."""
    return session.get(Proof, test_id)


def found_by(session: Session, run: Run) -> list[Any]:
    """Return what a run, the first green one since the recording, did otherwise than that."""
    proof = get(session, run.test_id) if run.test_id else None
    return list(proof.found) if proof and proof.run_id == run.id else []


def is_due(session: Session, test_id: int) -> bool:
    """Tell whether something was recorded since the test was last held against its recording."""
    newest = session.scalar(select(func.max(RecordedEffect.at)).filter_by(test_id=test_id))
    proof = get(session, test_id)
    return newest is not None and (proof is None or proof.at is None or proof.at < newest)


def keep(
    session: Session, test_id: int, found: Sequence[Found], compared: int, run_id: int | None = None
) -> None:
    """Keep what holding a play of the test against its recording showed."""
    proof = _for_change(session, test_id)
    proof.found = [asdict(one) for one in found]
    proof.compared, proof.run_id, proof.at = compared, run_id, Now


def set_aside(session: Session, test_id: int, lines: Sequence[str]) -> None:
    """Take note that lines move by themselves: they are no difference from now on.

    What was found before is looked through anew: what only they made different is no more.
    """
    proof = _for_change(session, test_id)
    shapes = {shape_of(line) for line in lines}
    proof.aside = sorted({*proof.aside, *shapes})
    left = []
    for one in proof.found:
        told = [each for each in one["told"] if shape_of(each["line"]) not in shapes]
        if told:
            left.append({**one, "told": told})
    proof.found = left


def _for_change(session: Session, test_id: int) -> Proof:
    proof = session.get(Proof, test_id, with_for_update=True)
    if proof is None:
        proof = Proof(test_id=test_id, aside=[], found=[])
        session.add(proof)
    return proof
