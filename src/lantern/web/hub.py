"""Telling browsers what changed: one LISTEN connection, a queue for each that watches."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator

import structlog

from lantern.store.channel import notices
from lantern.store.database import Database
from lantern.web.following import Following, Reads
from lantern.web.presence import Present, told
from lantern.web.sockets import Sockets
from lantern.web.watching import Watching

QUIET = 2.0
"""Seconds after which whoever follows the notices may look whether its client is still there."""

log = structlog.get_logger()
INSIDE = ("signed out", "stop")
"""What notices are about that are of no concern to people's pages."""


class Hub:
    """Hands the database's notices to all streams of this process."""

    def __init__(self, database: Database, reads: Reads) -> None:
        self._url = database.url
        self._streams: set[Watching] = set()
        self.following = Following(database, reads, self._tell_of)
        self.present = Present()
        self._lock = threading.Lock()
        self._started = False
        self.sockets = Sockets()
        self.listening = threading.Event()

    def start(self) -> None:
        """Follow the notices from now on, unless that was begun."""
        with self._lock:
            if not self._started:
                self._started = True
                self.following.start()
                threading.Thread(target=self._listen, name="hub", daemon=True).start()

    def notices(self, watching: Watching | None = None) -> Iterator[str | None]:
        """Yield notices (JSON) for as long as someone asks; None when none came for a while.

        Who else is where is told only to those who watch the same test.
        """
        mine = watching or Watching()
        self.start()
        with self._lock:
            self._streams.add(mine)
        try:
            while True:
                yield mine.next(QUIET)
        finally:
            with self._lock:
                self._streams.discard(mine)

    def _listen(self) -> None:
        for notice in notices(self._url, threading.Event()):
            self.listening.set()
            if notice is None:
                continue
            try:
                self._hand_out(notice)
            except Exception:
                log.exception("notice_not_understood")  # those that follow are handed out

    def _hand_out(self, notice: str) -> None:
        self.sockets.hear(notice)
        said = told(notice)
        if said["about"] in INSIDE:
            return
        if said["about"] == "presence":
            self.present.hear(said, notice)
            self._put(notice, lambda one: one.test == said.get("id"))
        elif said["about"] == "run" and "casts" in said:
            run = int(said.get("id", 0))
            if self._followed(run):
                self.following.changed(run, said["casts"], said.get("results", []))
            if not said.get("small"):
                self._put(notice, lambda one: run not in one.runs)
        else:
            self._put(notice, lambda _: True)

    def _followed(self, run: int) -> bool:
        with self._lock:
            return any(run in one.runs for one in self._streams)

    def _tell_of(self, run: int, notice: str) -> None:
        self._put(notice, lambda one: run in one.runs)

    def _put(self, notice: str, wanted: Callable[[Watching], bool]) -> None:
        with self._lock:
            for watching in self._streams:
                if wanted(watching):
                    watching.put(notice)
