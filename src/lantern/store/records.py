"""Reading a run out of the database in the shape that exports take."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.plans.going import together
from lantern.core.review.records import (
    CauseRecord,
    ChangeRecord,
    CommentRecord,
    DefectRecord,
    MatrixLine,
    PlanRecord,
    RowRecord,
    RunRecord,
    StepRecord,
)
from lantern.store import casts, commenting, judging, knowing, lists, pictures, plan_runs, then
from lantern.store.models import Cast, Judgement, PlanRun, Result, Run, Sighting

Pictured = Literal["all", "failed", "none"]
"""Of which steps the pictures are read."""
MOST_BEFORE = 60
"""Sentences whose pictures from before are read."""
MOST_PICTURED = 50
"""Runs of a plan whose pictures are read."""


def _seconds(start: datetime | None, end: datetime | None) -> float:
    return (end - start).total_seconds() if start and end else 0.0


def ordered(values: Mapping[str, str], columns: Sequence[str]) -> dict[str, str]:
    """Return a row's values in the order of the columns, which the database does not keep."""
    return {column: values[column] for column in columns if column in values}


def record_of(
    session: Session, run: Run, *, pictured: Pictured = "all", before: bool = False
) -> RunRecord:
    """Return a run with its rows and steps; pictures take memory, and may be left out.

    With `before` sentences have the pictures of the last time they passed, too.
    """
    columns = [str(column) for column in run.body.get("columns", [])]
    several = len({cast.browser for cast in run.casts}) > 1
    by_cast = casts.results_by_cast(session, run.id)
    wanted = {
        one.picture
        for results in by_cast.values()
        for one in results
        if one.picture and (pictured == "all" or (pictured == "failed" and one.outcome == "failed"))
    }
    earlier = _earlier(session, by_cast) if before else {}
    wanted |= set(earlier.values())
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
                steps=[
                    _step(result, shots, shots.get(earlier.get(result.id, ""), b""))
                    for result in by_cast.get(cast.id, [])
                ],
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


def _earlier(session: Session, by_cast: Mapping[int, Sequence[Result]]) -> dict[int, str]:
    """Return the pictures from before by result, of the first ones that have a picture."""
    pictured = [one for results in by_cast.values() for one in results if one.picture]
    found = {}
    for one in pictured[:MOST_BEFORE]:
        for each in then.of_result(session, one.id)[:1]:
            found[one.id] = each.picture
    return found


def _step(result: Result, shots: Mapping[str, bytes], before: bytes = b"") -> StepRecord:
    return StepRecord(
        then=before,
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


def changes_of_run(session: Session, run: Run) -> list[ChangeRecord]:
    """Return what a run came to against the time before."""
    query = (
        select(Run.state)
        .filter(Run.test_id == run.test_id, Run.kind == "run", Run.id < run.id)
        .filter(Run.environment_id == run.environment_id, Run.state.in_((*BAD, *FINE)))
        .order_by(Run.id.desc())
        .limit(1)
    )
    before = session.scalar(query) if run.test_id else None
    return _changed({run.test_name: run.state}, {run.test_name: before or ""})


def changes_of_plan(session: Session, row: PlanRun) -> list[ChangeRecord]:
    """Return what the tests of a run of a plan came to against the run before."""
    last = plan_runs.last_before(session, row)
    if last is None:
        return []
    return _changed(_states(row.runs), _states(last.runs))


BAD, FINE = ("failed", "interrupted"), ("passed", "unsteady")


def _states(runs: Sequence[Run]) -> dict[str, str]:
    found: dict[str, str] = {}
    for run in runs:
        if found.get(run.test_name) not in BAD:
            found[run.test_name] = run.state
    return found


def _changed(now: Mapping[str, str], before: Mapping[str, str]) -> list[ChangeRecord]:
    found = []
    for name, state in now.items():
        was = before.get(name, "")
        if state in BAD:
            what = "still fails" if was in BAD else "fails newly" if was else "fails"
        elif state in FINE and was in BAD:
            what = "passes again"
        else:
            continue
        found.append(ChangeRecord(name, what, state))
    return found


def defects_of(session: Session, run_ids: Sequence[int]) -> list[DefectRecord]:
    """Return the defects that were seen in runs, or by which their failures are known."""
    seen = (
        select(Sighting.defect_id)
        .join(Result, Result.id == Sighting.result_id)
        .join(Cast, Cast.id == Result.cast_id)
        .filter(Cast.run_id.in_(run_ids))
    )
    found = {*session.scalars(seen), *knowing.known_in(session, run_ids).values()}
    rows = lists.defects_named(session, found)
    return [
        DefectRecord(one.id, one.title, one.state, one.severity, one.owner, one.handed)
        for _, one in sorted(rows.items())
    ]
