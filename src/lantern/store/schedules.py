"""Schedules of plans: kept, fired when their time has come, and what the calendar shows of them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

import structlog
from sqlalchemy import Row, func, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from lantern.core.plans.schedule import Schedule, moved, moved_once
from lantern.core.problems import BadInput, Conflict, Missing, Problem
from lantern.store import models, plan_runs, plans
from lantern.store.database import Database, tell
from lantern.store.models import PlanRun, ScheduleEvent

log = structlog.get_logger()
CAUSE = "a schedule"
MOST_OF_ONE = 50
"""Schedules of one plan."""
LONGEST_SHOWN = timedelta(days=62)
"""The longest time that the calendar shows at once."""
MOST_SHOWN = 400
"""Times of one schedule that the calendar shows at the most."""


def of_plan(session: Session, plan_id: int) -> Sequence[models.Schedule]:
    """Return the schedules of a plan, in the order of making; raises Missing."""
    plans.get(session, plan_id)
    query = select(models.Schedule).filter_by(plan_id=plan_id).order_by(models.Schedule.id)
    return session.scalars(query).all()


def get(session: Session, key: int, *, lock: bool = False) -> models.Schedule:
    """Return a schedule, locked if asked; raises Missing."""
    query = select(models.Schedule).filter_by(id=key)
    if lock:
        query = query.with_for_update(of=models.Schedule)
        query = query.execution_options(populate_existing=True)
    found = session.scalar(query)
    if found is None:
        raise Missing("That schedule does not exist any more.", where=str(key))
    return found


def make(
    session: Session, plan_id: int, schedule: Schedule, account_id: int | None
) -> models.Schedule:
    """Make a schedule of a plan; raises Missing, and BadInput where there are too many."""
    if len(of_plan(session, plan_id)) >= MOST_OF_ONE:
        raise BadInput(f"A plan has up to {MOST_OF_ONE} schedules.")
    row = models.Schedule(
        plan_id=plan_id,
        body=schedule.as_json(),
        version=1,
        account_id=account_id,
        next_at=schedule.first(datetime.now(UTC)),
    )
    session.add(row)
    session.flush()
    tell(session, "plans")
    return row


def change(session: Session, key: int, schedule: Schedule, *, base: int) -> models.Schedule:
    """Give a schedule other times; raises Missing, and Conflict where it was changed since."""
    row = get(session, key, lock=True)
    if row.version != base:
        raise Conflict(
            "The schedule was changed by someone else meanwhile.",
            where=str(key),
            hint="Its newest times are shown now; make your change again if it is needed.",
        )
    row.body, row.version = schedule.as_json(), row.version + 1
    row.next_at = schedule.first(datetime.now(UTC))
    if schedule.at is not None and _was_due(session, key, schedule.at):
        row.next_at = None  # it came already: what else was changed of it starts nothing anew
    session.flush()
    tell(session, "plans")
    return row


def _was_due(session: Session, key: int, at: datetime) -> bool:
    query = select(ScheduleEvent.id).filter_by(schedule_id=key, due=at)
    return session.scalar(query.limit(1)) is not None


def drop(session: Session, key: int) -> None:
    """Delete a schedule; what it started stays. Raises Missing."""
    session.delete(get(session, key, lock=True))
    tell(session, "plans")


def move(session: Session, key: int, was: datetime, to: datetime, *, every: bool) -> None:
    """Move a time of a schedule, or `every` one of a repeated one to that time of day.

    Raises Missing, BadInput.
    """
    row = get(session, key, lock=True)
    schedule = Schedule.read(row.body)
    if schedule.at is not None or every:
        change(session, key, moved(schedule, to), base=row.version)
        return
    rest, alone = moved_once(schedule, was, to)
    change(session, key, rest, base=row.version)
    make(session, row.plan_id, alone, row.account_id)


# -- their times ----------------------------------------------------------------------------------


def fire_due(database: Database) -> int:
    """Start the plans whose time has come, each once, whoever looks; returns how many were due.

    A time that passed while nothing ran starts its plan once, however many there were.
    """
    count = 0
    while True:
        with database.session() as session:
            if not _fire_one(session):
                return count
        count += 1


def _fire_one(session: Session) -> bool:
    now = datetime.now(UTC)
    row = session.scalar(
        select(models.Schedule)
        .filter(models.Schedule.next_at <= now)
        .order_by(models.Schedule.next_at)
        .limit(1)
        .with_for_update(skip_locked=True, of=models.Schedule)
    )
    if row is None or row.next_at is None:
        return False
    event = ScheduleEvent(plan_id=row.plan_id, schedule_id=row.id, due=row.next_at)
    schedule = Schedule.read(row.body)
    row.next_at = schedule.next(now) if schedule.cron else None
    try:
        with session.begin_nested():
            ask = plan_runs.Ask(cause=CAUSE)
            event.plan_run_id = plan_runs.start(session, row.plan_id, row.account_id, ask).id
    except Problem as error:
        event.trouble = f"{error.message} {error.hint}".strip()
        log.warning("schedule_started_nothing", schedule=row.id, why=event.trouble)
    except SQLAlchemyError:
        raise
    except Exception as error:  # the times of others have to come all the same
        event.trouble = f"Lantern itself failed ({type(error).__name__}); its log says more."
        log.exception("schedule_failed", schedule=row.id)
    session.add(event)
    tell(session, "plans")
    return True


def last_of(session: Session, schedule_id: int) -> ScheduleEvent | None:
    """Return what came of the last time of a schedule, None before there was one."""
    query = select(ScheduleEvent).filter_by(schedule_id=schedule_id)
    return session.scalar(query.order_by(ScheduleEvent.id.desc()).limit(1))


# -- the calendar ---------------------------------------------------------------------------------


def check_span(begin: datetime, end: datetime) -> None:
    """Raise BadInput for what the calendar can not show."""
    if begin.tzinfo is None or end.tzinfo is None or not begin < end <= begin + LONGEST_SHOWN:
        raise BadInput(f"The calendar shows up to {LONGEST_SHOWN.days} days.", where="end")


def ran(session: Session, begin: datetime, end: datetime) -> Sequence[PlanRun]:
    """Return the runs of plans that were under way between two times."""
    ends = func.coalesce(PlanRun.ended_at, func.now())
    query = select(PlanRun).filter(PlanRun.queued_at < end, ends >= begin)
    return session.scalars(query.order_by(PlanRun.queued_at).limit(MOST_SHOWN * 5)).all()


def missed(session: Session, begin: datetime, end: datetime) -> Sequence[ScheduleEvent]:
    """Return the times between two times at which nothing could be started."""
    query = select(ScheduleEvent).filter(
        ScheduleEvent.due >= begin, ScheduleEvent.due < end, ScheduleEvent.trouble != ""
    )
    return session.scalars(query.order_by(ScheduleEvent.due).limit(MOST_SHOWN)).all()


def coming(
    session: Session, begin: datetime, end: datetime
) -> list[tuple[models.Schedule, datetime]]:
    """Return the times to come between two times, with their schedules, in their order."""
    found = []
    now = datetime.now(UTC)
    query = select(models.Schedule).filter(models.Schedule.next_at < end)
    for row in session.scalars(query.order_by(models.Schedule.id)):
        schedule = Schedule.read(row.body)
        if schedule.at is not None:
            times = [schedule.at]
        else:
            times = schedule.some(max(begin, now) - timedelta(seconds=1), MOST_SHOWN)
        found += [(row, at) for at in times if begin <= at < end]
    return sorted(found, key=lambda one: one[1])


def usual_seconds(session: Session, plan_ids: set[int]) -> dict[int, float]:
    """Return how long the newest run of each plan took, or was to take where none is over."""
    shown: tuple[Any, ...] = (
        PlanRun.plan_id,
        func.extract("epoch", PlanRun.ended_at - PlanRun.started_at).label("took"),
        PlanRun.expected,
    )
    query = select(*shown).filter(PlanRun.plan_id.in_(plan_ids), PlanRun.again_of.is_(None))
    found: dict[int, float] = {}
    rows: Sequence[Row[Any]] = session.execute(query.order_by(PlanRun.id)).all()
    for row in rows:
        took = row.took if row.took is not None else row.expected.get("usual")
        if took is not None:
            found[row.plan_id] = float(took)
    return found
