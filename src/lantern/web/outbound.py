"""Asking other programs something over HTTP: with a limit, and never led elsewhere."""

from __future__ import annotations

import http.client
import socket
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from threading import Timer
from urllib.parse import urlsplit

LIMIT = 10.0
"""Seconds that another program has in all, however slowly it answers."""
LARGEST = 1024 * 1024
TAKEN = range(200, 300)


class Unanswered(Exception):
    """Another program did not answer; says what happened instead."""


@dataclass(frozen=True)
class Answer:
    """What another program answered: at most so much of its body as is asked for."""

    status: int
    reason: str
    body: bytes

    @property
    def taken(self) -> bool:
        """Whether it says that all is well."""
        return self.status in TAKEN


def ask(
    method: str, address: str, body: bytes | None, headers: Mapping[str, str], most: int = 0
) -> Answer:
    """Send a request; returns the answer with up to `most` bytes of its body. Raises Unanswered.

    It is not led elsewhere: what is sent is meant for that address alone.
    """
    try:
        where = urlsplit(address)
        kind = (
            http.client.HTTPSConnection if where.scheme == "https" else http.client.HTTPConnection
        )
        connection = kind(where.hostname or "", where.port, timeout=LIMIT)
    except (ValueError, http.client.HTTPException) as error:
        raise Unanswered(f"{type(error).__name__}: {error}") from error
    late = Timer(LIMIT, _break_off, (connection,))
    late.daemon = True
    late.start()
    try:
        path = where.path or "/"
        whole = f"{path}?{where.query}" if where.query else path
        connection.request(method, whole, body, {"User-Agent": "Lantern", **headers})
        answer = connection.getresponse()
        return Answer(answer.status, answer.reason, answer.read(most) if most else b"")
    except (OSError, http.client.HTTPException, ValueError) as error:
        raise Unanswered(f"{type(error).__name__}: {error}") from error
    finally:
        late.cancel()
        connection.close()


def _break_off(connection: http.client.HTTPConnection) -> None:
    """End a connection under who waits for it: each letter that comes prolongs its own limit."""
    with suppress(OSError, AttributeError):  # it is not open yet, or not any more
        connection.sock.shutdown(socket.SHUT_RDWR)
