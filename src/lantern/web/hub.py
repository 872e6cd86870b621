"""Telling browsers what changed: one LISTEN connection, a queue for each that watches."""

from __future__ import annotations

import threading
from collections.abc import Iterator

import structlog

from lantern.store.channel import notices
from lantern.web.presence import Present, Watching, told
from lantern.web.sockets import Sockets

QUIET = 2.0
"""Seconds after which whoever follows the notices may look whether its client is still there."""

log = structlog.get_logger()
INSIDE = ("signed out", "stop")
"""What notices are about that are of no concern to people's pages."""


class Hub:
    """Hands the database's notices to all streams of this process."""

    def __init__(self, url: str) -> None:
        self._url = url
        self._streams: set[Watching] = set()
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
        test = None
        if said["about"] == "presence":
            self.present.hear(said, notice)
            test = said.get("id")
        with self._lock:
            for watching in self._streams:
                if test is None or watching.test == test:
                    watching.put(notice)
