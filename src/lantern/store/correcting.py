"""What people say that failures are, beside the verdict that they correct."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from lantern.core.problems import Missing
from lantern.store.database import tell
from lantern.store.models import Correction, Judgement, Run

LONGEST_WORD = 2000
"""Letters of the word with which a person says why."""


def held(
    session: Session, run_ids: Sequence[int], plan_run: int | None
) -> dict[tuple[str, str], Correction]:
    """Return the corrections that hold in some runs, by fingerprint and verdict."""
    of: ColumnElement[bool] = Correction.run_id.in_(run_ids)
    if plan_run is not None:
        of = of | (Correction.plan_run_id == plan_run)
    rows = session.scalars(select(Correction).filter(of).order_by(Correction.id))
    return {(one.fingerprint, one.verdict): one for one in rows}


def before(session: Session, key: str, run: Run) -> dict[str, int]:
    """Return what people called failures of a fingerprint in other runs, and how often."""
    query = select(Correction.kind).filter(Correction.fingerprint == key)
    query = query.filter(func.coalesce(Correction.run_id, 0) != run.id)
    return dict(Counter(session.scalars(query)))


def add(
    session: Session, judged: Judgement, run: Run, kind: str, word: str, account_id: int | None
) -> Correction:
    """Keep what a person says that failures of one cause are.

    It holds in the run of the failure, and in the whole run of a plan where that is part of one.
    """
    row = Correction(
        fingerprint=judged.fingerprint,
        run_id=run.id,
        plan_run_id=run.plan_run_id,
        verdict=judged.verdict,
        kind=kind,
        word=word.strip()[:LONGEST_WORD],
        account_id=account_id,
    )
    session.add(row)
    session.flush()
    _tell(session, row)
    return row


def _tell(session: Session, row: Correction) -> None:
    if row.run_id is not None:
        tell(session, "run", id=row.run_id)
    if row.plan_run_id is not None:
        tell(session, "plan run", id=row.plan_run_id)


def take_back(session: Session, correction_id: int) -> None:
    """Take a correction back; what was said before it holds again. Raises Missing."""
    row = session.get(Correction, correction_id)
    if row is None:
        raise Missing("That correction was taken back already.", where=str(correction_id))
    session.delete(row)
    _tell(session, row)


def counted(session: Session) -> list[tuple[str, str, int]]:
    """Return how often people called what Lantern called one kind another: verdict, kind, count."""
    query = select(Correction.verdict, Correction.kind, func.count().label("times"))
    grouped = query.group_by(Correction.verdict, Correction.kind)
    return [(verdict, kind, times) for verdict, kind, times in session.execute(grouped)]
