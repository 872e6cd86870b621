"""A process apart: a command with limits of time, memory and output, and code that sees nothing.

`limited` runs a command of ours that reads what people gave; `confined` makes a command one that
runs under bubblewrap, for code that people wrote.
"""

from __future__ import annotations

import os
import selectors
import shutil
import subprocess
import sys
import time
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import psutil

CHUNK = 1 << 16
LOOK = 0.1
"""Seconds between two looks at how much memory is used."""
MEMORY = 512 << 20
"""Bytes of memory that code gets, all its processes together."""
PROCESSES = 32
"""Processes that it may have at once; those of the sandbox itself among them."""
FILE = 10 << 20
"""Bytes of the largest file that it can write; all it writes is in memory."""
SCRATCH = 64 << 20
HOME = "/home/code"
SHARED, TMP = "/dev/shm", "/tmp"  # noqa: S108 - those of the confined code, its own
MISSING = (
    "Python of people is not run on this station: bubblewrap is not installed. "
    "Install it with: apt-get install bubblewrap"
)
FORBIDDEN = (
    "Python of people is not run on this station: bubblewrap does not work ({said}). "
    "Where user namespaces are switched off, this allows them: "
    "sysctl -w kernel.unprivileged_userns_clone=1 user.max_user_namespaces=10000"
)


@dataclass(frozen=True)
class Finished:
    """How a command ended: status and outputs; `broke` is the limit that ended it, "" for none."""

    status: int
    output: bytes
    errors: bytes
    broke: str = ""


def limited(
    command: Sequence[str],
    given: bytes,
    *,
    seconds: float,
    memory: int,
    output: int,
    env: Mapping[str, str] | None = None,
) -> Finished:
    """Run a command with `given` on its input; ends it where it goes beyond a limit.

    `memory` is in bytes for it and all its children together, `output` in bytes for each of its
    two outputs. Raises OSError when it can not be started.
    """
    with subprocess.Popen(
        command,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        env=dict(env) if env is not None else None,
        start_new_session=True,
    ) as process:
        try:
            return _watched(process, given, seconds, memory, output)
        finally:
            _kill(process)


def _watched(
    process: subprocess.Popen[bytes], given: bytes, seconds: float, memory: int, output: int
) -> Finished:
    ends, looked = time.monotonic() + seconds, 0.0
    pipes = _Pipes(process, given)

    def finished(broke: str = "") -> Finished:
        said, complained = pipes.written()
        return Finished(process.poll() or 0, said, complained, broke)

    while pipes.open():
        now = time.monotonic()
        if now >= ends:
            return finished("time")
        if now - looked >= LOOK:
            looked = now
            held, count = _used(process.pid)
            if held > memory or count > PROCESSES:
                return finished("memory" if held > memory else "processes")
        if pipes.pass_on(min(LOOK, ends - now)) > output:
            return finished("output")
    with suppress(subprocess.TimeoutExpired):
        process.wait(max(0.1, ends - time.monotonic()))
    return finished("" if process.poll() is not None else "time")


class _Pipes:
    """The three pipes of a process: what is given goes in, what is written comes out."""

    def __init__(self, process: subprocess.Popen[bytes], given: bytes) -> None:
        assert process.stdin and process.stdout  # noqa: S101, PT018 - all are opened with PIPE
        assert process.stderr  # noqa: S101
        self._feed, self._left = process.stdin, memoryview(given)
        self._into = self._feed.fileno()
        self._written = {process.stdout.fileno(): bytearray(), process.stderr.fileno(): bytearray()}
        self._ready = selectors.DefaultSelector()
        for stream in (process.stdout, process.stderr):
            self._ready.register(stream, selectors.EVENT_READ)
        os.set_blocking(self._into, False)
        self._ready.register(self._feed, selectors.EVENT_WRITE)

    def open(self) -> bool:
        """Tell whether any of them is open still."""
        if not self._ready.get_map():
            self._ready.close()
            return False
        return True

    def written(self) -> tuple[bytes, bytes]:
        """Return what was written to the output and to the error output."""
        said, complained = self._written.values()
        return bytes(said), bytes(complained)

    def pass_on(self, limit: float) -> int:
        """Pass on what there is, after up to `limit` seconds; returns the longest output so far."""
        for key, _ in self._ready.select(limit):
            if key.fd == self._into:
                self._give()
            elif piece := os.read(key.fd, CHUNK):
                self._written[key.fd] += piece
            else:
                self._ready.unregister(key.fd)
        return max(map(len, self._written.values()))

    def _give(self) -> None:
        """Write what the other side takes; one that has ended gets no more."""
        try:
            self._left = self._left[os.write(self._into, self._left[:CHUNK]) :]
        except BlockingIOError:
            return
        except OSError:
            self._left = self._left[:0]
        if not self._left:
            self._ready.unregister(self._feed)
            self._feed.close()


