"""Runs: starting, watching, reading and exporting them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from flask import Response
from sqlalchemy import Row, select
from sqlalchemy.orm import Session

from lantern.core.engine.late import Late
from lantern.core.engine.late import told as late_told
from lantern.core.problems import Missing
from lantern.core.review.differences import difference
from lantern.core.review.tables import last_reached, table_of
from lantern.core.steps.comparing import StepChange, suspects
from lantern.core.steps.model import Document
from lantern.core.steps.properties import COMPARISONS
from lantern.exchange import csv_rows, junit, sheets
from lantern.store import (
    casts,
    defects,
    keeping,
    knowing,
    lists,
    proofs,
    runs,
    stations,
    tests,
    then,
)
from lantern.store.models import Cast, Defect, Result, Run
from lantern.store.records import record_of
from lantern.web import shapes
from lantern.web.context import blueprint, me, reply, services
from lantern.web.views.changes import changes_out
from lantern.web.views.proofs import found_out

api = blueprint("runs")


def brief(run: Row[Any]) -> shapes.RunBrief:
    """Return a run's shape for lists, of what store.lists tells of it."""
    return shapes.RunBrief(
        id=run.id,
        kind=run.kind,
        state=run.state,
        test_id=run.test_id,
        test_name=run.test_name,
        environment=run.environment_name,
        browser=run.browser,
        release=run.release,
        author=run.author,
        queued_at=run.queued_at,
        started_at=run.started_at,
        ended_at=run.ended_at,
        plan_run=run.plan_run_id,
        rows=run.casts,
    )


def cast_out(cast: Cast, came: casts.Summary, sentences: Sequence[str]) -> shapes.CastOut:
    """Return a cast's shape; `sentences` are the ids of the test's own."""
    seconds = None
    if cast.started_at and cast.ended_at:
        seconds = round((cast.ended_at - cast.started_at).total_seconds(), 2)
    return shapes.CastOut(
        id=cast.id,
        position=cast.position,
        number=cast.number,
        values=cast.values,
        kept=cast.kept,
        outcome=cast.outcome,
        current=cast.current,
        current_step=cast.current_step,
        seconds=seconds,
        failed_at=came.sentence,
        message=came.message or cast.message,
        browser=cast.browser,
        version=cast.version,
        station=cast.station_id,
        takings=cast.takings,
        failures=cast.failures,
        hand=cast.hand,
        steps_done=last_reached(sentences, came.reached) or len(came.reached),
    )


def _listed(session: Session, run_id: int) -> Row[Any]:
    found = lists.runs_named(session, [run_id])
    if run_id not in found:
        raise Missing(f"There is no run {run_id}.", where=str(run_id))
    return found[run_id]


def delta_of(
    session: Session,
    run_id: int,
    cast_ids: Sequence[int],
    result_ids: Sequence[int],
    *,
    lately: bool = False,
) -> shapes.RunDelta:
    """Return what changed in a run: these casts, these results, and (`lately`) what plays."""
    run = runs.get(session, run_id)
    sentences = runs.sentences(session, run_id)
    changed = {cast.id: cast for cast in casts.some(session, run_id, cast_ids)}
    if lately:
        changed |= {cast.id: cast for cast in casts.some(session, run_id, None)}
    came = casts.summaries(session, run_id, list(changed))
    fresh: dict[int, list[shapes.ResultOut]] = {}
    for result in casts.lasting(session, result_ids):
        fresh.setdefault(result.cast_id, []).append(result_out(result))
    return shapes.RunDelta(
        run=brief(_listed(session, run_id)),
        message=run.message,
        casts=[
            cast_out(one, came.get(one.id, casts.NO_RESULTS), sentences) for one in changed.values()
        ],
        results=fresh,
        again=lately,
    )


