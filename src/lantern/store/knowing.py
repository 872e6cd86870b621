"""Which failures are known: they were seen before, as what an open defect is about."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import func, select
from sqlalchemy.orm import Session, aliased

from lantern.core.elements.facts import numbers_open
from lantern.core.review.defects import OPEN
from lantern.store.models import Cast, Defect, Result, Run, Sighting


def known_in(session: Session, run_ids: Collection[int]) -> dict[int, int]:
    """Return the open defect of each failed result of some runs that has one, by the result's id.

    The defect was seen in the same sentence with the same values of the row, which failed for the
    same reason and showed the same: another wrong price is another failure, which nobody knows.
    """
    seen, seen_cast, seen_run = aliased(Result), aliased(Cast), aliased(Run)
    query = (
        select(Result.id, Result.message, seen.message, Defect.id)
        .join(Cast, Cast.id == Result.cast_id)
        .join(Run, Run.id == Cast.run_id)
        .join(
            seen,
            (seen.step_id == Result.step_id)
            & (seen.reason == Result.reason)
            & (seen.found == Result.found)
            & (seen.expected == Result.expected),
        )
        .join(Sighting, Sighting.result_id == seen.id)
        .join(Defect, Defect.id == Sighting.defect_id)
        .join(seen_cast, seen_cast.id == seen.cast_id)
        .join(seen_run, seen_run.id == seen_cast.run_id)
        .filter(
            Run.id.in_(run_ids),
            Result.outcome == "failed",
            Result.taking == func.greatest(Cast.takings, 1),
            seen_run.test_id == Run.test_id,
            seen_cast.values == Cast.values,
            Defect.state.in_(OPEN),
        )
        .order_by(Defect.id)
    )
    # How long it was waited for may differ, what was said of it may not.
    return {
        result: defect
        for result, message, known, defect in session.execute(query)
        if numbers_open(message) == numbers_open(known)
    }


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
