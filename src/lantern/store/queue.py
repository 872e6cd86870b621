"""The queue of runs, kept by procrastinate in the same database."""

from __future__ import annotations

from procrastinate import App, PsycopgConnector
from sqlalchemy.orm import Session

RUNS = "runs"
RUN_TASK = "lantern.run"


def queue_app(url: str) -> App:
    """Return the queue's application for a database address."""
    return App(connector=PsycopgConnector(conninfo=url))


def enqueue_run(app: App, session: Session, run_id: int) -> int:
    """Queue a run within the session's transaction; returns the job's id.

    A rollback takes the job with it.
    """
    connection = session.connection().connection.driver_connection
    job = app.configure_task(RUN_TASK, allow_unknown=True, queue=RUNS, connection=connection)
    return int(job.defer(run_id=run_id))
