"""The reconciler: whatever died when, every run and every cast comes to a true end."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from datetime import timedelta

import structlog
from sqlalchemy import func, select, text
from sqlalchemy.exc import DBAPIError, SQLAlchemyError
from sqlalchemy.orm import Session

from lantern.core.problems import Missing
from lantern.core.runs import life
from lantern.store import casts, plan_runs, schedules, sharing, stations
from lantern.store.database import Database
from lantern.store.models import Cast, Run

log = structlog.get_logger()
EVERY = 2.0
"""Seconds between two looks."""
SILENT = 6.0
"""Seconds without a sign of life after which a worker of the queue counts as dead."""
SURE = 3.0
"""Seconds for which a job must look abandoned while the database answered all the time."""
OBEYS = timedelta(seconds=15)
"""How long a cast may go on after its run was cancelled before its taking is taken away."""

_ABANDONED = text(
    "SELECT j.id, (j.args ->> 'cast_id')::int AS cast_id FROM procrastinate_jobs j "
    "LEFT JOIN procrastinate_workers w ON w.id = j.worker_id "
    "WHERE j.status = 'doing' AND j.queue_name LIKE 'casts.%' AND "
    "(w.id IS NULL OR w.last_heartbeat < now() - make_interval(secs => :silent))"
)
"""As the queue itself selects the jobs of stalled workers, with what they offer."""
_FINISH = text("SELECT procrastinate_finish_job_v1(:job, 'failed', false)")
_OPEN_JOBS = text(
    "SELECT id FROM procrastinate_jobs WHERE status IN ('todo', 'doing') AND id = ANY(:jobs)"
)


class Reconciler:
    """Looks at runs, casts and jobs, and applies what follows.

    Every process may have one: what two of them find at once happens once. A job is taken from
    its station only after it looked abandoned for a while during which the database answered,
    since an outage silences the living as well.
    """

    def __init__(self, database: Database, clock: Callable[[], float] = time.monotonic) -> None:
        self._database, self._clock = database, clock
        self._suspects: dict[int, float] = {}

    def look(self) -> None:
        """Bring all runs that are not over up to date; whatever the database raises is raised."""
        try:
            with self._database.session() as session:
                self._end_abandoned(session)
                stations.forget_gone(session)
                going = select(Run.id).filter(Run.state.in_(("queued", "running")))
                found = session.scalars(going.order_by(Run.id)).all()
            for run_id in found:
                self._mend(run_id)
            schedules.fire_due(self._database)
            self._go_on_with_plans()
        except Exception:
            self._suspects.clear()  # who was silent meanwhile may live
            raise

    def _mend(self, run_id: int) -> None:
        try:
            with self._database.session() as session:
                _mend(session, run_id)
        except SQLAlchemyError:
            raise
        except Exception:
            log.exception("run_not_mended", run=run_id)  # the others have to be looked at as well

    def _go_on_with_plans(self) -> None:
        """Do for plans what whoever ended the last cast of theirs did not come to do."""
        with self._database.session() as session:
            found = plan_runs.open_ones(session)
        for key in found:
            self._go_on_with(key)
        with self._database.session() as session:
            sharing.forget_idle(session)

    def _go_on_with(self, key: int) -> None:
        try:
            with self._database.session() as session:
                plan_runs.go_on(session, key)
        except SQLAlchemyError:
            raise
        except Exception:
            log.exception("plan_not_gone_on_with", plan_run=key)

    def _end_abandoned(self, session: Session) -> None:
        """Finish the jobs of dead workers: what they had taken is lost then."""
        found = {row.id: row.cast_id for row in session.execute(_ABANDONED, {"silent": SILENT})}
        now = self._clock()
        self._suspects = {job: self._suspects.get(job, now) for job in found}
        for job, since in self._suspects.items():
            if now - since >= SURE:
                self._finish(session, job, found[job])

    @staticmethod
    def _finish(session: Session, job: int, cast: int) -> None:
        try:
            with session.begin_nested():
                session.execute(_FINISH, {"job": job})
        except DBAPIError as error:
            if error.connection_invalidated:
                raise
            return  # another process has just done it
        log.info("job_abandoned", job=job, cast=cast)


def _mend(session: Session, run_id: int) -> None:
    """Apply to a run what the jobs of its casts say, and offer what is to be played next."""
    rows = session.execute(
        select(Cast.id, Cast.outcome, Cast.job, Cast.token).filter(
            Cast.run_id == run_id, Cast.job > 0
        )
    )
    offered = [(row.id, row.outcome, row.job, row.token) for row in rows]
    jobs = [job for _, _, job, _ in offered]
    there = set(session.scalars(_OPEN_JOBS, {"jobs": jobs})) if jobs else set()
    overdue = session.scalar(select(Run.cancel_asked_at < func.now() - OBEYS).filter_by(id=run_id))
    try:
        casts.happen(session, run_id, *_events(offered, there, overdue=bool(overdue)))
    except Missing:
        pass  # deleted meanwhile


def _events(
    rows: Sequence[tuple[int, str, int, str]], there: set[int], *, overdue: bool
) -> Iterator[life.Event]:
    for cast, outcome, job, token in rows:
        if outcome == "waiting" and job not in there:
            yield life.JobLost(cast, job)
        elif outcome == "running" and job not in there:
            yield life.Lost(cast, token)
        elif outcome == "running" and overdue:
            yield life.Lost(cast, token, "It did not stop when it was cancelled, and was left.")


def give_up(session: Session, cast_id: int, token: str) -> None:
    """End what was taken under a token and is not played by anybody."""
    if run_id := casts.run_of(session, cast_id):
        casts.happen(session, run_id, life.Lost(cast_id, token))


def keep_reconciling(database: Database, stopped: Callable[[float], bool]) -> None:
    """Look again and again until `stopped`, told how many seconds to wait, says so."""
    reconciler = Reconciler(database)
    while not stopped(EVERY):
        try:
            reconciler.look()
        except Exception:
            log.exception("reconciling_failed")  # the database may be away for a while
