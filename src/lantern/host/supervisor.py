"""The parts of a Lantern on this machine: started together, kept alive, ended together."""

from __future__ import annotations

import fcntl
import json
import os
import signal
import threading
import time
from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import psycopg

from lantern.account import as_root, give
from lantern.host import processes
from lantern.host.ports import free_port, is_free
from lantern.host.postgres import Cluster
from lantern.host.processes import Child
from lantern.host.setup import STATE, SetupFailed, say, step
from lantern.host.state import KEY, LOCK, STATE_FILE, health_of, running_state
from lantern.store.database import Database
from lantern.store.vault import make_key

READY_LIMIT = 60.0
LINES = 5
"""Lines of a log that are told of a part that keeps dying."""
WEB_PORT = 8090
TIDY_LOGS = 600.0
"""Seconds between two looks at how long the logs are."""


@dataclass(frozen=True)
class Where:
    """Where Lantern listens, and how people reach it.

    `moves` lets it take another port where `port` is in use; `address` is "" for the one that
    follows from host and port. `database` is that of somebody else's PostgreSQL, "" for an own.
    """

    host: str = "127.0.0.1"
    port: int = WEB_PORT
    address: str = ""
    database: str = ""
    moves: bool = True
    env: dict[str, str] = field(default_factory=dict)


