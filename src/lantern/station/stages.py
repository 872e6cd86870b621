"""The stages of a station: one for each author of a test, shared by that author's tabs."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import structlog

from lantern.browser.errors import BrowserError
from lantern.station.stage import Stage

log = structlog.get_logger()
Key = tuple[int, int]
"""A test and an account."""
MANY = 1000
IDLE = 300.0
"""Seconds after which a stage is closed that nobody looks at."""


class Stages:
    """Opens stages with `make`, counts who looks at them, and closes them.

    `most` tells how many may be open at once.
    """

    def __init__(
        self, make: Callable[[Key], Stage], most: Callable[[], int] = lambda: MANY
    ) -> None:
        self._make, self._most = make, most
        self._stages: dict[Key, Stage] = {}
        self._being_made = 0
        self._viewers: dict[Key, int] = {}
        self._idle_since: dict[Key, float] = {}
        self._opening: dict[Key, threading.Lock] = {}
        self._leaving: set[Key] = set()
        self._lock = threading.Lock()
        self._closed = False

    @contextmanager
    def looked_at(self, key: Key) -> Iterator[Stage]:
        """Give the stage of a test and an author for as long as one looks, opened if need be.

        A page takes its time to open; only who wants this very stage waits for it. Raises what
        opening it raises.
        """
        with self._lock:
            self._viewers[key] = self._viewers.get(key, 0) + 1
            self._leaving.discard(key)
            opening = self._opening.setdefault(key, threading.Lock())
        try:
            with opening:
                stage = self._living(key) or self._open(key)
            yield stage
        finally:
            with self._lock:
                self._viewers[key] -= 1
                self._idle_since[key] = time.monotonic()

    def _living(self, key: Key) -> Stage | None:
        """Return the stage that is there; one whose browser died is let go."""
        with self._lock:
            stage = self._stages.get(key)
            if stage is None or stage.alive:
                return stage
            del self._stages[key]
        _close(stage)
        return None

    def rehearsed(self, key: Key) -> bool:
        """Tell whether a rehearsal is under way on the stage of a test and an author."""
        with self._lock:
            stage = self._stages.get(key)
        return stage is not None and stage.rehearsing

    def of(self, account: int) -> list[Stage]:
        """Return the stages of an account."""
        with self._lock:
            return [stage for key, stage in self._stages.items() if key[1] == account]

    def _make_room(self) -> None:
        """Take a place for one more; closes what nobody looks at where there are too many.

        Raises BrowserError when all places are used.
        """
        most = self._most()
        if len(self._stages) + self._being_made >= most:
            self.close_idle(0.0)
        with self._lock:
            if len(self._stages) + self._being_made >= most:
                raise BrowserError(
                    f"All {most} stages of this station are in use; a lead can allow more."
                )
            self._being_made += 1

    def _open(self, key: Key) -> Stage:
        self._make_room()
        try:
            stage = self._make(key)
        finally:
            with self._lock:
                self._being_made -= 1
        with self._lock:
            if not self._closed:
                self._stages[key] = stage
                return stage
        _close(stage)
        raise RuntimeError("The station is ending.")

    def let_go(self, account: int) -> None:
        """Close the stages of an account as soon as nobody looks at them: it has signed out."""
        with self._lock:
            self._leaving.update(key for key in self._stages if key[1] == account)

    def close_idle(self, after: float = IDLE) -> None:
        """Close the stages that nobody has looked at for `after` seconds."""
        since = time.monotonic() - after
        with self._lock:
            idle = [
                key
                for key in self._stages
                if not self._viewers.get(key)
                and (
                    key in self._leaving
                    or self._idle_since.get(key, since) + self._stages[key].patience <= since
                )
            ]
            closing = [self._stages.pop(key) for key in idle]
            for key in idle:  # whoever comes next begins anew
                self._viewers.pop(key, None)
                self._idle_since.pop(key, None)
                self._opening.pop(key, None)
                self._leaving.discard(key)
        for stage in closing:
            _close(stage)

    def close(self) -> None:
        """Close all stages; none is opened any more."""
        with self._lock:
            self._closed = True
            closing, self._stages = list(self._stages.values()), {}
        for stage in closing:
            _close(stage)


def _close(stage: Stage) -> None:
    try:
        stage.close()
    except Exception:
        log.exception("stage_not_closed")  # the others have to be closed as well
