"""The queue of casts, kept by procrastinate in the same database."""

from __future__ import annotations

from datetime import datetime

from procrastinate import App, PsycopgConnector
from sqlalchemy import text
from sqlalchemy.orm import Session

from lantern.store.database import CONNECT

CAST_TASK = "lantern.cast"
TIDY_TASK = "lantern.tidy"
TIDYING = "tidying"
"""The name of the queue for freeing what is not kept any longer."""
AT_NIGHT = "17 3 * * *"
"""When that is done by itself (cron)."""
PATIENCE = 3.0
"""Seconds that a worker waits for a connection: through an outage it asks again."""
LAST = -10
"""The priority of what nobody waits for."""

_offering = App(connector=PsycopgConnector())
"""Offers jobs on the connections of sessions; it opens none of its own."""


def queue_app(url: str) -> App:
    """Return the queue's application for a database address, for a worker."""
    limit = {"connect_timeout": CONNECT}
    return App(connector=PsycopgConnector(conninfo=url, kwargs=limit, timeout=PATIENCE))


def offer(session: Session, cast_id: int, queue: str, priority: int) -> int:
    """Put a cast into a queue within the session's transaction; returns the job's number.

    A rollback takes the job with it.
    """
    connection = session.connection().connection.driver_connection
    job = _offering.configure_task(
        CAST_TASK,
        allow_unknown=True,
        queue=queue,
        priority=priority,
        connection=connection,
    )
    return int(job.defer(cast_id=cast_id))


def withdraw(session: Session, job: int) -> None:
    """Take a job back: one that waits is cancelled, one under way is asked to abort."""
    session.execute(text("SELECT procrastinate_cancel_job_v1(:job, true, false)"), {"job": job})


def offer_tidying(session: Session) -> None:
    """Queue the freeing of what is not kept any longer, unless that waits already."""
    waiting = "SELECT 1 FROM procrastinate_jobs WHERE queue_name = :queue AND status = 'todo'"
    if session.scalar(text(waiting), {"queue": TIDYING}) is None:
        connection = session.connection().connection.driver_connection
        _offering.configure_task(
            TIDY_TASK, allow_unknown=True, queue=TIDYING, priority=LAST, connection=connection
        ).defer(timestamp=0)


_DONE = text(
    "SELECT j.id FROM procrastinate_jobs j WHERE j.status NOT IN ('todo', 'doing') "
    "AND NOT EXISTS (SELECT 1 FROM procrastinate_events e WHERE e.job_id = j.id "
    "AND e.at >= :before) "
    "ORDER BY j.id LIMIT :most FOR UPDATE OF j SKIP LOCKED"
)
_FORGET = (
    text("UPDATE procrastinate_periodic_defers SET job_id = NULL WHERE job_id = ANY(:jobs)"),
    text("DELETE FROM procrastinate_jobs WHERE id = ANY(:jobs)"),
)


def forget_done(session: Session, before: datetime, most: int) -> int:
    """Delete jobs to which nothing happened since `before` and that are over; returns how many."""
    jobs = list(session.scalars(_DONE, {"before": before, "most": most}))
    for statement in _FORGET if jobs else ():
        session.execute(statement, {"jobs": jobs})
    return len(jobs)
