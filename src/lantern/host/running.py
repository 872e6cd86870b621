"""`./lantern run` and `./lantern station`: a run from the terminal, with or without the demo up."""

from __future__ import annotations

import json
import os
import signal
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from lantern import account
from lantern.core.engine.browsers import USUAL
from lantern.core.problems import Problem
from lantern.core.review.records import RunRecord, plain
from lantern.core.runs.life import RUN_OVER
from lantern.exchange import junit
from lantern.host import processes
from lantern.host.postgres import Cluster
from lantern.host.setup import STATE, SetupFailed, say
from lantern.host.state import KEY, LOGS, running_state
from lantern.store import casts, runs, stations, tests
from lantern.store.database import Database
from lantern.store.migrating import migrate
from lantern.store.models import Cast, Result
from lantern.store.reconciling import Reconciler
from lantern.store.records import record_of
from lantern.store.vault import make_key

PASSED, FAILED, COULD_NOT = 0, 1, 2
LOOK = 0.2
NO_STATION_LIMIT = 30.0


class Stopped(Exception):
    """Someone asked the command to stop."""


@contextmanager
def database_for_now() -> Iterator[Database]:
    """Give the database of a running Lantern, or start it for as long as it is needed."""
    url = os.environ.get("LANTERN_DATABASE", "")
    state = running_state()
    cluster: Cluster | None = None
    if not url and state and state["database"]:
        url = state["database"]
    if not url:
        cluster = Cluster(STATE / "postgres")
        make_key(KEY)
        cluster.start()
        url = cluster.url
    os.environ["LANTERN_DATABASE"] = url
    os.environ.setdefault("LANTERN_KEY_FILE", str(KEY))
    database = Database(url)
    try:
        if cluster:
            migrate(database)
        yield database
    finally:
        database.close()
        if cluster:
            cluster.stop()


@contextmanager
def _station(database: Database) -> Iterator[None]:
    """Make sure that a station is up, started for as long as it is needed."""
    with database.session() as session:
        there = bool(stations.alive(session))
    child = None if there else processes.station({}, LOGS)
    if child:
        child.start()
    try:
        yield
    finally:
        if child:
            child.stop()


def run_test(name: str, rows: str, junit_file: str | None, json_file: str | None) -> int:
    """Run a test and say how each row ended; returns the exit code."""
    signal.signal(signal.SIGTERM, _interrupt)
    try:
        for file in (junit_file, json_file):
            if file and not Path(file).resolve().parent.is_dir():
                raise SetupFailed(f"The folder of {file} does not exist.")
        with database_for_now() as database, _station(database):
            record = _run(database, name, rows)
    except (Problem, SetupFailed) as error:
        hint = getattr(error, "hint", "")
        say(f"Could not run: {error}" + (f" {hint}" if hint else ""))
        return COULD_NOT
    except (KeyboardInterrupt, Stopped):
        say("Stopped; the run was cancelled.")
        return COULD_NOT
    if junit_file:
        Path(junit_file).write_text(junit.write([record]), encoding="utf-8")
    if json_file:
        text = json.dumps(plain(record), indent=2, ensure_ascii=False)
        Path(json_file).write_text(text, encoding="utf-8")
    return {"passed": PASSED, "failed": FAILED}.get(record.state, COULD_NOT)


def _interrupt(*_: object) -> None:
    raise Stopped


def _run(database: Database, name: str, rows: str) -> RunRecord:
    with database.session() as session:
        test = tests.named(session, name)
        run = runs.create(session, test, "run", rows, None)
        run_id = run.id
    say(f"Run {run_id} of {test.name}")
    try:
        _follow(database, run_id)
    except BaseException:
        with database.session() as session:
            runs.ask_cancel(session, run_id)
        raise
    with database.session() as session:
        record = record_of(session, runs.get(session, run_id), pictured="none")
    seconds = f"{record.seconds:.1f} s"
    say(f"{record.state}, {seconds}" + (f": {record.message}" if record.message else ""))
    return record


def _follow(database: Database, run_id: int) -> None:
    """Say each row as it ends, until the run is over; a dead station ends it as interrupted."""
    said: set[int] = set()
    reconciler = Reconciler(database)
    wait = threading.Event()
    without = 0.0
    while True:
        reconciler.look()  # nobody else may be there to do so
        with database.session() as session:
            run = runs.get(session, run_id)
            for row in run.casts:
                if row.outcome not in ("waiting", "running") and row.id not in said:
                    said.add(row.id)
                    _say_row(row, casts.results(session, row.id))
            if run.state in RUN_OVER:
                return
            alone = run.state == "queued" and not stations.alive(session)
        without = without + LOOK if alone else 0.0
        if without > NO_STATION_LIMIT:
            raise SetupFailed(f"No station took the run; see {LOGS / 'station.log'}.")
        wait.wait(LOOK)


def _say_row(cast: Cast, results: Sequence[Result]) -> None:
    where = f" in {cast.browser}" if cast.browser != USUAL else ""
    said = f": {cast.message}" if cast.message else ""
    say(f"  {f'row {cast.number}' if cast.number else 'the test'}{where}: {cast.outcome}{said}")
    for result in results:
        if result.outcome == "failed":
            say(f"    {result.sentence}\n      {result.message}")
            if result.hint:
                say(f"      {result.hint}")


def run_station() -> int:
    """Be one more station for a running Lantern, until Ctrl-C."""
    from lantern.station.service import main

    state = running_state()
    url = os.environ.get("LANTERN_DATABASE") or (state or {}).get("database", "")
    if not url:
        say("Lantern is not running, and LANTERN_DATABASE is not set.")
        return COULD_NOT
    os.environ["LANTERN_DATABASE"] = url
    os.environ.setdefault("LANTERN_KEY_FILE", str(KEY))
    home = STATE / "stations"
    home.mkdir(parents=True, exist_ok=True)
    account.give(home)
    os.environ.setdefault("LANTERN_STATION_HOME", str(home))
    account.become()
    main()
    return PASSED
