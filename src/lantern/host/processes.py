"""Child processes: started, watched, started again when they die, ended with their parent."""

from __future__ import annotations

import ctypes
import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO

from lantern.account import as_worker, give, worker
from lantern.host.setup import WORKS_IN, path

PR_SET_PDEATHSIG = 1
STEADY = 60.0
"""Seconds that a process has to run for its earlier deaths to be forgotten."""
LONGEST_LOG = 20 * 1024 * 1024
"""Bytes of a log, above which it is begun anew."""
LONGEST_PAUSE = 30.0
"""Seconds between two starts of a process that keeps dying."""


def die_with_parent(how: int = signal.SIGTERM) -> None:
    """Ask Linux to end this process when its parent is gone, however that came about."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, how)


def own_log(log: Path) -> IO[bytes]:
    """Open a log for more, readable by its owner alone, also one that was not so before."""
    descriptor = os.open(log, os.O_CREAT | os.O_APPEND | os.O_WRONLY, 0o600)
    os.fchmod(descriptor, 0o600)
    return os.fdopen(descriptor, "ab")


def shorten(log: Path | None, most: int = LONGEST_LOG) -> None:
    """Put the content of a log that has grown long aside, and begin it anew.

    Whoever writes to it goes on doing so: it is opened for appending. What comes between copying
    and emptying may be lost.
    """
    if log is None:
        return
    try:
        if log.stat().st_size > most:
            aside = log.with_suffix(".log.1")
            aside.unlink(missing_ok=True)
            with log.open("rb") as content, own_log(aside) as out:
                shutil.copyfileobj(content, out)
            os.truncate(log, 0)
    except OSError:
        pass  # a full disk, or none there yet


class Pauses:
    """How long to wait before something that died is started again: longer each time, for ever."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._started = -STEADY
        self._due: float | None = None
        self.deaths = 0

    def started(self) -> None:
        """It was started just now."""
        self._started, self._due = self._clock(), None

    def may_start(self) -> bool:
        """Tell whether what is dead may be started again; its death is noted the first time."""
        now = self._clock()
        if self._due is None:
            self.deaths = 1 if now - self._started > STEADY else self.deaths + 1
            pause = 0.0 if self.deaths == 1 else min(LONGEST_PAUSE, 0.5 * 2.0**self.deaths)
            self._due = now + pause
        return now >= self._due

    @property
    def steady(self) -> bool:
        """Whether it has run for a while."""
        return self._due is None and self._clock() - self._started > STEADY


@dataclass
class Child:
    """A child process; its output goes to a log file, or with None where this process's goes."""

    name: str
    command: Sequence[str]
    log: Path | None
    env: Mapping[str, str] = field(default_factory=dict)
    process: subprocess.Popen[bytes] | None = None
    pauses: Pauses = field(default_factory=Pauses)

    def start(self) -> None:
        """Start the process."""
        self.pauses.started()
        with self._output() as output:
            self.process = subprocess.Popen(
                list(self.command),
                cwd=WORKS_IN,
                env={**os.environ, **({"HOME": "/"} if worker() else {}), **path(), **self.env},
                stdin=subprocess.DEVNULL,
                stdout=output,
                stderr=subprocess.STDOUT,
                start_new_session=True,
                preexec_fn=die_with_parent,
                **as_worker(),
            )

    def _output(self) -> AbstractContextManager[IO[bytes] | int]:
        if self.log is None:
            return nullcontext(sys.stderr.fileno())
        self.log.parent.mkdir(parents=True, exist_ok=True)
        return own_log(self.log)

    @property
    def running(self) -> bool:
        """Whether the process runs."""
        return self.process is not None and self.process.poll() is None

    @property
    def pid(self) -> int:
        """The process id, 0 before the start."""
        return self.process.pid if self.process else 0

    def stop(self, limit: float = 8.0) -> None:
        """End the process, with force when it does not listen."""
        if not self.running or self.process is None:
            return
        self.process.terminate()
        try:
            self.process.wait(limit)
        except subprocess.TimeoutExpired:
            os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait(5)

    def last_lines(self, count: int = 15) -> str:
        """Return the end of its log."""
        if self.log is None or not self.log.exists():
            return ""
        return "\n".join(self.log.read_text(errors="replace").splitlines()[-count:])


def web(port: int, host: str, env: Mapping[str, str], logs: Path) -> Child:
    """Return the web process."""
    command = [
        sys.executable, "-m", "gunicorn", "--workers", "1",
        "--worker-class", "lantern.web.serving.Worker", "--threads", "96",
        "--bind", f"{host}:{port}", "--graceful-timeout", "2",
        "--no-control-socket", "--log-level", "warning", "lantern.web.app:serve()",
    ]  # fmt: skip
    return Child("web", command, logs / "web.log", env)


def station(env: Mapping[str, str], logs: Path, number: int = 1) -> Child:
    """Return a station, by its number where there are several on this machine."""
    command = [sys.executable, "-m", "lantern.station.service"]
    home = logs.parent / "stations"
    home.mkdir(parents=True, exist_ok=True)
    give(home)
    name = "station" if number == 1 else f"station-{number}"
    return Child(name, command, logs / f"{name}.log", {"LANTERN_STATION_HOME": str(home), **env})


def post(port: int, smtp: int, logs: Path) -> Child:
    """Return the demo's mail server: mails come in on the port `smtp` and are shown on `port`."""
    command = [
        sys.executable, "-m", "gunicorn", "--worker-class", "gthread", "--workers", "1",
        "--threads", "8", "--bind", f"127.0.0.1:{port}", "--graceful-timeout", "1",
        "--no-control-socket", "--log-level", "warning", "lantern.demo.post.app:serve()",
    ]  # fmt: skip
    return Child("post", command, logs / "post.log", {"KEPT_MAILS_SMTP": str(smtp)})


def slate(port: int, tells: str, secret: str, logs: Path) -> Child:
    """Return the demo's tracker, which tells an address of what changes."""
    command = [
        sys.executable, "-m", "gunicorn", "--worker-class", "gthread", "--workers", "1",
        "--threads", "8", "--bind", f"127.0.0.1:{port}", "--graceful-timeout", "1",
        "--no-control-socket", "--log-level", "warning", "lantern.demo.slate.app:serve()",
    ]  # fmt: skip
    env = {"SLATE_TELLS": tells, "SLATE_SECRET": secret, "SLATE_FILE": str(logs / "slate.json")}
    return Child("slate", command, logs / "slate.log", env)


def desk(port: int, logs: Path, release: str = "spring", name: str = "desk") -> Child:
    """Return the sample application."""
    command = [
        sys.executable, "-m", "gunicorn", "--worker-class", "gthread", "--workers", "1",
        "--threads", "32", "--bind", f"127.0.0.1:{port}", "--graceful-timeout", "1",
        "--no-control-socket", "--log-level", "warning", "lantern.demo.desk.app:serve()",
    ]  # fmt: skip
    return Child(name, command, logs / f"{name}.log", {"KILN_DESK_RELEASE": release})
