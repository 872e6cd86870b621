"""Following the database's notices, whatever happens to the connection."""

from __future__ import annotations

import threading
from collections.abc import Iterator

import psycopg
import structlog

from lantern.store.database import CHANNEL

log = structlog.get_logger()
RECONNECTED = '{"about": "reconnected"}'
"""Comes first after each time of not listening: whoever follows looks for what it missed."""
LOOK = 1.0
"""Seconds after which it is looked whether to go on."""
AGAIN = 1.0
"""Seconds between two attempts to connect."""


def notices(url: str, stopped: threading.Event) -> Iterator[str | None]:
    """Yield notices (JSON) until `stopped`; None when none came for a while."""
    while not stopped.is_set():
        try:
            with psycopg.connect(url, autocommit=True, connect_timeout=5) as connection:
                connection.execute(f"LISTEN {CHANNEL}")
                yield RECONNECTED
                while not stopped.is_set():
                    for notice in connection.notifies(timeout=LOOK):
                        yield notice.payload
                    yield None
        except psycopg.Error as error:
            log.warning("channel_lost_database", error=type(error).__name__)
            stopped.wait(AGAIN)
