"""The demo: database, web, one station and the Kiln Desk, started and ended together."""

from __future__ import annotations

import fcntl
import json
import os
import shutil
import signal
import threading
import time
import urllib.error
import urllib.request
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import psycopg
from sqlalchemy.exc import SQLAlchemyError

from lantern.account import as_root, give
from lantern.demo.data import ACCOUNTS, load_demo, start_first_run
from lantern.host import processes
from lantern.host.ports import free_port
from lantern.host.postgres import Cluster
from lantern.host.processes import Child
from lantern.host.setup import STATE, SetupFailed, say, step
from lantern.store.database import Database
from lantern.store.migrating import migrate
from lantern.store.vault import Vault, make_key

STATE_FILE = STATE / "running.json"
LOGS = STATE / "logs"
KEY = STATE / "secret.key"
LOCK = STATE / "lock"
READY_LIMIT = 60.0
LINES = 5
"""Lines of a log that are told of a part that keeps dying."""
WEB_PORT = 8090
DESK_PORT = 8190


@dataclass(frozen=True)
class Settings:
    """Where the demo and its sample application listen; `fresh` starts over with new data."""

    host: str = "127.0.0.1"
    port: int = WEB_PORT
    desk_port: int = DESK_PORT
    fresh: bool = False


def running_state() -> dict[str, Any] | None:
    """Return what a running demo wrote about itself; None when none runs."""
    try:
        state: dict[str, Any] = json.loads(STATE_FILE.read_text())
        pid = int(state["pid"])
    except (OSError, ValueError, KeyError):
        return None
    return state if _is_lantern(pid) else None


def _is_lantern(pid: int) -> bool:
    """Tell whether a process is a Lantern: a number may have been given to another since."""
    try:
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False
    return b"lantern.cli" in command


def _health(address: str) -> dict[str, Any] | None:
    try:
        with urllib.request.urlopen(f"{address}/api/health", timeout=2) as answer:  # noqa: S310
            return dict(json.load(answer))
    except urllib.error.HTTPError as error:
        return dict(json.load(error))
    except (OSError, ValueError):
        return None


def wait_healthy(address: str, limit: float) -> None:
    """Wait until Lantern answers that all is well; raises SetupFailed after `limit` seconds."""
    end = time.monotonic() + limit
    while True:
        health = _health(address)
        if health and health["status"] == "ok":
            return
        if time.monotonic() > end:
            raise SetupFailed(f"Lantern at {address} did not get ready: {health}")
        time.sleep(0.1)


