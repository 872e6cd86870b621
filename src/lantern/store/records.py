"""Reading a run out of the database in the shape that exports take."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import datetime
from typing import Literal

from sqlalchemy.orm import Session

from lantern.core.plans.going import together
from lantern.core.review.records import (
    CauseRecord,
    CommentRecord,
    MatrixLine,
    PlanRecord,
    RowRecord,
    RunRecord,
    StepRecord,
)
from lantern.store import casts, commenting, judging, pictures, plan_runs
from lantern.store.models import Judgement, PlanRun, Result, Run

Pictured = Literal["all", "failed", "none"]
"""Of which steps the pictures are read."""
MOST_PICTURED = 50
"""Runs of a plan whose pictures are read."""


def _seconds(start: datetime | None, end: datetime | None) -> float:
    return (end - start).total_seconds() if start and end else 0.0


def ordered(values: Mapping[str, str], columns: Sequence[str]) -> dict[str, str]:
    """Return a row's values in the order of the columns, which the database does not keep."""
    return {column: values[column] for column in columns if column in values}


def record_of(session: Session, run: Run, *, pictured: Pictured = "all") -> RunRecord:
    """Return a run with its rows and steps; pictures take memory, and may be left out."""
    columns = [str(column) for column in run.body.get("columns", [])]
    several = len({cast.browser for cast in run.casts}) > 1
    by_cast = casts.results_by_cast(session, run.id)
    wanted = {
        one.picture
        for results in by_cast.values()
        for one in results
        if one.picture and (pictured == "all" or (pictured == "failed" and one.outcome == "failed"))
    }
    shots = pictures.contents(session, wanted) if wanted else {}
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
            RowRecord(
                number=cast.number,
                values=ordered(cast.values, columns),
                kept=cast.kept,
                outcome=cast.outcome,
                seconds=_seconds(cast.started_at, cast.ended_at),
                steps=[_step(result, shots) for result in by_cast.get(cast.id, [])],
                browser=cast.browser if several else "",
                message=cast.message,
                started_at=cast.started_at,
                ended_at=cast.ended_at,
            )
            for cast in run.casts
        ],
        message=run.message,
        seed=run.seed,
        sentences=[str(step["id"]) for step in run.body.get("steps", [])],
        comments=_comments(session, run),
    )


def _comments(session: Session, run: Run) -> list[CommentRecord]:
    numbers = {cast.id: cast.number for cast in run.casts}
    found = []
    for one in commenting.of_run(session, run.id):
        of = "the run"
        if one.place == "sentence":
            result = session.get_one(Result, one.key)
            of = f"“{result.sentence}” in row {numbers.get(result.cast_id, 0)}"
        elif one.place == "row":
            of = f"row {numbers.get(one.key, 0)}"
        author = one.account.name if one.account else ""
        found.append(CommentRecord(author, one.text, one.at, of, one.looked))
    return found


def _step(result: Result, shots: Mapping[str, bytes]) -> StepRecord:
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
        picture=shots.get(result.picture, b""),
        step=result.step_id,
        title=result.details.get("title", ""),
        comment=result.details.get("comment", ""),
        contrary=result.details.get("contrary", ""),
    )


def plan_record_of(session: Session, row: PlanRun, *, pictured: Pictured = "failed") -> PlanRecord:
    """Return a run of a plan with all its runs.

    Of how many runs it consists nobody knows, so pictures are those of failures, and only of the
    first MOST_PICTURED runs that have some.
    """
    cells = plan_runs.cells(session, row.id)
    counts: dict[str, int] = {}
    states: dict[tuple[int, str], list[str]] = {}
    for one in cells:
        counts[one.outcome] = counts.get(one.outcome, 0) + one.casts
        states.setdefault((one.run, one.browser), []).append(one.outcome)
    browsers = plan_runs.columns(cells)
    heads = {one.run: one for one in cells}
    return PlanRecord(
        id=row.id,
        name=row.plan_name,
        state=row.state,
        message=row.message,
        seed=row.seed,
        started_at=row.started_at,
        seconds=_seconds(row.started_at, row.ended_at),
        counts=counts,
        browsers=browsers,
        matrix=[
            MatrixLine(
                head.test_name,
                head.environment_name,
                [together(states.get((key, name), [])) for name in browsers],
            )
            for key, head in heads.items()
        ],
        runs=list(_records(session, row.runs, pictured)),
    )


def _records(session: Session, runs: Sequence[Run], pictured: Pictured) -> Iterator[RunRecord]:
    left = MOST_PICTURED
    for run in runs:
        shows = pictured if left > 0 and run.state != "passed" else "none"
        left -= shows != "none"
        yield record_of(session, run, pictured=shows)


def causes_of(
    session: Session, run_ids: Sequence[int], plan_run: int | None = None
) -> list[CauseRecord]:
    """Return what failed in some runs by cause, as far as it is judged; the most failures first."""
    found = judging.review(session, run_ids, plan_run)
    told = []
    for cause in found.causes:
        first = cause.members[0]
        said = found.corrections.get((first.fingerprint, first.verdict))
        signs = session.get_one(Judgement, first.failure.result).body["signs"]
        told.append(
            CauseRecord(
                cause.kind,
                max(first.shares.values()),
                len(cause.members),
                session.get_one(Result, first.failure.result).sentence,
                next((one["told"] for one in signs if one["weight"] > 0), ""),
                said.account.name if said and said.account else "",
                said.word if said else "",
            )
        )
    return told
