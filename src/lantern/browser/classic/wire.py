"""Commands of WebDriver over HTTP: one at a time, with what went wrong in the words of the seam."""

from __future__ import annotations

import base64
import http.client
import json
import socket
import threading
import time
from collections.abc import Mapping
from contextlib import suppress
from typing import Any
from urllib.parse import urlsplit

from lantern.browser.errors import (
    BrowserGone,
    CommandFailed,
    DialogOpen,
    LineLost,
    NoAnswer,
    OutOfReach,
)
from lantern.core.storable import read_json

ELEMENT = "element-6066-11e4-a52e-4f735466cecf"
SHADOW = "shadow-6066-11e4-a52e-4f735466cecf"
"""What references to elements and shadow roots are called (WebDriver, 12.2 and 12.5)."""
CONTENT = {"Content-Type": "application/json; charset=utf-8"}
IDLE = 3.0
"""Seconds after which a connection is not relied upon any more."""
LARGEST = 100 * 1024 * 1024


class Wire:
    """A way to a driver; `turn` is held by who needs several commands in a row."""

    def __init__(self, address: str, user: str = "", password: str = "") -> None:
        where = urlsplit(address)
        self._kind: Any = (
            http.client.HTTPSConnection if where.scheme == "https" else http.client.HTTPConnection
        )
        self._host, self._port = where.hostname or "", where.port
        self._base = where.path.rstrip("/")
        self.headers: dict[str, str] = {}
        if user or password:
            said = base64.b64encode(f"{user}:{password}".encode()).decode()
            self.headers["Authorization"] = f"Basic {said}"
        self._connection: http.client.HTTPConnection | None = None
        self._used = float("-inf")
        self.turn = threading.RLock()
        self.closed = threading.Event()

    def call(
        self, method: str, path: str, body: Mapping[str, Any] | None = None, timeout: float = 30.0
    ) -> Any:  # noqa: ANN401 - whatever the command returns
        """Carry out a command and return its value.

        Raises CommandFailed, DialogOpen, OutOfReach, NoAnswer after `timeout` seconds, BrowserGone.
        """
        with self.turn:
            if self.closed.is_set():
                raise BrowserGone("The browser has ended.")
            data = None if body is None else json.dumps(body).encode()
            try:
                status, raw = self._exchange(method, self._base + path, data, timeout)
            except TimeoutError as error:
                self._drop()  # what comes late is no answer to the next command
                raise NoAnswer(f"The browser did not answer within {timeout:g} s.") from error
            except (OSError, http.client.HTTPException) as error:
                self._drop()
                raise LineLost("The browser has ended.") from error
        try:
            value = read_json(raw)["value"]
        except (ValueError, KeyError, TypeError) as error:
            raise CommandFailed(f"The driver gave no answer that is one ({status}).") from error
        if status != http.client.OK:
            raise _error(value)
        return value

    def _exchange(
        self, method: str, path: str, data: bytes | None, timeout: float
    ) -> tuple[int, str]:
        if time.monotonic() - self._used > IDLE:
            self._drop()  # whoever is in between may have closed it meanwhile
        fresh = self._connection is None
        connection = self._connection or self._kind(self._host, self._port, timeout=timeout)
        self._connection = connection
        if connection.sock is not None:
            connection.sock.settimeout(timeout)
        connection.timeout = timeout
        try:
            connection.request(method, path, data, self.headers | CONTENT)
            answer = connection.getresponse()
        except (http.client.BadStatusLine, BrokenPipeError, ConnectionResetError):
            # It may have been closed between two commands, or after this one was carried out: what
            # does something is not done twice.
            if fresh or self.closed.is_set() or method != "GET":
                raise
            self._drop()
            return self._exchange(method, path, data, timeout)
        content = answer.read(LARGEST).decode("utf-8", errors="replace")
        self._used = time.monotonic()
        return answer.status, content

    def _drop(self) -> None:
        if self._connection is not None:
            self._connection.close()
            self._connection = None

    def cut(self) -> None:
        """End the way, also under who waits for an answer."""
        self.closed.set()
        connection = self._connection
        if connection is not None and connection.sock is not None:
            with suppress(OSError):
                connection.sock.shutdown(socket.SHUT_RDWR)


def _error(value: Any) -> Exception:  # noqa: ANN401 - the driver's own dictionary
    told = value if isinstance(value, dict) else {}
    code, message = str(told.get("error", "")), str(told.get("message", ""))
    if code == "unexpected alert open":
        return DialogOpen(str((told.get("data") or {}).get("text") or message))
    if code == "move target out of bounds":
        return OutOfReach("That lies outside of the window.")
    if code in ("script timeout", "timeout"):
        return NoAnswer(message or "The page did not answer in time.")
    if code == "invalid session id":
        return BrowserGone("The browser has ended.")
    return CommandFailed(message.splitlines()[0] if message.strip() else code, code)
