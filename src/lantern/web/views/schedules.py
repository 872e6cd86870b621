"""Schedules of plans, and the calendar of what ran, runs and will run."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.plans.model import Plan
from lantern.core.plans.schedule import Busy, Schedule, crowded
from lantern.core.problems import Problem
from lantern.store import models as tables
from lantern.store import schedules, stations
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, reply, services

api = blueprint("schedules")
SHOWN = 5
"""How many of the next times are told."""
SHORTEST = timedelta(seconds=30)
"""How long what is to come lasts at least, where nobody knows."""


def _out(session: Session, row: tables.Schedule) -> shapes.ScheduleOut:
    schedule = Schedule.read(row.body)
    last = schedules.last_of(session, row.id)
    return shapes.ScheduleOut(
        id=row.id,
        plan_id=row.plan_id,
        version=row.version,
        schedule=shapes.ScheduleBody.model_validate(row.body),
        words=schedule.in_words(),
        next=schedule.some(datetime.now(UTC), SHOWN) if schedule.enabled else [],
        last=last.due if last else None,
        last_run=last.plan_run_id if last else None,
        trouble=last.trouble if last else "",
    )


@api.get(
    "/plans/<int:id>/schedules", operation_id="listSchedules", responses={200: shapes.ScheduleList}
)
def list_schedules(path: shapes.ById) -> Response:
    """List the schedules of a plan."""
    with services().database.session() as session:
        found = [_out(session, row) for row in schedules.of_plan(session, path.id)]
    return reply(shapes.ScheduleList(schedules=found))


@api.post(
    "/plans/<int:id>/schedules", operation_id="makeSchedule", responses={200: shapes.ScheduleOut}
)
def make_schedule(path: shapes.ById, body: shapes.ScheduleBody) -> Response:
    """Let a plan start by itself."""
    with services().database.session() as session:
        schedule = Schedule.read(body.model_dump(mode="json"))
        shape = _out(session, schedules.make(session, path.id, schedule, me().id))
    return reply(shape)


@api.post(
    "/schedules/preview", operation_id="previewSchedule", responses={200: shapes.SchedulePreview}
)
def preview(body: shapes.ScheduleBody) -> Response:
    """Tell what a schedule comes to, as it is written now."""
    try:
        schedule = Schedule.read(body.model_dump(mode="json"))
        found = schedule.some(datetime.now(UTC), SHOWN)
        shape = shapes.SchedulePreview(
            words=schedule.in_words(), next=found, trouble="", hint=_said(schedule, found)
        )
    except Problem as error:
        shape = shapes.SchedulePreview(words="", next=[], trouble=error.message, hint=error.hint)
    return reply(shape)


def _said(schedule: Schedule, found: list[datetime]) -> str:
    if found or not schedule.enabled:
        return ""
    past = schedule.at is not None
    return "That has passed: it starts at once, once." if past else "It never comes again."


@api.put("/schedules/<int:id>", operation_id="changeSchedule", responses={200: shapes.ScheduleOut})
def change_schedule(path: shapes.ById, body: shapes.ScheduleChange) -> Response:
    """Give a schedule other times; 409 where somebody changed it since it was read."""
    with services().database.session() as session:
        schedule = Schedule.read(body.schedule.model_dump(mode="json"))
        shape = _out(session, schedules.change(session, path.id, schedule, base=body.base))
    return reply(shape)


@api.delete("/schedules/<int:id>", operation_id="deleteSchedule", responses={200: shapes.Done})
def delete_schedule(path: shapes.ById) -> Response:
    """Delete a schedule; what it started stays."""
    with services().database.session() as session:
        schedules.drop(session, path.id)
    return done()


@api.post("/schedules/<int:id>/move", operation_id="moveSchedule", responses={200: shapes.Done})
def move_schedule(path: shapes.ById, body: shapes.ScheduleMove) -> Response:
    """Move a time of a schedule, or every one of it."""
    with services().database.session() as session:
        schedules.move(session, path.id, body.was, body.to, every=body.every)
    return done()


@api.get("/calendar", operation_id="calendar", responses={200: shapes.Calendar})
def calendar(query: shapes.CalendarAsk) -> Response:
    """Return what ran, runs and will run between two times."""
    schedules.check_span(query.begin, query.end)
    with services().database.session() as session:
        places = sum(one.places for one in stations.offers(session))
        entries = [
            *(_ran(one) for one in schedules.ran(session, query.begin, query.end)),
            *(_missed(one) for one in schedules.missed(session, query.begin, query.end)),
            *_coming(session, query, places),
        ]
    return reply(shapes.Calendar(entries=sorted(entries, key=lambda one: one.begin), places=places))


def _ran(one: tables.PlanRun) -> shapes.CalendarEntry:
    begin = one.started_at or one.queued_at
    usual = timedelta(seconds=float(one.expected.get("usual", 0)))
    return shapes.CalendarEntry(
        kind="run",
        plan_id=one.plan_id,
        plan=one.plan_name,
        run=one.id,
        schedule=None,
        repeats=False,
        begin=begin,
        end=one.ended_at or max(datetime.now(UTC), begin + usual),
        state=one.state,
        why=one.message,
        crowded=False,
    )


def _missed(one: tables.ScheduleEvent) -> shapes.CalendarEntry:
    return shapes.CalendarEntry(
        kind="missed",
        plan_id=one.plan_id,
        plan=one.plan.name,
        run=None,
        schedule=one.schedule_id,
        repeats=False,
        begin=one.due,
        end=one.due + SHORTEST,
        state="not started",
        why=one.trouble,
        crowded=False,
    )


def _coming(session: Session, query: shapes.CalendarAsk, places: int) -> list[shapes.CalendarEntry]:
    found = schedules.coming(session, query.begin, query.end)
    usual = schedules.usual_seconds(session, {row.plan_id for row, _ in found})
    busy = []
    for row, at in found:
        lasts = max(SHORTEST, timedelta(seconds=usual.get(row.plan_id, 0)))
        takes = Plan.read(row.plan.body).at_once or max(places, 1)
        busy.append(Busy(f"{row.id} {at.isoformat()}", at, at + lasts, takes))
    tight = crowded(busy, places)
    return [
        shapes.CalendarEntry(
            kind="planned",
            plan_id=row.plan_id,
            plan=row.plan.name,
            run=None,
            schedule=row.id,
            repeats=bool(row.body["cron"]),
            begin=one.begin,
            end=one.end,
            state="planned",
            why="",
            crowded=one.key in tight,
        )
        for (row, _), one in zip(found, busy, strict=True)
    ]
