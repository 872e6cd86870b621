"""Live connections that are open: how many, whose, and ending them."""

from __future__ import annotations

import json
import threading
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager, suppress

from simple_websocket import ConnectionClosed, Server

from lantern.core.problems import Problem

MOST = 64
"""Connections at once; each takes one of the threads that answer requests, which are more."""
MOST_OF_ONE = 24
"""Connections at once of one account."""


class TooManySockets(Problem):
    """An account, or everybody together, has too many live connections open."""

    code = "too_many"


class Sockets:
    """The live connections of this process."""

    def __init__(self) -> None:
        self._open: dict[Server, tuple[int, str]] = {}
        self._lock = threading.Lock()

    @contextmanager
    def counted(self, socket: Server, account: int, mark: str) -> Iterator[None]:
        """Count a connection of an account's sign-in while it lasts; raises TooManySockets."""
        with self._lock:
            of_one = Counter(owner for owner, _ in self._open.values())[account]
            if of_one >= MOST_OF_ONE or len(self._open) >= MOST:
                raise TooManySockets(
                    "Too many pages of Lantern are open.", hint="Close some of them, then reload."
                )
            self._open[socket] = account, mark
        try:
            yield
        finally:
            with self._lock:
                self._open.pop(socket, None)

    def hear(self, notice: str) -> None:
        """Take note of a notice of the database: connections of ended sign-ins are closed."""
        told = json.loads(notice)
        if told["about"] != "signed out":
            return
        with self._lock:
            ended = [one for one, (_, mark) in self._open.items() if mark in told["sign_ins"]]
        for socket in ended:
            with suppress(ConnectionClosed, OSError):
                socket.close(4401, "signed out")
