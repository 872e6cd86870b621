"""The queue of casts, kept by procrastinate in the same database."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from procrastinate import App, PsycopgConnector
from sqlalchemy import text
from sqlalchemy.orm import Session

from lantern.store.database import CONNECT

CAST_TASK = "lantern.cast"
TIDY_TASK = "lantern.tidy"
TIDYING = "tidying"
"""The name of the queue for freeing what is not kept any longer."""
PRINT_TASK = "lantern.print"
PRINTING = "printing"
"""The name of the queue for documents that a browser prints."""
AT_NIGHT = "17 3 * * *"
"""When that is done by itself (cron)."""
PATIENCE = 3.0
"""Seconds that a worker waits for a connection: through an outage it asks again."""
LAST = -10
"""The priority of what nobody waits for,"""
FIRST = 2**31 - 1
"""and of what somebody waits for with their hands in their lap."""

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


def offer_print(session: Session, print_id: int) -> None:
    """Queue the printing of a document within the session's transaction."""
    connection = session.connection().connection.driver_connection
    _offering.configure_task(
        PRINT_TASK, allow_unknown=True, queue=PRINTING, priority=FIRST, connection=connection
    ).defer(print_id=print_id)


def withdraw(session: Session, job: int) -> None:
    """Take a job back: one that waits is cancelled, one under way is asked to abort."""
    session.execute(text("SELECT procrastinate_cancel_job_v1(:job, true, false)"), {"job": job})


# For stations that are no workers of the queue themselves: as its own workers do it.


def enlist(session: Session) -> int:
    """Register a worker; returns its number."""
    return int(session.scalar(text("SELECT worker_id FROM procrastinate_register_worker_v1()")))


def lives(session: Session, worker: int) -> bool:
    """Say that a worker lives; tells whether it is known (still)."""
    known = "UPDATE procrastinate_workers SET last_heartbeat = now() WHERE id = :worker"
    return bool(session.execute(text(f"{known} RETURNING id"), {"worker": worker}).scalar())


def dismiss(session: Session, worker: int) -> None:
    """Forget a worker."""
    session.execute(text("SELECT procrastinate_unregister_worker_v1(:worker)"), {"worker": worker})


def fetch(session: Session, queues: Sequence[str], worker: int) -> tuple[int, int] | None:
    """Take the next job of some queues for a worker; returns its number and its cast's, or None."""
    query = text(
        "SELECT id, (args ->> 'cast_id')::int AS cast_id "
        "FROM procrastinate_fetch_job_v2(CAST(:queues AS varchar[]), :worker)"
    )
    found = session.execute(query, {"queues": list(queues), "worker": worker}).one()
    return None if found.id is None else (found.id, found.cast_id)


def finish(session: Session, job: int, worker: int | None = None) -> None:
    """Let a job be over, unless it is, or is of another worker than is said."""
    under_way = text(
        "SELECT id FROM procrastinate_jobs WHERE id = :job AND status = 'doing' "
        "AND (CAST(:worker AS bigint) IS NULL OR worker_id = :worker) FOR UPDATE"
    )
    if session.scalar(under_way, {"job": job, "worker": worker}) is not None:
        done = text("SELECT procrastinate_finish_job_v1(:job, 'succeeded', false)")
        session.execute(done, {"job": job})


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
