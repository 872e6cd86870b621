"""A browser as a process: its folder, its pipe, and nothing of it left when its owner is gone.

The folder's name tells which process owns it, so that whoever comes later can sweep what a killed
one left. The browser is driven through a pipe (descriptors 3 and 4 of the browser), not a port:
nobody else on the machine can drive it, and it ends by itself when the pipe does.
"""

from __future__ import annotations

import os
import re
import shutil
import signal
import stat
import subprocess
import tempfile
import threading
from collections import deque
from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path

import structlog

from lantern.account import as_worker, give, shut_at, worker

log = structlog.get_logger()
PREFIX = "lantern-browser-"
OPEN = Path("/var/tmp")  # noqa: S108 - each folder in it is a browser's own
ENDS = 3.0
"""Seconds that a browser gets to end by itself."""


def _born(pid: int) -> str:
    """Return when a process began, in ticks since boot as /proc tells it; "" when it is none."""
    try:
        stat = Path(f"/proc/{pid}/stat").read_text()
    except OSError:
        return ""
    return stat.rpartition(")")[2].split()[19]  # the 22nd field: proc(5)


def _place() -> Path:
    """Return where folders of browsers are: root's own place for such things is closed to them."""
    usual = Path(tempfile.gettempdir())
    closed = shut_at(usual) or not usual.stat().st_mode & stat.S_IWOTH
    return OPEN if worker() and closed else usual


@contextmanager
def own_folder() -> Iterator[Path]:
    """Make a folder for a browser of this process; it stays, unless starting in it fails."""
    me = os.getpid()
    folder = Path(tempfile.mkdtemp(prefix=f"{PREFIX}{me}-{_born(me)}-", dir=_place()))
    try:
        give(folder)
        yield folder
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        raise


def sweep() -> int:
    """End browsers and remove folders whose owners are gone; returns how many folders it were."""
    swept = 0
    for folder in _place().glob(f"{PREFIX}*"):
        pid, _, born = folder.name.removeprefix(PREFIX).rpartition("-")[0].partition("-")
        if not pid.isdecimal() or _born(int(pid)) == born:
            continue
        _kill_users_of(folder)
        shutil.rmtree(folder, ignore_errors=True)
        swept += 1
    if swept:
        log.info("swept_browsers", count=swept)
    return swept


def _kill_users_of(folder: Path) -> None:
    mark = str(folder).encode()
    for entry in Path("/proc").glob("[0-9]*/cmdline"):
        with suppress(OSError):
            if mark in entry.read_bytes():
                os.kill(int(entry.parent.name), signal.SIGKILL)


class Process:
    """A started browser; `reads` and `writes` are this side's ends of its pipe."""

    def __init__(
        self, command: Sequence[str], folder: Path, env: Mapping[str, str] | None = None
    ) -> None:
        self.folder = folder
        self._env = dict(env or {})
        self._said: deque[str] = deque(maxlen=20)
        self._told = threading.Condition()
        self._over = False
        with ExitStack() as theirs:
            browser_reads, self.writes = os.pipe()
            theirs.callback(os.close, browser_reads)
            self.reads, browser_writes = os.pipe()
            theirs.callback(os.close, browser_writes)
            ours = ExitStack()
            ours.callback(os.close, self.writes)
            ours.callback(os.close, self.reads)
            with ours:
                self._process = self._start(command, browser_reads, browser_writes)
                self._open = ours.pop_all()
        self._listener = threading.Thread(target=self._listen, name="browser-stderr", daemon=True)
        self._listener.start()

    script = 'exec "$0" "$@"'
    """What the shell does with the command: the pipe is at 3 (to read from) and 4 (to write to)."""

    def _start(self, command: Sequence[str], reads: int, writes: int) -> subprocess.Popen[bytes]:
        # The shell puts the pipe where the browser looks for it, and becomes the browser itself.
        # First out of the way: one of the two could be number 3 or 4.
        script = f"exec {{r}}<&{reads} {{w}}>&{writes} 3<&$r 4>&$w; {self.script}"
        return subprocess.Popen(
            ["/bin/bash", "-c", script, *command],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            pass_fds=(reads, writes),
            start_new_session=True,
            cwd="/",
            env=os.environ | {"HOME": str(self.folder), "TMPDIR": str(_place())} | self._env,
            **as_worker(),
        )

    def _listen(self) -> None:
        stream = self._process.stderr
        assert stream is not None  # noqa: S101 - opened with PIPE above
        with suppress(ValueError, OSError):  # closed while reading
            for line in stream:
                with self._told:
                    self._said.append(line.decode(errors="replace"))
                    self._told.notify_all()
        with self._told:
            self._over = True
            self._told.notify_all()

    def wait_for(self, pattern: re.Pattern[str], limit: float) -> str | None:
        """Wait for a line on its error output and return what matched; None when none came."""

        def found() -> re.Match[str] | None:
            return next((hit for line in self._said if (hit := pattern.search(line))), None)

        with self._told:
            self._told.wait_for(lambda: found() or self._over, limit)
            hit = found()
        return hit[0] if hit else None

    @property
    def pid(self) -> int:
        """The process id of the browser."""
        return self._process.pid

    @property
    def running(self) -> bool:
        """Whether the process runs."""
        return self._process.poll() is None

    def said(self) -> str:
        """What it said last on its error output."""
        self._listener.join(0.2)
        with self._told:
            return "".join(list(self._said)[-5:]).strip()

    def close(self) -> None:
        """End the browser, with force when it does not end by itself, and remove its folder."""
        with ExitStack() as closing:
            closing.callback(shutil.rmtree, self.folder, ignore_errors=True)
            if self._process.stderr:
                closing.callback(self._process.stderr.close)
            closing.callback(self._await_end)
            closing.enter_context(self._open)

    def _await_end(self) -> None:
        try:
            self._process.wait(ENDS)
        except subprocess.TimeoutExpired:
            with suppress(ProcessLookupError):
                os.killpg(self._process.pid, signal.SIGKILL)
            self._process.wait(5)


class Guarded(Process):
    """A browser that does not end with a pipe: a shell beside it ends it when the pipe does."""

    script = '"$0" "$@" 3<&- 4>&- & exec 4>&-; read -r _ <&3; kill -KILL 0'