class Demo:
    """Everything that `./lantern demo` runs."""

    def __init__(self, settings: Settings) -> None:
        self._settings = settings
        self._cluster = Cluster(STATE / "postgres")
        self._children: list[Child] = []
        self._stop = threading.Event()
        self._address = self._sample = ""
        self._base_pauses = processes.Pauses()
        self._troubles: dict[str, str] = {}

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
            first = self._start()
            if not self._stop.is_set():
                self._announce()
                if first:
                    self._first_run()
            self._watch()
        finally:
            self._end()
        return 0

    def _start(self) -> bool:
        """Start all parts; returns whether the demo data was loaded just now."""
        settings = self._settings
        if settings.fresh:
            step("Clearing the old data", self._clear)
        make_key(KEY)
        give(KEY)  # one of an earlier release may belong to root
        step("Starting the database", lambda: self._cluster.start(self._stop.is_set))
        self._base_pauses.started()
        port = free_port(settings.port, settings.host)
        if port != settings.port:
            say(f"  Port {settings.port} is in use; Lantern listens on {port} instead.")
        desk_port = free_port(settings.desk_port)
        shown = "127.0.0.1" if settings.host in ("0.0.0.0", "::") else settings.host  # noqa: S104
        self._address = f"http://{shown}:{port}"
        sample = f"http://127.0.0.1:{desk_port}"
        self._sample = sample
        os.environ.update(
            LANTERN_DATABASE=self._cluster.url,
            LANTERN_KEY_FILE=str(KEY),
            LANTERN_SAMPLE=sample,
            LANTERN_STATE_FILE=str(STATE_FILE),
        )
        first = False

        def prepare() -> None:
            nonlocal first
            database = Database(self._cluster.url)
            migrate(database)
            with database.session() as session:
                first = load_demo(session, Vault(), sample)
            database.close()

        step("Bringing the database up to date", prepare)
        self._children = [
            processes.web(port, settings.host, {}, LOGS),
            processes.station({}, LOGS),
            processes.desk(desk_port, LOGS),
        ]
        step("Starting web, station and Kiln Desk", self._start_children)
        self._write_state("running")
        return first

    def _clear(self) -> None:
        self._cluster.remove()
        KEY.unlink(missing_ok=True)
        shutil.rmtree(LOGS, ignore_errors=True)

    def _start_children(self) -> None:
        for child in self._children:
            child.start()
        end = time.monotonic() + READY_LIMIT
        while not self._stop.is_set():
            health = _health(self._address)
            if health and health["status"] == "ok":
                return
            dead = next((child for child in self._children if not child.running), None)
            if dead or time.monotonic() > end:
                child = dead or self._children[0]
                raise SetupFailed(
                    f"{child.name} did not come up; {child.log} ends with:\n{child.last_lines()}"
                )
            self._stop.wait(0.1)

    def _first_run(self) -> None:
        database = Database(self._cluster.url)
        try:
            start_first_run(database)
        except SQLAlchemyError as error:  # the database died just now: it is started again
            say(f"The demo's first run could not be queued ({type(error).__name__}).")
        finally:
            database.close()

    def _announce(self) -> None:
        say(f"\nLantern is ready at {self._address}\n")
        for account in ACCOUNTS:
            say(f"  {account.role:<7} {account.username:<8} password {account.password}")
        say(f"\nThe sample application: {os.environ['LANTERN_SAMPLE']}   Ctrl-C ends everything.")

    def _watch(self) -> None:
        """Start again what dies, until told to stop; what keeps dying ever more slowly."""
        while not self._stop.wait(0.5):
            before = dict(self._troubles)
            self._mend_database()
            for child in self._children:
                self._mend(child)
            if self._troubles != before:
                self._write_state("running")

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
        pauses = self._base_pauses
        if self._cluster.running:
            if pauses.steady:
                self._troubles.pop("database", None)
            return
        if not pauses.may_start():
            return
        say("The database ended by itself; it is started again.")
        port = self._cluster.port
        try:
            self._cluster.start(self._stop.is_set)
        except (SetupFailed, psycopg.Error, OSError) as error:
            self._troubles["database"] = f"The database does not start: {error}"
        pauses.started()
        if self._cluster.port != port:  # somebody else took its port meanwhile
            os.environ["LANTERN_DATABASE"] = self._cluster.url
            for child in self._children:
                child.stop()

    def _end(self) -> None:
        say("\nEnding …")
        for child in reversed(self._children):
            child.stop()
        self._cluster.stop()
        STATE_FILE.unlink(missing_ok=True)

    def _write_state(self, state: str) -> None:
        content = {
            "pid": os.getpid(),
            "state": state,
            "address": self._address,
            "sample": self._sample,
            "database": self._cluster.url if self._cluster.port else "",
            "children": {child.name: child.pid for child in self._children},
            "postgres": self._cluster.pid,
            "troubles": [*filter(None, [as_root()]), *self._troubles.values()],
        }
        new = STATE_FILE.with_suffix(".new")
        try:
            with os.fdopen(os.open(new, os.O_CREAT | os.O_WRONLY | os.O_TRUNC, 0o600), "w") as file:
                json.dump(content, file)
            give(new)  # the web process tells of troubles from it
            new.replace(STATE_FILE)
        except OSError as error:  # a full disk is no reason to end
            say(f"{STATE_FILE} could not be written: {error}")


def stop() -> int:
    """End a running demo from another terminal."""
    state = running_state()
    if state is None:
        say("Lantern is not running.")
        return 0
    pid = int(state["pid"])
    os.kill(pid, signal.SIGTERM)
    end = time.monotonic() + 25
    while _is_lantern(pid) and time.monotonic() < end:
        time.sleep(0.1)
    if _is_lantern(pid):
        say(f"Lantern (process {pid}) does not end. End it with: kill -9 {pid}")
        return 1
    say("Lantern has ended.")
    return 0


def status() -> int:
    """Say what runs; returns 0 when all is well, 1 when something is not, 3 when nothing runs."""
    state = running_state()
    if state is None:
        say("Lantern is not running. Start it with: ./lantern demo")
        return 3
    health = _health(state["address"]) if state["address"] else None
    say(f"Lantern (process {state['pid']}) at {state['address'] or 'no address yet'}")
    if health is None:
        say("  It does not answer.")
        for trouble in state.get("troubles", []):
            say(f"  trouble             {trouble}")
        return 1
    for part in ("status", "version", "database", "stations", "sample_application"):
        say(f"  {part.replace('_', ' '):<20}{health[part]}")
    for trouble in state.get("troubles", []):
        say(f"  trouble             {trouble}")
    return 0 if health["status"] == "ok" else 1