class Supervisor(ABC):
    """Everything that one Lantern runs; what that is, subclasses say."""

    name = "Lantern"

    def __init__(self, where: Where) -> None:
        self._where = where
        self._cluster = None if where.database else Cluster(STATE / "postgres")
        self._children: list[Child] = []
        self._stop = threading.Event()
        self._address = ""
        self._base_pauses = processes.Pauses()
        self._troubles: dict[str, str] = {}

    # -- what a subclass says ------------------------------------------------------------------

    @abstractmethod
    def prepare(self, database: Database) -> None:
        """Bring the database to where it can be worked with; raises SetupFailed."""

    @abstractmethod
    def parts(self, port: int) -> Sequence[Child]:
        """Return the processes to start; the web process listens on `port`."""

    @abstractmethod
    def announce(self) -> None:
        """Say that all is up, and what people need to know."""

    def well(self, health: dict[str, Any]) -> bool:
        """Tell whether all is up, by what the web process says of how it is."""
        return bool(health["status"] == "ok")

    def told(self) -> dict[str, str]:
        """Return what the state file tells beside what all tell."""
        return {}

    # -- from the start to the end -------------------------------------------------------------

    @property
    def address(self) -> str:
        """Where people reach it, once it is starting."""
        return self._address

    def run(self) -> int:
        """Start all, wait until told to stop, end all. Returns the exit code."""
        STATE.mkdir(parents=True, exist_ok=True)
        with LOCK.open("a") as lock:  # held for as long as this process lives, however it ends
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                return self._refuse()
            return self._run()

    @staticmethod
    def _refuse() -> int:
        """Say where the other one is, which may be starting just now."""
        end = time.monotonic() + READY_LIMIT
        while time.monotonic() < end:
            other = running_state()
            if other and other["address"]:
                say(
                    f"Lantern is running already at {other['address']}. "
                    "Stop it with: ./lantern stop"
                )
                return 1
            time.sleep(0.1)
        say("Another Lantern is starting or ending just now. Try it again in a moment.")
        return 1

    def _run(self) -> int:
        if STATE_FILE.exists():
            say("An earlier Lantern did not end in good order; its leftovers are cleared away.")
            STATE_FILE.unlink()
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, lambda *_: self._stop.set())
        self._write_state("starting")
        try:
            self.start()
            if not self._stop.is_set():
                self.announce()
            self._watch()
        finally:
            self._end()
        return 0

    def start(self) -> None:
        """Start all parts, and wait until they are well; raises SetupFailed."""
        make_key(KEY)
        give(KEY)  # one of an earlier release may belong to root
        cluster = self._cluster
        if cluster:
            step("Starting the database", lambda: cluster.start(self._stop.is_set))
            self._base_pauses.started()
        port = self._port()
        host = self._where.host
        shown = "127.0.0.1" if host in ("0.0.0.0", "::") else host  # noqa: S104
        self._address = self._where.address.rstrip("/") or f"http://{shown}:{port}"
        os.environ.update(
            LANTERN_DATABASE=self._url,
            LANTERN_KEY_FILE=str(KEY),
            LANTERN_ADDRESS=self._address,
            LANTERN_STATE_FILE=str(STATE_FILE),
            **self._where.env,
        )
        self._children = list(self.parts(port))
        step("Bringing the database up to date", self._prepare)
        names = ", ".join(child.name for child in self._children)
        step(f"Starting {names}", lambda: self._start_children(f"http://{shown}:{port}"))
        self._write_state("running")

    @property
    def _url(self) -> str:
        return self._cluster.url if self._cluster else self._where.database

    def _port(self) -> int:
        where = self._where
        if is_free(where.port, where.host):
            return where.port
        if not where.moves:
            raise SetupFailed(
                f"Port {where.port} of {where.host} is in use. Say another one as port."
            )
        port = free_port(where.port, where.host)
        say(f"  Port {where.port} is in use; Lantern listens on {port} instead.")
        return port

    def _prepare(self) -> None:
        database = Database(self._url)
        try:
            self.prepare(database)
        finally:
            database.close()

    def _start_children(self, address: str) -> None:
        for child in self._children:
            child.start()
        end = time.monotonic() + READY_LIMIT
        while not self._stop.is_set():
            health = health_of(address)
            if health and self.well(health):
                return
            dead = next((child for child in self._children if not child.running), None)
            if dead or time.monotonic() > end:
                child = dead or self._children[0]
                raise SetupFailed(
                    f"{child.name} did not come up; {child.log or 'its log'} ends with:\n"
                    + child.last_lines()
                )
            self._stop.wait(0.1)

    def _watch(self) -> None:
        """Start again what dies, until told to stop; what keeps dying ever more slowly."""
        tidied = time.monotonic()
        while not self._stop.wait(0.5):
            before = dict(self._troubles)
            self._mend_database()
            for child in self._children:
                self._mend(child)
            if self._troubles != before:
                self._write_state("running")
            if time.monotonic() - tidied > TIDY_LOGS:
                tidied = time.monotonic()
                for child in self._children:
                    processes.shorten(child.log)

    def _mend(self, child: Child) -> None:
        if child.running:
            if child.pauses.steady:
                self._troubles.pop(child.name, None)
            return
        if not child.pauses.may_start():
            return
        say(f"{child.name} ended by itself; it is started again.")
        if child.pauses.deaths > 1:
            self._troubles[child.name] = (
                f"{child.name} ended {child.pauses.deaths} times; its log ends with: "
                + child.last_lines(LINES)
            )
        try:
            child.start()
        except OSError as error:
            self._troubles[child.name] = f"{child.name} could not be started: {error}"
        self._write_state("running")

    def _mend_database(self) -> None:
        cluster, pauses = self._cluster, self._base_pauses
        if cluster is None:
            return
        if cluster.running:
            if pauses.steady:
                self._troubles.pop("database", None)
            return
        if not pauses.may_start():
            return
        say("The database ended by itself; it is started again.")
        port = cluster.port
        try:
            cluster.start(self._stop.is_set)
        except (SetupFailed, psycopg.Error, OSError) as error:
            self._troubles["database"] = f"The database does not start: {error}"
        pauses.started()
        if cluster.port != port:  # somebody else took its port meanwhile
            os.environ["LANTERN_DATABASE"] = cluster.url
            for child in self._children:
                child.stop()

    def _end(self) -> None:
        say("\nEnding …")
        for child in reversed(self._children):
            child.stop()
        if self._cluster:
            self._cluster.stop()
        STATE_FILE.unlink(missing_ok=True)

    def _write_state(self, state: str) -> None:
        ready = not self._cluster or self._cluster.port
        content = {
            "pid": os.getpid(),
            "state": state,
            "address": self._address,
            "database": self._url if ready else "",
            "children": {child.name: child.pid for child in self._children},
            "postgres": self._cluster.pid if self._cluster else 0,
            "troubles": [*filter(None, [as_root()]), *self._troubles.values()],
            **self.told(),
        }
        new = STATE_FILE.with_suffix(".new")
        try:
            with os.fdopen(os.open(new, os.O_CREAT | os.O_WRONLY | os.O_TRUNC, 0o600), "w") as file:
                json.dump(content, file)
            give(new)  # the web process tells of troubles from it
            new.replace(STATE_FILE)
        except OSError as error:  # a full disk is no reason to end
            say(f"{STATE_FILE} could not be written: {error}")
