"""What the benches share: a Lantern of their own, and how figures are reported."""

from __future__ import annotations

import json
import os
import sys
import tempfile
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

import requests

from lantern.account import give
from lantern.core.runs.life import RUN_OVER
from lantern.demo.data import load_demo
from lantern.host import processes
from lantern.host.ports import free_port
from lantern.host.postgres import Cluster
from lantern.host.state import wait_healthy
from lantern.store import runs, tests
from lantern.store.database import Database
from lantern.store.migrating import migrate
from lantern.store.vault import Vault, make_key

SHORT = "--short"
"""Asks a bench for a small part of its work: whether it still runs, no figures to be believed."""
LENT = "LANTERN_BENCH_DATABASE"
"""Names the address of an empty, migrated database to be used; what is measured then says less."""
T = TypeVar("T")


def sized(whole: T, part: T) -> T:
    """Return how much a bench does: the `whole`, or a `part` of it in its short form."""
    return part if SHORT in sys.argv else whole


def report(name: str, figures: dict[str, float]) -> None:
    """Print the figures as the last line: one JSON object."""
    print(json.dumps({"bench": name, "figures": figures}), flush=True)


def say(words: str) -> None:
    """Say how it goes, apart from the figures."""
    print(words, file=sys.stderr, flush=True)


def run_to_end(database: Database, test_id: int) -> float:
    """Carry a run of all rows out, which has to pass; returns seconds from queueing to its end."""
    start = time.monotonic()
    with database.session() as session:
        run_id = runs.create(session, tests.get(session, test_id), "run", "all", None).id
    while True:
        with database.session() as session:
            state = runs.get(session, run_id).state
        if state in RUN_OVER:
            break
        time.sleep(0.02)
    assert state == "passed", f"the run of the bench ended as {state}"
    return time.monotonic() - start


@dataclass(frozen=True)
class Place:
    """A Lantern that runs for a bench."""

    database: Database
    address: str
    desk: str
    logs: Path
    web: int
    """The process id of the web process."""


@contextmanager
def _a_database() -> Iterator[Database]:
    """Give an empty, migrated database: one that is lent (see LENT), else one of its own."""
    lent = os.environ.get(LENT)
    if lent:
        database = Database(lent)
        yield database
        database.close()
        return
    cluster = Cluster(Path("/var/tmp") / f"lantern-bench-{uuid.uuid4().hex[:8]}")
    try:
        cluster.start()
        database = Database(cluster.url)
        migrate(database)
        yield database
        database.close()
    finally:
        cluster.remove()


@contextmanager
def a_lantern(places: int = 2, *, web_only: bool = False) -> Iterator[Place]:
    """Start database, web, station and Kiln Desk as the demo has them; end them afterwards.

    The station plays as many casts at once as it has `places`; with `web_only` there is neither
    a station nor a desk.
    """
    children: list[processes.Child] = []
    with _a_database() as database, tempfile.TemporaryDirectory() as folder:
        logs = Path(folder)
        give(logs)
        make_key(logs / "key")
        try:
            port, desk_port = free_port(), free_port()
            desk = f"http://127.0.0.1:{desk_port}"
            os.environ.update(
                LANTERN_DATABASE=database.url,
                LANTERN_KEY_FILE=str(logs / "key"),
                LANTERN_SAMPLE=desk,
                LANTERN_STATION_PLACES=str(places),
            )
            with database.session() as session:
                load_demo(session, Vault(), desk)
            children = [processes.web(port, "127.0.0.1", {}, logs)]
            if not web_only:
                children += [processes.station({}, logs), processes.desk(desk_port, logs)]
            for child in children:
                child.start()
            address = f"http://127.0.0.1:{port}"
            if web_only:
                _wait_for_web(address, 60)
            else:
                wait_healthy(address, 60)
            yield Place(database, address, desk, logs, children[0].pid)
        finally:
            for child in children:
                child.stop()


def _wait_for_web(address: str, limit: float) -> None:
    """Wait until the web process answers, whatever it says of what is not there."""
    end = time.monotonic() + limit
    while True:
        try:
            requests.get(address + "/api/health", timeout=5)
        except requests.RequestException:
            assert time.monotonic() < end, "the web process did not come up"
            time.sleep(0.1)
        else:
            return
