"""Telling browsers what changed: one LISTEN connection, a queue for each that watches."""

from __future__ import annotations

import queue
import threading
from collections.abc import Iterator

import psycopg
import structlog

from lantern.store.database import CHANNEL

log = structlog.get_logger()
PING = 5.0
"""Seconds between two signs of life on a stream of events."""


class Hub:
    """Hands the database's notices to all streams of this process."""

    def __init__(self, url: str) -> None:
        self._url = url
        self._streams: set[queue.Queue[str]] = set()
        self._lock = threading.Lock()
        self._started = False

    def stream(self) -> Iterator[str]:
        """Yield notices (JSON) as server-sent events until the client goes away."""
        mine: queue.Queue[str] = queue.Queue(1000)
        with self._lock:
            if not self._started:
                self._started = True
                threading.Thread(target=self._listen, name="hub", daemon=True).start()
            self._streams.add(mine)
        try:
            yield ": welcome\n\n"
            while True:
                try:
                    yield f"data: {mine.get(timeout=PING)}\n\n"
                except queue.Empty:
                    yield ": still here\n\n"
        finally:
            with self._lock:
                self._streams.discard(mine)

    def _listen(self) -> None:
        wait = threading.Event()
        while True:
            try:
                with psycopg.connect(self._url, autocommit=True) as connection:
                    connection.execute(f"LISTEN {CHANNEL}")
                    self._hand_out('{"about": "reconnected"}')
                    for notice in connection.notifies():
                        self._hand_out(notice.payload)
            except psycopg.Error:
                log.warning("hub_lost_database")
                wait.wait(2)

    def _hand_out(self, notice: str) -> None:
        with self._lock:
            for stream in self._streams:
                try:
                    stream.put_nowait(notice)
                except queue.Full:
                    pass  # that client is too slow; it reads everything again when it reconnects
