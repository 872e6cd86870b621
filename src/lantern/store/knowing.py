"""Which failures are known: an open defect was raised for the same failure."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.review.defects import OPEN, Failure, fingerprint
from lantern.store.models import Cast, Defect, Result, Run


def known_in(session: Session, run_ids: Collection[int]) -> dict[int, int]:
    """Return the open defect of each failed result of some runs that has one, by the result's id.

    Known by what the failure is, so also where nobody has said that it was seen there.
    """
    rows = session.execute(
        select(Result.id, Result.step_id, Result.reason, Result.message, Run.test_id, Run.test_name)
        .join(Cast, Cast.id == Result.cast_id)
        .join(Run, Run.id == Cast.run_id)
        .filter(
            Run.id.in_(run_ids),
            Result.outcome == "failed",
            Result.taking == func.greatest(Cast.takings, 1),
        )
    ).all()
    prints = {
        row.id: fingerprint(
            Failure(
                str(row.test_id or row.test_name), row.step_id, "", row.reason, row.message, "", ""
            )
        )
        for row in rows
    }
    defects = select(Defect.fingerprint, func.max(Defect.id)).filter(
        Defect.fingerprint.in_(set(prints.values())), Defect.state.in_(OPEN)
    )
    found = {row[0]: row[1] for row in session.execute(defects.group_by(Defect.fingerprint))}
    return {result: found[mark] for result, mark in prints.items() if mark in found}


def all_known(session: Session, run_ids: Collection[int]) -> dict[int, frozenset[int]]:
    """Return the open defects by which all failures of a run are known, by run; others lack."""
    known = known_in(session, run_ids)
    rows = session.execute(
        select(Cast.run_id, Cast.id, Result.id)
        .outerjoin(
            Result,
            (Result.cast_id == Cast.id)
            & (Result.outcome == "failed")
            & (Result.taking == func.greatest(Cast.takings, 1)),
        )
        .filter(Cast.run_id.in_(run_ids), Cast.outcome == "failed")
    )
    found: dict[int, set[int]] = {}
    unknown = set()
    for run, _, result in rows:
        if result in known:
            found.setdefault(run, set()).add(known[result])
        else:  # also a row that failed without a sentence that did
            unknown.add(run)
    return {run: frozenset(keys) for run, keys in found.items() if run not in unknown}


def defects_of(session: Session, run_ids: Collection[int]) -> dict[int, int]:
    """Return by run an open defect that its failures are known by; runs with others lack."""
    return {run: min(keys) for run, keys in all_known(session, run_ids).items()}
