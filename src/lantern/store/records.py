"""Reading a run out of the database in the shape that exports take."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime

from sqlalchemy.orm import Session

from lantern.core.review.records import RowRecord, RunRecord, StepRecord
from lantern.store import casts, pictures
from lantern.store.models import Cast, Result, Run


def _seconds(start: datetime | None, end: datetime | None) -> float:
    return (end - start).total_seconds() if start and end else 0.0


def ordered(values: Mapping[str, str], columns: Sequence[str]) -> dict[str, str]:
    """Return a row's values in the order of the columns, which the database does not keep."""
    return {column: values[column] for column in columns if column in values}


def record_of(session: Session, run: Run, *, with_pictures: bool = True) -> RunRecord:
    """Return a run with its rows and steps; pictures take memory and may be left out."""
    columns = [str(column) for column in run.body.get("columns", [])]
    several = len({cast.browser for cast in run.casts}) > 1
    return RunRecord(
        id=run.id,
        test=run.test_name,
        state=run.state,
        environment=run.environment_name,
        address=run.address,
        browser=run.browser,
        release=run.release,
        started_at=run.started_at,
        seconds=_seconds(run.started_at, run.ended_at),
        rows=[
            _row(session, cast, columns, cast.browser if several else "", with_pictures)
            for cast in run.casts
        ],
        message=run.message,
        seed=run.seed,
    )


def _row(
    session: Session,
    cast: Cast,
    columns: Sequence[str],
    browser: str,
    with_pictures: bool,
) -> RowRecord:
    return RowRecord(
        number=cast.number,
        values=ordered(cast.values, columns),
        kept=cast.kept,
        outcome=cast.outcome,
        seconds=_seconds(cast.started_at, cast.ended_at),
        steps=[
            _step(session, result, with_pictures=with_pictures)
            for result in casts.results(session, cast.id)
        ],
        browser=browser,
        message=cast.message,
    )


def _step(session: Session, result: Result, *, with_pictures: bool) -> StepRecord:
    picture = pictures.load(session, result.picture) if with_pictures and result.picture else None
    return StepRecord(
        sentence=result.sentence,
        outcome=result.outcome,
        used=result.used,
        limit=result.limit,
        reason=result.reason,
        message=result.message,
        hint=result.hint,
        expected=result.expected,
        found=result.found,
        console=result.details.get("console", []),
        requests=result.details.get("requests", []),
        picture=picture.content if picture else b"",
    )
