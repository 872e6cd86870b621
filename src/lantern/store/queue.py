"""The queue of casts, kept by procrastinate in the same database."""

from __future__ import annotations

from procrastinate import App, PsycopgConnector
from sqlalchemy import text
from sqlalchemy.orm import Session

from lantern.store.database import CONNECT

CAST_TASK = "lantern.cast"
QUEUE = "casts."
"""The name of an engine's queue begins so."""
PATIENCE = 3.0
"""Seconds that a worker waits for a connection: through an outage it asks again."""
TRY_FIRST = 10
"""The priority of tries: their author waits for them."""

_offering = App(connector=PsycopgConnector())
"""Offers jobs on the connections of sessions; it opens none of its own."""


def queue_app(url: str) -> App:
    """Return the queue's application for a database address, for a worker."""
    limit = {"connect_timeout": CONNECT}
    return App(connector=PsycopgConnector(conninfo=url, kwargs=limit, timeout=PATIENCE))


def queue_of(engine: str) -> str:
    """Return the name of the queue from which stations with that engine take."""
    return QUEUE + engine


def offer(session: Session, cast_id: int, engine: str, priority: int) -> int:
    """Queue a cast within the session's transaction; returns the job's number.

    A rollback takes the job with it.
    """
    connection = session.connection().connection.driver_connection
    job = _offering.configure_task(
        CAST_TASK,
        allow_unknown=True,
        queue=queue_of(engine),
        priority=priority,
        connection=connection,
    )
    return int(job.defer(cast_id=cast_id))


def withdraw(session: Session, job: int) -> None:
    """Take a job back: one that waits is cancelled, one under way is asked to abort."""
    session.execute(text("SELECT procrastinate_cancel_job_v1(:job, true, false)"), {"job": job})