def run_out(session: Session, run: Run) -> shapes.RunOut:
    """Return a run's shape, with its rows."""
    came = casts.summaries(session, run.id)
    sentences = runs.sentences(session, run.id)
    played = [cast_out(cast, came.get(cast.id, casts.NO_RESULTS), sentences) for cast in run.casts]
    named = [
        step["inputs"].get("name", "")
        for step in run.body.get("steps", [])
        if step.get("action") == "keep"
    ]
    found = {name: True for cast in played for name in cast.kept}
    baseline = tests.baseline_of(session, run.test_id)
    return shapes.RunOut(
        run=brief(_listed(session, run.id)),
        version=run.test_version,
        baseline=baseline,
        differs=found_out(proofs.found_by(session, run), run.body),
        suspects=_suspects(session, run, baseline, came),
        message=run.message,
        address=run.address,
        seed=run.seed,
        columns=list(run.body.get("columns", [])),
        waits_for=_waits_for(session, run),
        pinned=run.pinned,
        kept=[name for name in dict.fromkeys([*named, *found]) if name in found],
        steps=len(sentences),
        casts=played,
        defects=_defects(session, run),
    )


def _defects(session: Session, run: Run) -> list[shapes.DefectLink]:
    """Return the defects that were seen in a run, and those by which what else failed is known."""
    seen = defects.of_run(session, run.id)
    told = {result for _, result in seen}
    known = {
        result: key
        for result, key in knowing.known_in(session, [run.id]).items()
        if result not in told
    }
    others = select(Defect).filter(Defect.id.in_(set(known.values())))
    more = {one.id: one for one in session.scalars(others)}
    links = [(defect, result, False) for defect, result in seen]
    links += [(more[key], result, True) for result, key in known.items()]
    return [
        shapes.DefectLink(
            id=defect.id, title=defect.title, state=defect.state, result_id=result, known=known
        )
        for defect, result, known in links
    ]


def _waits_for(session: Session, run: Run) -> list[str]:
    """Return the titles of engines that casts wait for and no living station offers."""
    wanted = {cast.engine for cast in run.casts if cast.outcome == "waiting"}
    return stations.missing(session, wanted, run.needs)


def _suspects(
    session: Session, run: Run, baseline: int | None, came: Mapping[int, casts.Summary]
) -> list[shapes.Suspects]:
    """Return, by cast and failed step, what was changed since the baseline and could be the cause.

    Rows that share their suspects share the answer's part for it.
    """
    if baseline is None or run.test_id is None or baseline == run.test_version:
        return []
    if not any(one.failed for one in came.values()):
        return []
    before, after = tests.document_of(session, run.test_id, baseline), Document.read(run.body)
    values = {cast.id: cast.values for cast in run.casts}
    shared: dict[tuple[str, tuple[str, ...]], list[int]] = {}
    changes: dict[tuple[str, tuple[str, ...]], list[StepChange]] = {}
    for cast, one in came.items():
        for step in one.failed:
            found = suspects(before, after, step, values.get(cast, {}))
            steps = (two for two in ((change.after or change.before) for change in found) if two)
            key = step, tuple(two.id for two in steps)
            if found:
                shared.setdefault(key, []).append(cast)
                changes[key] = found
    return [
        shapes.Suspects(step=key[0], casts=of, changes=changes_out(session, changes[key]))
        for key, of in shared.items()
    ]


@api.post("/tests/<int:id>/runs", operation_id="startRun", responses={200: shapes.RunOut})
def start_run(path: shapes.ById, body: shapes.RunAsk) -> Response:
    """Queue a run of a test; a station takes it as soon as one is free."""
    with services().database.session() as session:
        test = tests.get(session, path.id)
        run = runs.create(
            session,
            test,
            body.kind,
            body.rows,
            me().id,
            body.environment,
            body.seed,
            body.version,
            body.browsers,
        )
        shape = run_out(session, run)
    return reply(shape)


@api.get("/runs", operation_id="listRuns", responses={200: shapes.RunList})
def list_runs(query: shapes.RunsAsk) -> Response:
    """List runs, newest first."""
    with services().database.session() as session:
        found = lists.of_runs(
            session,
            query.q.strip(),
            query.state,
            query.kind,
            query.test,
            query.after,
            label=query.label.strip(),
        )
        listed = [brief(run) for run in found.rows]
    return reply(shapes.RunList(runs=listed, next=found.next))


@api.get("/runs/<int:id>", operation_id="getRun", responses={200: shapes.RunOut})
def get_run(path: shapes.ById) -> Response:
    """Return a run with its rows."""
    with services().database.session() as session:
        shape = run_out(session, runs.get(session, path.id))
    return reply(shape)


