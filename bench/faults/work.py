"""What goes on while a fault comes: a run, a recording, or nothing; and what became of it."""

from __future__ import annotations

import json
import threading
import time
import urllib.request
from contextlib import suppress
from typing import Any

from sqlalchemy import func, select
from websockets.sync.client import connect

from bench.faults.place import Demo, Late, until
from lantern.core.runs import life
from lantern.core.runs.life import RUN_OVER
from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.demo.data import ACCOUNTS
from lantern.store import casts, runs, tests
from lantern.store.models import Cast, Environment, Result, Run, Test
from lantern.store.rows import unpacked

PATHS = ("/sign-in", "/health", "/sign-in?again", "/files")
STEPS = tuple(
    step
    for number in range(3)
    for step in (
        Step(f"open{number}", "open", inputs={"address": "/sign-in"}),
        Step(f"pause{number}", "pause", inputs={"seconds": "0.5"}),
    )
)
ROWS = tuple(Row(f"r{number}", {"piece": f"Moon jar {number}"}) for number in range(3))
RUN_LIMIT = 90.0


def make_tests(demo: Demo) -> tuple[int, int]:
    """Make the test that is run and the one that is recorded; returns their ids."""
    settings = Settings(limit=30, pictures="each step")
    played = Document(STEPS, rows=ROWS, columns=("piece",), settings=settings)
    with demo.database() as database, database.session() as session:
        where = session.scalars(select(Environment.id)).first()
        assert where is not None
        return (
            tests.create(session, "Played", where, None, played).id,
            tests.create(session, "Recorded", where, None).id,
        )


class Running:
    """A run under way; `acknowledged` are the results that were there before the fault."""

    def __init__(self, demo: Demo, test: int, choice: str = "all") -> None:
        with demo.database() as database:
            # As a person would: once more when Lantern says that it can not just now.
            self.id = database.insist(
                lambda session: (
                    runs.create(session, tests.get(session, test), "run", choice, None).id
                ),
                30,
            )
        self._demo = demo
        self._acknowledged: set[int] = set()
        self._under_way: set[str] = set()

    def note(self) -> None:
        """Note what is acknowledged and under way now."""
        with self._demo.database() as database, database.session() as session:
            query = select(Result.id).join(Cast).filter(Cast.run_id == self.id)
            self._acknowledged = set(session.scalars(query))
            under_way = select(Cast.token).filter_by(run_id=self.id, outcome="running")
            self._under_way = set(session.scalars(under_way))

    def kept_one(self) -> bool:
        """Whether a result has just been written."""
        with self._demo.database() as database, database.session() as session:
            query = select(func.count()).select_from(Result).join(Cast)
            return bool(session.scalar(query.filter(Cast.run_id == self.id)))

    def resolved(self) -> bool:
        """Whether what was under way at the fault goes on, or has come to an end."""
        with self._demo.database() as database, database.session() as session:
            if session.get_one(Run, self.id).state in RUN_OVER:
                return True
            query = select(Cast.token).filter_by(run_id=self.id, outcome="running")
            return not self._under_way & set(session.scalars(query))

    def judge(self, may: frozenset[str]) -> tuple[int, list[str]]:
        """Wait for the end; returns how many results are lost and what is untrue of it."""

        def over() -> str:
            with self._demo.database() as database, database.session() as session:
                state = session.get_one(Run, self.id).state
                return state if state in RUN_OVER else ""

        try:
            state = until(over, "the run did not end", RUN_LIMIT)
        except Late as error:
            return 0, [f"run {self.id}: {error}"]
        with self._demo.database() as database, database.session() as session:
            there = set(session.scalars(select(Result.id)))
            _, lived = casts.load(session, self.id)
            untrue = [] if state in may else [f"run {self.id} ended as {state}"]
            untrue += [f"run {self.id}: {words}" for words in _untrue(session, lived)]
        return len(self._acknowledged - there), untrue


def _untrue(session: Any, run: life.Run) -> list[str]:  # noqa: ANN401 - a session
    """Return what in a run that is over does not fit together."""
    found = [f"cast {one.id} is {one.state}" for one in run.casts if not one.over]
    if run.state == "passed" and any(one.state != "passed" for one in run.casts):
        found.append("passed, with casts that did not")
    for cast in run.casts:
        kept = casts.results(session, cast.id)
        if cast.state == "passed" and [one.outcome for one in kept] != ["passed"] * len(STEPS):
            found.append(f"cast {cast.id} passed with {len(kept)} results")
    return found


class Recording:
    """Somebody who records on a stage, as the workbench does it, until the fault cuts it off."""

    def __init__(self, demo: Demo, test: int) -> None:
        self._demo, self._test = demo, test
        self._stopped = threading.Event()
        self._acknowledged: set[str] = set()
        self._thread = threading.Thread(target=self._record, daemon=True)
        before = len(self._steps())
        self._thread.start()
        until(lambda: len(self._steps()) > before + 1, "recording did not begin", 60)

    def _steps(self) -> list[str]:
        with self._demo.database() as database, database.session() as session:
            return [step.id for step in unpacked(session.get_one(Test, self._test)).steps]

    def note(self) -> None:
        """Note which sentences are acknowledged now."""
        self._acknowledged = set(self._steps())

    def _record(self) -> None:
        number = 0
        while not self._stopped.is_set():
            with suppress(Exception):
                address = self._demo.address
                where = address.replace("http://", "ws://") + f"/api/live/stage/{self._test}"
                cookie = {"Cookie": _cookie(address)}
                with connect(where, additional_headers=cookie, compression=None, proxy=None,
                             max_size=None) as stage:  # fmt: skip
                    stage.send(json.dumps({"type": "record", "on": True}))
                    while not self._stopped.wait(0.3):
                        number += 1
                        path = PATHS[number % len(PATHS)]
                        stage.send(json.dumps({"type": "open", "address": path}))
                        while True:
                            try:
                                stage.recv(0.01)
                            except TimeoutError:
                                break
            self._stopped.wait(0.5)

    def judge(self) -> tuple[int, list[str]]:
        """See that recording goes on by itself; returns lost sentences and what is untrue."""
        before = len(self._steps())
        try:
            until(lambda: len(self._steps()) > before, "recording does not go on", 60)
            untrue = []
        except Late as error:
            untrue = [str(error)]
        self._stopped.set()
        self._thread.join(20)
        return len(self._acknowledged - set(self._steps())), untrue


def _cookie(address: str) -> str:
    tester = next(one for one in ACCOUNTS if one.role == "tester")
    body = json.dumps({"username": tester.username, "password": tester.password}).encode()
    headers = {"Content-Type": "application/json"}
    request = urllib.request.Request(f"{address}/api/sign-in", body, headers)
    with urllib.request.urlopen(request, timeout=20) as answer:
        return str(answer.headers["Set-Cookie"]).split(";")[0]


def settle(demo: Demo, work: Running | Recording | None, limit: float) -> float:
    """Wait until all is well and what was under way is resolved; returns seconds. Raises Late."""
    start = time.monotonic()
    until(demo.healthy, "Lantern is not well again", limit)
    if isinstance(work, Running):
        until(work.resolved, "what was under way hangs", limit)
    return time.monotonic() - start