def _used(pid: int) -> tuple[int, int]:
    """Return the bytes that a process and all its children hold, and how many they are."""
    total, family = 0, []
    with suppress(psutil.Error):
        family = [psutil.Process(pid), *psutil.Process(pid).children(recursive=True)]
    for one in family:
        with suppress(psutil.Error):
            total += one.memory_info().rss
    return total, len(family)


def _kill(process: subprocess.Popen[bytes]) -> None:
    if process.poll() is None:
        with suppress(ProcessLookupError):
            os.killpg(process.pid, 9)


def confined(command: Sequence[str]) -> list[str]:
    """Return a command that runs another one apart from everything.

    It sees the programs and libraries of the system and of Python, read-only; an empty home and
    /tmp of its own, in memory; no network, no other process, no environment; and it can not become
    more than it is.
    """
    base = str(Path(sys.base_prefix).resolve())
    programs = [] if base.startswith("/usr") else ["--ro-bind", base, base]
    links = [(f"/{name}", os.readlink(f"/{name}")) for name in _linked()]
    return [
        "prlimit", f"--as={2 * MEMORY}", f"--fsize={FILE}", f"--nofile={256}", "--core=0",
        "bwrap", "--unshare-all", "--unshare-user", "--disable-userns", "--die-with-parent",
        "--new-session", "--clearenv", "--cap-drop", "ALL", "--uid", "65534", "--gid", "65534",
        "--hostname", "apart", "--ro-bind", "/usr", "/usr",
        *(part for at, to in links for part in ("--symlink", to, at)), *programs,
        "--proc", "/proc", "--dev", "/dev", "--remount-ro", "/dev",
        "--size", str(SCRATCH), "--tmpfs", SHARED, "--size", str(SCRATCH), "--tmpfs", TMP,
        "--size", str(SCRATCH), "--tmpfs", HOME, "--remount-ro", "/",
        "--setenv", "HOME", HOME, "--setenv", "PATH", "/usr/bin", "--setenv", "LANG", "C.UTF-8",
        "--chdir", HOME, "--", *command,
    ]  # fmt: skip


def _linked() -> list[str]:
    """Return the names in / that lead into /usr, such as lib."""
    return [name for name in ("bin", "lib", "lib64", "sbin") if Path(f"/{name}").is_symlink()]


def refusal() -> str:
    """Return why code can not be run apart on this machine, and what mends it; "" when it can."""
    if shutil.which("bwrap") is None or shutil.which("prlimit") is None:
        return MISSING
    said = _tried()
    return FORBIDDEN.format(said=said) if said else ""


@cache
def _tried() -> str:
    """Return what bubblewrap complains of on this machine, "" for nothing."""
    command = confined(["/usr/bin/true"])
    try:
        done = limited(command, b"", seconds=20, memory=MEMORY, output=CHUNK)
    except OSError as error:
        return str(error)
    if done.status == 0 and not done.broke:
        return ""
    lines = done.errors.decode(errors="replace").strip().splitlines()
    return lines[-1][:200] if lines else f"status {done.status}"