@api.patch("/runs/<int:id>", operation_id="changeRun", responses={200: shapes.RunOut})
def change_run(path: shapes.ById, body: shapes.RunChange) -> Response:
    """Keep a run for good, or no longer."""
    with services().database.session() as session:
        run = keeping.pin(session, path.id, pinned=body.pinned)
        session.flush()
        shape = run_out(session, run)
    return reply(shape)


@api.post("/runs/<int:id>/cancel", operation_id="cancelRun", responses={200: shapes.RunOut})
def cancel_run(path: shapes.ById) -> Response:
    """Ask for a run to stop; it does so within two seconds."""
    with services().database.session() as session:
        run = runs.ask_cancel(session, path.id)
        session.flush()
        session.expire_all()
        shape = run_out(session, run)
    return reply(shape)


@api.get("/casts/<int:id>/results", operation_id="listResults", responses={200: shapes.ResultList})
def list_results(path: shapes.ById, query: shapes.ResultsAsk) -> Response:
    """Return the results of a row, step by step."""
    with services().database.session() as session:
        if session.get(Cast, path.id) is None:
            raise Missing("That row does not exist any more.", where=str(path.id))
        found = [result_out(result) for result in casts.results(session, path.id, query.taking)]
    return reply(shapes.ResultList(results=found))


def result_out(result: Result) -> shapes.ResultOut:
    """Return a result's shape."""
    details = result.details
    return shapes.ResultOut(
        id=result.id,
        step_id=result.step_id,
        position=result.position,
        sentence=result.sentence,
        outcome=result.outcome,
        reason=result.reason,
        message=result.message,
        hint=result.hint,
        expected=result.expected,
        found=result.found,
        used=result.used,
        limit=result.limit,
        picture=result.picture,
        freed=details.get("freed", False),
        box=details.get("box"),
        lookups=details.get("lookups", []),
        console=details.get("console", []),
        requests=details.get("requests", []),
        files=details.get("files", []),
        within=details.get("within", []),
        attempts=details.get("attempts", 1),
        title=details.get("title", ""),
        comment=details.get("comment", ""),
        thing=details.get("thing", ""),
        contrary=details.get("contrary", ""),
        difference=_difference(result),
        late=late_told(Late(**details["late"]), result.limit) if details.get("late") else "",
    )


def _difference(result: Result) -> shapes.TextDifferenceOut | None:
    """Return in what a failed check differs; None where it did not ask for a whole text."""
    asks = any(result.expected.startswith(f"{name} ") for name in COMPARISONS if name != "is")
    if result.outcome != "failed" or not result.expected or not result.found or asks:
        return None
    told = asdict(difference(result.expected, result.found))
    return shapes.TextDifferenceOut.model_validate(told)


@api.get("/results/<int:id>/then", operation_id="getThen", responses={200: shapes.ThenList})
def get_then(path: shapes.ById) -> Response:
    """Return pictures of a sentence from before: when it passed last, and when it was recorded."""
    with services().database.session() as session:
        found = [
            shapes.ThenOut.model_validate(asdict(one)) for one in then.of_result(session, path.id)
        ]
    return reply(shapes.ThenList(pictures=found))


@api.get("/runs/<int:id>/junit.xml", operation_id="exportJunit", responses={200: None})
def export_junit(path: shapes.ById) -> Response:
    """Return a run as JUnit XML."""
    with services().database.session() as session:
        record = record_of(session, runs.get(session, path.id), pictured="none")
        text = junit.write([record])
    headers = {"Content-Disposition": f'attachment; filename="run-{path.id}.xml"'}
    return Response(text, mimetype="application/xml", headers=headers)


@api.get("/runs/<int:id>/rows.<ending>", operation_id="exportResults", responses={200: None})
def export_results(path: shapes.ByIdAndEnding) -> Response:
    """Return what came of each row of a run as a table."""
    if path.ending not in sheets.FORMATS:
        raise Missing(f"Results are not written as .{path.ending}.", where="ending")
    form = sheets.FORMATS[path.ending]
    with services().database.session() as session:
        record = record_of(session, runs.get(session, path.id), pictured="none")
    columns, rows = table_of(record)
    if path.ending == "csv":  # what a page says may look like a formula
        content = csv_rows.write(columns, rows, escape=True).encode()
    else:
        content = form.write(columns, rows)
    name = f"run-{path.id}.{path.ending}"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(content, mimetype=form.mime, headers=headers)
