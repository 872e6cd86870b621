"""The faults: what is done to a running Lantern, and what may come of a run because of it."""

from __future__ import annotations

import os
import signal
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from random import Random

import psutil
from sqlalchemy import text

from bench.faults.place import Demo, is_browser, line_of, until

OUTAGE = 20.0
FULL = 6.0
"""Seconds for which a disk is full."""

Do = Callable[[Demo, Random], None]


@dataclass(frozen=True)
class Fault:
    """`do` returns when the fault is over; `may` are the ends that are true for a run then.

    `weight` is how often it is chosen, beside others; `whole` tells that the demo has to be
    started again.
    """

    name: str
    do: Do
    may: frozenset[str]
    weight: int = 1
    whole: bool = False


UNHURT = frozenset({"passed"})
LOST = frozenset({"passed", "interrupted"})
BROWSER = frozenset({"passed", "interrupted", "failed"})


def _kill(pid: int, how: int = signal.SIGKILL) -> None:
    with suppress(ProcessLookupError):
        os.kill(pid, how)


def _child(name: str) -> Do:
    return lambda demo, _: _kill(demo.told["children"][name])


def _web_worker(demo: Demo, random: Random) -> None:
    workers = psutil.Process(demo.told["children"]["web"]).children()
    if workers:
        _kill(random.choice(workers).pid)


def _browser(demo: Demo, random: Random) -> None:
    station = psutil.Process(demo.told["children"]["station"])
    found = [one for one in station.children(recursive=True) if is_browser(one)]
    if found:
        _kill(random.choice(found).pid)


def _renderer(demo: Demo, random: Random) -> None:
    station = psutil.Process(demo.told["children"]["station"])
    family = station.children(recursive=True)
    found = [one for one in family if "--type=renderer" in line_of(one)]
    if found:
        _kill(random.choice(found).pid)


def _postgres(demo: Demo, _: Random) -> None:
    _kill(demo.told["postgres"])


def _backend(demo: Demo, random: Random) -> None:
    """A single connection's process, killed: the server starts over with all the others."""
    found = psutil.Process(demo.told["postgres"]).children()
    backends = [one for one in found if "127.0.0.1" in line_of(one)]
    if backends:
        _kill(random.choice(backends).pid)


def _connections(demo: Demo, _: Random) -> None:
    with demo.database() as database, database.session() as session:
        session.execute(
            text(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                "WHERE datname = 'lantern' AND pid <> pg_backend_pid()"
            )
        )


def _silence(demo: Demo, _: Random) -> None:
    server = psutil.Process(demo.told["postgres"])
    stopped = [server, *server.children(recursive=True)]
    for one in stopped:
        _kill(one.pid, signal.SIGSTOP)
    time.sleep(OUTAGE)
    for one in stopped:
        _kill(one.pid, signal.SIGCONT)


def _full(folder: Path) -> None:
    filler = folder / "filler"
    try:
        with filler.open("wb", buffering=0) as file, suppress(OSError):
            while True:
                file.write(bytes(1 << 16))
        time.sleep(FULL)
    finally:
        filler.unlink(missing_ok=True)


def _end_all(how: int) -> Do:
    def end(demo: Demo, _: Random) -> None:
        demo.end(how)

    return end


FAULTS = (
    Fault("web master killed", _child("web"), UNHURT, 2),
    Fault("web worker killed", _web_worker, UNHURT, 3),
    Fault("station killed", _child("station"), LOST, 8),
    Fault("browser killed", _browser, BROWSER, 4),
    Fault("renderer killed", _renderer, BROWSER, 4),
    Fault("PostgreSQL killed", _postgres, LOST, 4),
    Fault("one backend killed", _backend, LOST, 3),
    Fault("all connections ended", _connections, LOST, 3),
    Fault("database silent for 20 s", _silence, LOST, 3),
    Fault("whole demo, SIGTERM", _end_all(signal.SIGTERM), LOST, 3, whole=True),
    Fault("whole demo, SIGKILL", _end_all(signal.SIGKILL), LOST, 4, whole=True),
)
ON_SMALL_DISKS = (
    Fault("data folder full", lambda demo, _: _full(demo.state), LOST, 2),
    Fault("temp folder full", lambda demo, _: _full(demo.temp), BROWSER, 2),
)


def gone(demo: Demo) -> int:
    """Return how many processes no demo answers for, once they had 10 s to end."""
    with suppress(Exception):
        until(lambda: not demo.orphans(), "orphans", 10)
    return len(demo.orphans())
