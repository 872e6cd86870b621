"""The pages that are told of changes: what each of them shows, and what waits to be told."""

from __future__ import annotations

import queue
from collections.abc import Callable, Sequence
from contextlib import suppress

from lantern.store.channel import RECONNECTED

MOST_WAITING = 1000
"""Notices that wait for a page at the most."""
MOST_RUNS = 8
"""Runs that one page follows closely."""


class Watching:
    """The page at the other end of a connection: what it shows, and what it is to be told.

    `on_run` is told of each run that the page begins to follow closely.
    """

    def __init__(self, on_run: Callable[[int], object] = lambda _: None) -> None:
        self.test = 0
        self.runs: frozenset[int] = frozenset()
        self._on_run = on_run
        self._notices: queue.Queue[str] = queue.Queue(MOST_WAITING)

    def follow(self, runs: Sequence[int]) -> None:
        """Let the page be told what changes in these runs, and in no others."""
        before, self.runs = self.runs, frozenset(runs[:MOST_RUNS])
        for run in self.runs - before:
            self._on_run(run)

    def put(self, notice: str) -> None:
        """Let the page be told; one that is too slow is told to read everything anew."""
        try:
            self._notices.put_nowait(notice)
        except queue.Full:
            with suppress(queue.Empty):
                while True:
                    self._notices.get_nowait()
            with suppress(queue.Full):
                self._notices.put_nowait(RECONNECTED)

    def next(self, seconds: float) -> str | None:
        """Return what the page is to be told next; None when there was nothing for that long."""
        try:
            return self._notices.get(timeout=seconds)
        except queue.Empty:
            return None
