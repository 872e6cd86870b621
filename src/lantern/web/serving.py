"""The worker that serves people: a request takes one of its threads only when it has come.

Threads are few, and whoever sends half a request would hold one for as long as they like. Here
the loop that accepts connections looks into what has come of a request, without taking it, until
its head is whole, and a small body with it.
"""

from __future__ import annotations

import re
import selectors
import socket
import struct
import time
from functools import partial
from typing import Any

from gunicorn.workers.gthread import TConn, ThreadWorker

WHOLE = 16 * 1024
"""Bytes of a body that is waited for; what is larger is read while a thread waits."""
LARGEST_HEAD = 64 * 1024
PATIENCE = 10.0
"""Seconds that a request may take to come."""
STALLED = 30
"""Seconds after which a thread waits no longer for the rest of a large body."""
MOST_WAITING = 400
"""Requests at once that have not come whole; of more the oldest are sent away."""
LOOK = 0.02
"""Seconds between two looks at requests of which a part has come."""
_LENGTH = re.compile(rb"\r\ncontent-length:\s*(\d+)", re.IGNORECASE)


def is_whole(data: bytes) -> bool:
    """Tell whether what has come of a request is enough to begin with it."""
    head, end, body = data.partition(b"\r\n\r\n")
    if not end:
        return len(data) >= LARGEST_HEAD
    found = _LENGTH.search(head)
    return len(body) >= min(int(found[1]) if found else 0, WHOLE)


class Worker(ThreadWorker):  # type: ignore[misc]
    """Gunicorn's worker with threads, which waits for requests without them."""

    def __init__(self, *given: Any, **more: Any) -> None:  # noqa: ANN401 - gunicorn's own
        super().__init__(*given, **more)
        self._waiting: dict[TConn, float] = {}
        self._partly: set[TConn] = set()

    def enqueue_req(self, conn: TConn) -> None:
        """Give a connection to a thread when its request is there, else wait for it."""
        if self._is_there(conn):
            self._begin(conn)
            return
        self._waiting[conn] = time.monotonic() + PATIENCE
        self._wait(conn)
        while len(self._waiting) > MOST_WAITING:
            self._send_away(next(iter(self._waiting)))

    def _begin(self, conn: TConn) -> None:
        # A blocking read of the rest ends after a while; the loop itself never blocks.
        limit = struct.pack("ll", STALLED, 0)
        conn.sock.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, limit)
        conn.data_ready = True
        super().enqueue_req(conn)

    def _is_there(self, conn: TConn) -> bool:
        if conn.parser is not None and conn.parser.unreader.buf.getvalue():
            return True  # read ahead with the request before
        try:
            data = conn.sock.recv(LARGEST_HEAD + WHOLE, socket.MSG_PEEK | socket.MSG_DONTWAIT)
        except BlockingIOError:
            self._partly.discard(conn)
            return False
        except OSError:
            return True  # gone: whoever handles it finds out
        if data and not is_whole(data):
            self._partly.add(conn)
            return False
        return True

    def _wait(self, conn: TConn) -> None:
        """Hear of the first bytes from the poller; of what has come in part it would not stop."""
        if conn not in self._partly:
            self.poller.register(conn.sock, selectors.EVENT_READ, partial(self._readable, conn))

    def _readable(self, conn: TConn, client: socket.socket) -> None:
        self.poller.unregister(client)
        self._look(conn)

    def _look(self, conn: TConn) -> None:
        if self._is_there(conn):
            del self._waiting[conn]
            self._partly.discard(conn)
            self._begin(conn)
        elif conn not in self._partly:
            self._wait(conn)

    def _send_away(self, conn: TConn) -> None:
        del self._waiting[conn]
        if conn in self._partly:
            self._partly.discard(conn)
        else:
            self.poller.unregister(conn.sock)
        self.nr_conns -= 1
        conn.close()

    def wait_for_and_dispatch_events(self, timeout: float) -> None:
        """Serve the loop once; requests of which a part has come are looked at as well."""
        super().wait_for_and_dispatch_events(LOOK if self._partly else timeout)
        for conn in list(self._partly):
            self._look(conn)
        now = time.monotonic()
        for conn in [one for one, until in self._waiting.items() if until < now]:
            self._send_away(conn)
