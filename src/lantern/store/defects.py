"""Defects and where they were seen."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Conflict, Missing, UnknownName
from lantern.core.review.defects import SEVERITIES, STATES, Failure, fingerprint
from lantern.store.database import tell
from lantern.store.models import Cast, Defect, Result, Run, Sighting


def failure_of(session: Session, result_id: int) -> tuple[Failure, Result, Run]:
    """Return what is known of a failed step; raises Missing, or BadInput if it did not fail."""
    result = session.get(Result, result_id)
    if result is None:
        raise Missing("That result does not exist any more.", where=str(result_id))
    if result.outcome != "failed":
        raise BadInput("A defect is raised from a step that failed.", where=str(result_id))
    query = select(Run).join(Cast).filter(Cast.id == result.cast_id)
    # Held: what a defect shows is not tidied away while the defect is being raised.
    run = session.scalar(query.with_for_update(read=True, key_share=True, of=Run))
    if run is None:
        raise Missing("The run of that result does not exist any more.")
    before = session.scalars(
        select(Result.sentence)
        .filter(
            Result.cast_id == result.cast_id,
            Result.taking == result.taking,
            Result.position < result.position,
            Result.outcome != "skipped",
        )
        .order_by(Result.position)
    ).all()
    failure = Failure(
        test=str(run.test_id or run.test_name),
        step_id=result.step_id,
        sentence=result.sentence,
        reason=result.reason,
        message=result.message,
        expected=result.expected,
        found=result.found,
        before=before,
    )
    return failure, result, run


def same_as(session: Session, failure: Failure) -> Sequence[Defect]:
    """Return the defects that were raised for the same failure, those not closed first."""
    found = session.scalars(
        select(Defect).filter_by(fingerprint=fingerprint(failure)).order_by(Defect.id.desc())
    ).all()
    return sorted(found, key=lambda defect: defect.state == "closed")


def check_severity(severity: str) -> str:
    """Return the severity; raises UnknownName."""
    if severity not in SEVERITIES:
        raise UnknownName("severity", severity, SEVERITIES)
    return severity


def see(session: Session, defect: Defect, *result_ids: int) -> None:
    """Take note that a defect was seen in results; a fixed or closed one is open again.

    Results that are gone, or did not fail, are passed over.
    """
    failed = select(Result.id).filter(Result.id.in_(result_ids), Result.outcome == "failed")
    rows = [{"defect_id": defect.id, "result_id": key} for key in session.scalars(failed)]
    if rows:
        session.execute(insert(Sighting).values(rows).on_conflict_do_nothing())
    if defect.state in ("fixed", "closed"):
        defect.state = "open"
        defect.version += 1
    defect.changed_at = datetime.now(UTC)
    tell(session, "defect", id=defect.id)


def change(session: Session, defect_id: int, version: int, fields: dict[str, str]) -> Defect:
    """Change a defect that was read as `version`; raises Conflict, Missing or UnknownName."""
    defect = session.scalar(select(Defect).filter_by(id=defect_id).with_for_update(of=Defect))
    if defect is None:
        raise Missing(f"There is no defect {defect_id}.", where=str(defect_id))
    if defect.version != version:
        raise Conflict(
            "The defect was changed by someone else meanwhile.",
            hint="The newest version is shown now; make your change again if it is needed.",
        )
    if "severity" in fields:
        check_severity(fields["severity"])
    if "state" in fields and fields["state"] not in STATES:
        raise UnknownName("state", fields["state"], STATES)
    for name, value in fields.items():
        setattr(defect, name, value)
    defect.version += 1
    defect.changed_at = datetime.now(UTC)
    tell(session, "defect", id=defect.id)
    return defect


def sightings(session: Session, defect_id: int) -> Sequence[tuple[Result, Run]]:
    """Return the results in which a defect was seen, with their runs, newest first."""
    query = (
        select(Result, Run)
        .join(Sighting, Sighting.result_id == Result.id)
        .join(Cast, Cast.id == Result.cast_id)
        .join(Run, Run.id == Cast.run_id)
        .filter(Sighting.defect_id == defect_id)
        .order_by(Result.id.desc())
    )
    return [(result, run) for result, run in session.execute(query)]


def of_run(session: Session, run_id: int) -> Sequence[tuple[Defect, int]]:
    """Return the defects seen in a run, each with the id of the result it was seen in."""
    query = (
        select(Defect, Sighting.result_id)
        .join(Sighting, Sighting.defect_id == Defect.id)
        .join(Result, Result.id == Sighting.result_id)
        .join(Cast, Cast.id == Result.cast_id)
        .filter(Cast.run_id == run_id)
        .order_by(Defect.id)
    )
    return [(defect, result_id) for defect, result_id in session.execute(query)]
