"""Whose fault what failed is: verdicts, causes, and what people say of them."""

from __future__ import annotations

from collections.abc import Sequence

from flask import Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.review.causes import Cause
from lantern.store import correcting, judging, plan_runs, runs
from lantern.store.models import Cast, Correction, Judgement, Result, Run, Sighting
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, reply, safe, services

api = blueprint("verdicts")
MOST_LISTED = 500
"""Failures of one cause that are named."""


def _said(row: Correction | None) -> shapes.SaidOut | None:
    if row is None:
        return None
    said = {name: getattr(row, name) for name in ("id", "kind", "verdict", "word", "at")}
    author = row.account.name if row.account else ""
    return shapes.SaidOut.model_validate({**said, "author": author})


def _verdict(verdict: str, body: dict[str, object], said: Correction | None) -> shapes.VerdictOut:
    return shapes.VerdictOut.model_validate(
        {"changed": [], **body, "verdict": verdict, "said": _said(said)}
    )


def _causes(session: Session, run_ids: Sequence[int], plan_run: int | None) -> shapes.CausesOut:
    found = judging.review(session, run_ids, plan_run)
    ids = [one.failure.result for cause in found.causes for one in cause.members]
    sightings = select(Sighting.result_id, Sighting.defect_id).filter(Sighting.result_id.in_(ids))
    seen = {row[0]: row[1] for row in session.execute(sightings)}
    places = {
        (run, step): place
        for run in {one.failure.run for cause in found.causes for one in cause.members}
        for place, step in enumerate(runs.sentences(session, run), 1)
    }
    return shapes.CausesOut(
        causes=[_cause(session, cause, found, seen, places) for cause in found.causes],
        failed=found.failed,
        left=found.left,
        corrected=sum(times for was, now, times in correcting.counted(session) if was != now),
    )


def _cause(
    session: Session,
    cause: Cause[judging.Failed],
    found: judging.Review,
    seen: dict[int, int],
    places: dict[tuple[int, str], int],
) -> shapes.CauseOut:
    first = cause.members[0]
    said = found.corrections.get((first.fingerprint, first.verdict))
    result = session.get_one(Result, first.failure.result)
    judged = session.get_one(Judgement, result.id)
    return shapes.CauseOut(
        fingerprint=cause.fingerprint,
        kind=cause.kind,
        verdict=_verdict(first.verdict, judged.body, said),
        sentence=result.sentence,
        message=result.message,
        picture=result.picture,
        count=len(cause.members),
        failures=[
            shapes.FailureOut(
                result=one.failure.result,
                cast=one.failure.cast,
                run=one.failure.run,
                test=one.failure.test,
                test_name=one.failure.test_name,
                number=one.failure.number,
                browser=one.failure.browser,
                place=places.get((one.failure.run, one.failure.step), 0),
            )
            for one in cause.members[:MOST_LISTED]
        ],
        defect=next(
            (seen[one.failure.result] for one in cause.members if one.failure.result in seen),
            None,
        ),
    )


@api.get("/runs/<int:id>/causes", operation_id="getCauses", responses={200: shapes.CausesOut})
def get_causes(path: shapes.ById) -> Response:
    """Return what failed in a run, put together by cause, each with its verdict."""
    with services().database.session() as session:
        run = runs.get(session, path.id)
        shape = _causes(session, [run.id], run.plan_run_id)
    return reply(shape)


@api.get(
    "/plan-runs/<int:id>/causes", operation_id="getPlanCauses", responses={200: shapes.CausesOut}
)
def get_plan_causes(path: shapes.ById) -> Response:
    """Return what failed in a run of a plan, put together by cause across its tests."""
    with services().database.session() as session:
        row = plan_runs.get(session, path.id)
        ids = session.scalars(select(Run.id).filter_by(plan_run_id=row.id)).all()
        shape = _causes(session, ids, row.id)
    return reply(shape)


def _verdict_out(session: Session, judged: Judgement) -> shapes.VerdictOut:
    run = session.scalars(
        select(Run)
        .join(Cast, Cast.run_id == Run.id)
        .join(Result, Result.cast_id == Cast.id)
        .filter(Result.id == judged.result_id)
    ).one()
    held = correcting.held(session, [run.id], run.plan_run_id)
    said = held.get((judged.fingerprint, judged.verdict))
    return _verdict(judged.verdict, judged.body, said)


@api.get("/results/<int:id>/verdict", operation_id="getVerdict", responses={200: shapes.VerdictOut})
def get_verdict(path: shapes.ById) -> Response:
    """Return whose fault a failed sentence is, with what that is made of."""
    with services().database.session() as session:
        shape = _verdict_out(session, judging.verdict_of(session, path.id))
    return reply(shape)


@api.post(
    "/results/<int:id>/verdict", operation_id="sayVerdict", responses={200: shapes.VerdictOut}
)
def say_verdict(path: shapes.ById, body: shapes.SayAsk) -> Response:
    """Say what a failure, and all of its cause, is; it is kept beside what Lantern said."""
    with services().database.session() as session:
        judging.correct(session, path.id, body.kind, safe(session, body.word), me().id)
        shape = _verdict_out(session, judging.verdict_of(session, path.id))
    return reply(shape)


@api.delete("/corrections/<int:id>", operation_id="takeBackCorrection", responses={204: None})
def take_back(path: shapes.ById) -> Response:
    """Take back what was said of a failure."""
    with services().database.session() as session:
        correcting.take_back(session, path.id)
    return done()
