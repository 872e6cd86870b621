"""Runs of plans: their matrix as it fills, stopping all or a cell, playing what failed again."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, cast

from flask import Response
from sqlalchemy import Row, select
from sqlalchemy.orm import Session

from lantern.client.packing import packed
from lantern.core.plans import going
from lantern.core.plans.going import Phase, changes, together
from lantern.core.problems import Missing
from lantern.core.review.records import plain
from lantern.exchange import junit
from lantern.store import casts, lists, plan_runs, runs, sharing, stations
from lantern.store import models as tables
from lantern.store.records import plan_record_of
from lantern.web import shapes
from lantern.web.context import attached, blueprint, done, me, need_lead, reply, services
from lantern.web.views.runs import cast_out

api = blueprint("plan_runs")


def brief(run: Row[Any]) -> shapes.PlanRunBrief:
    """Return the shape for lists of a run of a plan, of what store.lists tells of it."""
    fields = shapes.PlanRunBrief.model_fields
    return shapes.PlanRunBrief(**{name: getattr(run, name) for name in fields})


def plan_run_out(session: Session, row: tables.PlanRun) -> shapes.PlanRunOut:
    """Return a run of a plan in full."""
    session.flush()
    found = plan_runs.cells(session, row.id)
    last = plan_runs.last_before(session, row)
    ids = [row.id, *([last.id] if last else [])]
    told = {key: brief(one) for key, one in lists.plan_runs_named(session, ids).items()}
    expected = shapes.SpanOut(**row.expected) if row.expected else None
    columns = plan_runs.columns(found)
    over = row.state not in going.GOING
    return shapes.PlanRunOut(
        run=told[row.id],
        version=row.plan_version,
        seed=row.seed,
        browsers=columns,
        rows=_rows(found, columns),
        stations=[] if over else _stations(session, row.id),
        waits_for=[] if over else _waits_for(session, row.id),
        expected=expected,
        left=_left(row, expected, told[row.id].casts),
        deadline=row.deadline,
        last=told[last.id] if last else None,
        changes=_changes(session, found, last) if last and over else [],
    )


def _rows(found: Sequence[Row[Any]], columns: Sequence[str]) -> list[shapes.MatrixRow]:
    counted: dict[int, dict[str, dict[str, int]]] = {}
    heads: dict[int, Row[Any]] = {}
    for one in found:
        heads.setdefault(one.run, one)
        cell = counted.setdefault(one.run, {}).setdefault(one.browser, {})
        cell[one.outcome] = one.casts
    return [
        shapes.MatrixRow(
            run=run,
            test_id=head.test_id,
            name=head.test_name,
            environment=head.environment_name,
            phase=cast(Phase, head.phase),
            state=head.state,
            cells=[
                shapes.MatrixCell(
                    browser=name,
                    outcome=together(list(counted[run].get(name, {}))),
                    casts=counted[run].get(name, {}),
                )
                for name in columns
            ],
        )
        for run, head in heads.items()
    ]


def _left(
    row: tables.PlanRun, expected: shapes.SpanOut | None, casts_now: dict[str, int]
) -> float | None:
    """Return how many seconds are usual from now on: the share of what is left of what was told."""
    if expected is None or row.state not in going.GOING:
        return None
    total = sum(casts_now.values())
    open_ones = casts_now.get("waiting", 0) + casts_now.get("running", 0) / 2
    if row.started_at is None or not total:
        return expected.usual
    gone = (datetime.now(UTC) - row.started_at).total_seconds()
    over = total - open_ones
    # Once a good part is over, what it took says more than what other runs took.
    if over >= max(3, total / 5):
        return round(gone / over * open_ones, 1)
    return round(expected.usual * open_ones / total, 1)


def _stations(session: Session, key: int) -> list[shapes.StationPlays]:
    plays: dict[str, list[shapes.Playing]] = {}
    for one in stations.playing(session, tables.Run.plan_run_id == key):
        plays.setdefault(one.station, []).append(shapes.Playing(**one._mapping))
    return [
        shapes.StationPlays(station=one.name, places=one.places, plays=plays.get(one.id, []))
        for one in stations.alive(session)
    ]


def _waits_for(session: Session, key: int) -> list[str]:
    """Return in words what casts wait for and no living station offers."""
    query = (
        select(tables.Run.needs, tables.Cast.engine)
        .join(tables.Run, tables.Run.id == tables.Cast.run_id)
        .filter(tables.Run.plan_run_id == key, tables.Cast.outcome == "waiting")
        .distinct()
    )
    found: dict[str, None] = {}
    for needs, engine in session.execute(query):
        found |= dict.fromkeys(stations.missing(session, [engine], needs))
    return list(found)


def _changes(
    session: Session, found: Sequence[Row[Any]], last: tables.PlanRun
) -> list[shapes.CellChange]:
    def outcomes(rows: Sequence[Row[Any]]) -> dict[tuple[str, str], str]:
        every: dict[tuple[str, str], list[str]] = {}
        for one in rows:
            if one.phase == "main":
                every.setdefault((one.test_name, one.browser), []).append(one.outcome)
        return {key: together(states) for key, states in every.items()}

    before = outcomes(plan_runs.cells(session, last.id))
    return [shapes.CellChange(**vars(one)) for one in changes(before, outcomes(found))]


@api.get("/plan-runs", operation_id="listPlanRuns", responses={200: shapes.PlanRunList})
def list_plan_runs(query: shapes.PlanRunsAsk) -> Response:
    """List runs of plans, newest first."""
    with services().database.session() as session:
        found = lists.of_plan_runs(session, query.plan, query.after)
        listed = [brief(one) for one in found.rows]
    return reply(shapes.PlanRunList(runs=listed, next=found.next))


@api.get("/plan-runs/<int:id>", operation_id="getPlanRun", responses={200: shapes.PlanRunOut})
def get_plan_run(path: shapes.ById) -> Response:
    """Return a run of a plan."""
    with services().database.session() as session:
        shape = plan_run_out(session, plan_runs.get(session, path.id))
    return reply(shape)


@api.get("/plan-runs/<int:id>/cell", operation_id="getCell", responses={200: shapes.CellCasts})
def get_cell(path: shapes.ById, query: shapes.CellAsk) -> Response:
    """Return the casts of a cell."""
    with services().database.session() as session:
        run = runs.get(session, query.run)
        if run.plan_run_id != path.id:
            raise Missing("That run is not part of this run of a plan.", where=str(query.run))
        came = casts.summaries(session, run.id)
        known = runs.sentences(session, run.id)
        found = [
            cast_out(one, came.get(one.id, casts.NO_RESULTS), known)
            for one in run.casts
            if one.browser == query.browser
        ]
    return reply(shapes.CellCasts(casts=found))


@api.post(
    "/plan-runs/<int:id>/cancel", operation_id="cancelPlanRun", responses={200: shapes.PlanRunOut}
)
def cancel_plan_run(path: shapes.ById) -> Response:
    """Stop all that is left of a run of a plan."""
    with services().database.session() as session:
        shape = plan_run_out(session, plan_runs.cancel(session, path.id))
    return reply(shape)


@api.post(
    "/plan-runs/<int:id>/cell/cancel", operation_id="cancelCell", responses={200: shapes.Done}
)
def cancel_cell(path: shapes.ById, body: shapes.CellCancel) -> Response:
    """Stop what is left of a test in a browser; all others go on."""
    database = services().database
    with database.session() as session:
        run = runs.get(session, body.run)
        if run.plan_run_id != path.id:
            raise Missing("That run is not part of this run of a plan.", where=str(body.run))
        casts.cancel_some(session, run.id, [c.id for c in run.casts if c.browser == body.browser])
    with database.session() as session:  # the plan is locked before its runs
        plan_runs.go_on(session, path.id)
    return done()


@api.post("/casts/<int:id>/cancel", operation_id="cancelCast", responses={200: shapes.Done})
def cancel_cast(path: shapes.ById) -> Response:
    """Stop one row in one browser; the others go on."""
    database = services().database
    with database.session() as session:
        casts.cancel_one(session, path.id)
    with database.session() as session:  # the plan is locked before its runs
        key = plan_runs.of_cast(session, path.id)
        if key is not None:
            plan_runs.go_on(session, key)
    return done()


@api.post(
    "/plan-runs/<int:id>/again", operation_id="playFailedAgain", responses={200: shapes.PlanRunOut}
)
def play_again(path: shapes.ById) -> Response:
    """Play what failed or was interrupted once more, as a run of the plan of its own."""
    with services().database.session() as session:
        shape = plan_run_out(session, plan_runs.again(session, path.id, me().id))
    return reply(shape)


@api.get("/plan-runs/<int:id>/junit.xml", operation_id="exportPlanJunit", responses={200: None})
def export_junit(path: shapes.ById) -> Response:
    """Return a run of a plan as JUnit XML: a suite for each of its runs."""
    with services().database.session() as session:
        told = plan_record_of(session, plan_runs.get(session, path.id), pictured="none")
    return attached(junit.write(told.runs), "application/xml", f"plan-run-{path.id}.xml")


@api.get("/plan-runs/<int:id>/record.json", operation_id="exportPlanJson", responses={200: None})
def export_json(path: shapes.ById) -> Response:
    """Return a run of a plan as JSON: its facts, rows and steps, without pictures."""
    with services().database.session() as session:
        told = plan_record_of(session, plan_runs.get(session, path.id), pictured="none")
    text = json.dumps(plain(told), ensure_ascii=False, indent=1)
    return attached(text, "application/json", f"plan-run-{path.id}.json")


@api.get("/client.pyz", operation_id="client", responses={200: None})
def client() -> Response:
    """Return the client of pipelines: one file that Python runs."""
    headers = {"Content-Disposition": 'attachment; filename="lantern-client.pyz"'}
    return Response(packed(), mimetype="application/zip", headers=headers)


@api.get("/queue", operation_id="listQueue", responses={200: shapes.QueueOut})
def list_queue() -> Response:
    """List what waits for a station, in the order in which it is given out."""
    with services().database.session() as session:
        waiting = [
            shapes.QueuedCast(
                cast=one.id,
                number=one.number,
                browser=one.browser,
                run=one.run,
                kind=one.kind,
                test=one.test_name,
                plan_run=one.plan_run_id,
                plan=one.plan,
                share=one.share_id,
                boost=one.boost,
            )
            for one in sharing.waiting(session)
        ]
    return reply(shapes.QueueOut(waiting=waiting))


@api.post("/queue/<int:id>/move", operation_id="moveInQueue", responses={200: shapes.Done})
def move_in_queue(path: shapes.ById, body: shapes.QueueMove) -> Response:
    """Let a run or a run of a plan, by its share, go first, last or as usual; for leads."""
    need_lead()
    with services().database.session() as session:
        sharing.move(session, path.id, body.boost)
    return done()
