"""A connection to a browser over WebDriver BiDi.

Format: https://w3c.github.io/webdriver-bidi/ — JSON messages with `id`, `method` and `params` over
a WebSocket. One thread reads; callers wait for their answers.
"""

from __future__ import annotations

import itertools
import json
import threading
from collections.abc import Callable
from concurrent.futures import Future
from concurrent.futures import TimeoutError as FutureTimeout
from typing import Any

import structlog
from websockets.exceptions import WebSocketException
from websockets.sync.client import connect

from lantern.browser.errors import BrowserGone, CommandFailed, NoAnswer
from lantern.core.storable import read_json

log = structlog.get_logger()
OPEN_LIMIT = 10.0
Message = dict[str, Any]


class Connection:
    """The connection to one browser process; `handle` gets its events on the reading thread."""

    def __init__(self, address: str, handle: Callable[[str, Message], None]) -> None:
        """Connect to an address; raises BrowserGone when nobody is there."""
        self._handle = handle
        self._ids = itertools.count(1)
        self._waiting: dict[int, tuple[str, Future[Message]]] = {}
        self._lock = threading.Lock()
        self.closed = threading.Event()
        try:
            self._socket = connect(
                address, open_timeout=OPEN_LIMIT, max_size=None, compression=None, proxy=None
            )
        except (OSError, WebSocketException, TimeoutError) as error:
            raise BrowserGone("The browser takes no connection.") from error
        self._reader = threading.Thread(target=self._read, name="bidi-reader", daemon=True)
        self._reader.start()

    def post(self, method: str, params: Message | None = None, owner: str = "") -> Future[Message]:
        """Send a command without waiting; returns the future answer. Raises BrowserGone.

        `owner` is what the command is about, for `fail`.
        """
        number, future = next(self._ids), Future[Message]()
        message = {"id": number, "method": method, "params": params or {}}
        with self._lock:
            if self.closed.is_set():
                raise BrowserGone("The browser has ended.")
            self._waiting[number] = owner, future
        try:
            self._socket.send(json.dumps(message))
        except (OSError, WebSocketException) as error:
            raise BrowserGone("The browser has ended.") from error
        return future

    def call(
        self, method: str, params: Message | None = None, owner: str = "", timeout: float = 30.0
    ) -> Message:
        """Send a command and wait for its answer.

        Raises CommandFailed, NoAnswer after `timeout` seconds, BrowserGone, or what `fail` gave.
        """
        return answer(self.post(method, params, owner), method, timeout)

    def fail(self, owner: str, error: Exception) -> None:
        """Let everyone who waits for an answer about `owner` see `error` instead."""
        with self._lock:
            hit = [number for number, (about, _) in self._waiting.items() if about == owner]
            futures = [self._waiting.pop(number)[1] for number in hit]
        for future in futures:
            future.set_exception(error)

    def close(self) -> None:
        """Close the connection."""
        try:
            self._socket.close()
        except (OSError, WebSocketException):
            pass  # it was closed from the other side

    def _read(self) -> None:
        try:
            for text in self._socket:
                self._take(read_json(text))
        except (OSError, WebSocketException):
            pass
        finally:
            self._end()

    def _take(self, message: Message) -> None:
        if message.get("id") is not None:
            with self._lock:
                _, future = self._waiting.pop(message["id"], ("", None))
            if future is None:
                return
            if message["type"] == "error":
                future.set_exception(CommandFailed(message.get("message") or message["error"]))
            else:
                future.set_result(message["result"])
        elif message.get("type") == "event":
            try:
                self._handle(message["method"], message["params"])
            except Exception:
                log.exception("bidi_event_failed", method=message["method"])

    def _end(self) -> None:
        with self._lock:
            self.closed.set()
            futures = [future for _, future in self._waiting.values()]
            self._waiting.clear()
        for future in futures:
            future.set_exception(BrowserGone("The browser has ended."))


def answer(future: Future[Message], what: str, timeout: float) -> Message:
    """Wait up to `timeout` seconds for an answer; raises what `Connection.call` raises."""
    try:
        return future.result(timeout)
    except FutureTimeout as error:
        raise NoAnswer(f"The browser did not answer {what} within {timeout:g} s.") from error
