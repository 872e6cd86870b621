"""Child processes: started, watched, started again when they die, ended with their parent."""

from __future__ import annotations

import ctypes
import os
import signal
import subprocess
import sys
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO

from lantern.host.setup import ROOT, path

PR_SET_PDEATHSIG = 1
MOST_RESTARTS = 5
RESTART_WINDOW = 60.0


def _die_with_parent() -> None:
    """Ask Linux to end this process when its parent is gone, however that came about."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


def _own(log: Path) -> IO[bytes]:
    """Open a log for more, readable by its owner alone, also one that was not so before."""
    descriptor = os.open(log, os.O_CREAT | os.O_APPEND | os.O_WRONLY, 0o600)
    os.fchmod(descriptor, 0o600)
    return os.fdopen(descriptor, "ab")


@dataclass
class Child:
    """A child process; its output goes to a log file."""

    name: str
    command: Sequence[str]
    log: Path
    env: Mapping[str, str] = field(default_factory=dict)
    process: subprocess.Popen[bytes] | None = None
    starts: list[float] = field(default_factory=list)

    def start(self) -> None:
        """Start the process."""
        self.log.parent.mkdir(parents=True, exist_ok=True)
        self.starts.append(time.monotonic())
        with _own(self.log) as output:
            self.process = subprocess.Popen(
                list(self.command),
                cwd=ROOT,
                env={**os.environ, **path(), **self.env},
                stdin=subprocess.DEVNULL,
                stdout=output,
                stderr=subprocess.STDOUT,
                start_new_session=True,
                preexec_fn=_die_with_parent,
            )

    @property
    def running(self) -> bool:
        """Whether the process runs."""
        return self.process is not None and self.process.poll() is None

    @property
    def pid(self) -> int:
        """The process id, 0 before the start."""
        return self.process.pid if self.process else 0

    def may_restart(self) -> bool:
        """Tell whether it has not died too often lately."""
        since = time.monotonic() - RESTART_WINDOW
        return sum(start > since for start in self.starts) < MOST_RESTARTS

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
        if not self.log.exists():
            return ""
        return "\n".join(self.log.read_text(errors="replace").splitlines()[-count:])


def web(port: int, host: str, env: Mapping[str, str], logs: Path) -> Child:
    """Return the web process."""
    command = [
        sys.executable, "-m", "gunicorn", "--worker-class", "gthread", "--workers", "1",
        "--threads", "96", "--bind", f"{host}:{port}", "--graceful-timeout", "2",
        "--no-control-socket", "--log-level", "warning", "lantern.web.app:serve()",
    ]  # fmt: skip
    return Child("web", command, logs / "web.log", env)


def station(env: Mapping[str, str], logs: Path) -> Child:
    """Return a station."""
    command = [sys.executable, "-m", "lantern.station.service"]
    return Child("station", command, logs / "station.log", env)


def desk(port: int, logs: Path, release: str = "spring") -> Child:
    """Return the sample application."""
    command = [
        sys.executable, "-m", "gunicorn", "--worker-class", "gthread", "--workers", "1",
        "--threads", "32", "--bind", f"127.0.0.1:{port}", "--graceful-timeout", "1",
        "--no-control-socket", "--log-level", "warning", "lantern.demo.desk.app:serve()",
    ]  # fmt: skip
    return Child("desk", command, logs / "desk.log", {"KILN_DESK_RELEASE": release})
