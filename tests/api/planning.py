"""Plans in tests: what a station does for them, without one."""

from sqlalchemy import text

from lantern.core.engine.outcomes import StepResult
from lantern.core.runs.life import Ended
from lantern.core.steps.model import Document, Step
from lantern.store import casts, plan_runs, stations, tests
from lantern.store.models import Environment

QUOTES, BOOKING = "Quotes by clay and cone", "Book a firing"
_FETCH = text("SELECT id, args, priority FROM procrastinate_fetch_job_v2(NULL, :worker)")
_WORKER = text("INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now()) RETURNING id")
_FINISH = text("SELECT procrastinate_finish_job_v1(:job, 'succeeded', false)")


def up(database, *names, places=2, engines=("chromium",)):
    """Stations that live."""
    with database.session() as session:
        for name in names:
            about = {"name": name, "address": "ws://x", "places": places}
            stations.beat(session, name, engines=list(engines), **about)


def failed(words="It is not there."):
    return StepResult("s", 0, "Press it", "failed", "not found", words)


class Worker:
    """Takes what the queue gives out, as a station does, and ends it as it is told."""

    def __init__(self, database, station="st1"):
        self.database, self.station = database, station
        with database.session() as session:
            self.worker = session.scalar(_WORKER)
        self.played = []

    def fetch(self):
        """Fetch the next job; None when nothing waits."""
        with self.database.session() as session:
            job = session.execute(_FETCH, {"worker": self.worker}).first()
        return job if job is not None and job.id is not None else None

    def begin(self, job):
        """Take the cast that a job offers; None when it is not to be had any more."""
        with self.database.session() as session:
            return casts.take(session, job.args["cast_id"], job.id, self.station)

    def take(self):
        """Take the next cast; None when nothing waits."""
        while job := self.fetch():
            found = self.begin(job)
            if found is not None:
                run, cast = found
                if run.plan_run_id is not None:
                    with self.database.session() as session:
                        plan_runs.begun(session, run.plan_run_id)
                self.played.append((run.test_name, cast.number, cast.browser))
                return run, cast, job.id
        return None

    def end(self, taken, outcome="passed", result=None):
        """End what was taken, and go on with the plan that it is of."""
        run, cast, job = taken
        with self.database.session() as session:
            if result:
                casts.keep_result(session, cast.id, cast.token, 1, result, [], [], {})
            casts.happen(session, run.id, Ended(cast.id, cast.token, outcome))
            session.execute(_FINISH, {"job": job})
        with self.database.session() as session:
            if run.plan_run_id is not None:
                plan_runs.go_on(session, run.plan_run_id)

    def play(self, outcome=lambda name, number, browser: "passed", most=1000):
        """Play all that there is, one after the other; `outcome` says how each ends."""
        for _ in range(most):
            taken = self.take()
            if taken is None:
                return
            said = outcome(*self.played[-1])
            self.end(taken, said, failed() if said == "failed" else None)


def start(client, plan, **more):
    answer = client.post(f"/plans/{plan['id']}/runs", **more)
    assert answer.status_code == 200, answer.json
    return answer.json


def flow(database, name, *steps, takes=()):
    document = Document(steps or (Step("f", "open", inputs={"address": "/"}),), takes=takes)
    with database.session() as session:
        place = session.query(Environment).first().id
        return str(tests.create(session, name, place, None, document, kind="flow").id)


def matrix(run):
    return {
        (row["name"], cell["browser"]): cell["outcome"]
        for row in run["rows"]
        for cell in row["cells"]
    }
