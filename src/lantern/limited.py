"""A command with limits of time, memory, processes and output, for what reads what people gave."""

from __future__ import annotations

import os
import selectors
import subprocess
import time
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass

import psutil

CHUNK = 1 << 16
LOOK = 0.1
"""Seconds between two looks at how much memory is used."""
PROCESSES = 32
"""Processes that a command may have at once, with itself."""


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
    two outputs; more than PROCESSES end it as well. Raises OSError when it can not be started.
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
