"""A connection to a browser over the Chrome DevTools Protocol, with flattened sessions.

Format: https://chromedevtools.github.io/devtools-protocol/ — JSON messages with `id`, `method`,
`params` and `sessionId`, each ended by a NUL on a pipe. One thread reads; callers wait for their
answers.
"""

from __future__ import annotations

import itertools
import json
import os
import threading
from collections.abc import Callable
from concurrent.futures import Future
from concurrent.futures import TimeoutError as FutureTimeout
from typing import Any

import structlog

from lantern.browser.errors import BrowserGone, CommandFailed, NoAnswer
from lantern.core.storable import read_json

log = structlog.get_logger()
Handler = Callable[[dict[str, Any]], None]
PIECE = 1 << 20
"""Bytes that are read at once at most."""


class Connection:
    """The connection to one browser process, over the ends of a pipe that somebody else owns."""

    def __init__(self, reads: int, writes: int) -> None:
        self._reads, self._writes = reads, writes
        self._writing = threading.Lock()
        self._ids = itertools.count(1)
        self._waiting: dict[int, tuple[str, Future[dict[str, Any]]]] = {}
        self._handlers: dict[str, Handler] = {}
        self._lock = threading.Lock()
        self.closed = threading.Event()
        self._reader = threading.Thread(target=self._read, name="cdp-reader", daemon=True)
        self._reader.start()

    def listen(self, session: str, handler: Handler) -> None:
        """Send the events of a session ("" for the browser's own) to `handler`.

        The handler runs on the reading thread: it must not wait for answers.
        """
        self._handlers[session] = handler

    def forget(self, session: str) -> None:
        """Stop sending events of a session; who still waits for its answers gets BrowserGone."""
        self._handlers.pop(session, None)
        self.fail_session(session, BrowserGone("The window was closed."))

    def post(
        self, method: str, params: dict[str, Any] | None = None, session: str = ""
    ) -> Future[dict[str, Any]]:
        """Send a command without waiting; returns the future answer. Raises BrowserGone."""
        number = next(self._ids)
        future: Future[dict[str, Any]] = Future()
        message: dict[str, Any] = {"id": number, "method": method, "params": params or {}}
        if session:
            message["sessionId"] = session
        with self._lock:
            if self.closed.is_set():
                raise BrowserGone("The browser has ended.")
            self._waiting[number] = session, future
        try:
            self._send(json.dumps(message).encode() + b"\0")
        except OSError as error:
            raise BrowserGone("The browser has ended.") from error
        return future

    def call(
        self,
        method: str,
        params: dict[str, Any] | None = None,
        session: str = "",
        timeout: float = 30.0,
    ) -> dict[str, Any]:
        """Send a command and wait for its answer.

        Raises CommandFailed, NoAnswer after `timeout` seconds, or BrowserGone.
        """
        return answer(self.post(method, params, session), method, timeout)

    def fail_session(self, session: str, error: Exception) -> None:
        """Let everyone who waits for an answer of the session see `error` instead."""
        with self._lock:
            hit = [number for number, (owner, _) in self._waiting.items() if owner == session]
            futures = [self._waiting.pop(number)[1] for number in hit]
        for future in futures:
            future.set_exception(error)

    def _send(self, data: bytes) -> None:
        with self._writing:
            left = memoryview(data)
            while left:
                left = left[os.write(self._writes, left) :]

    def _read(self) -> None:
        rest = bytearray()
        try:
            while piece := os.read(self._reads, PIECE):
                seen = len(rest)
                rest += piece
                while (end := rest.find(b"\0", seen)) >= 0:
                    self._take(read_json(bytes(rest[:end])))
                    del rest[: end + 1]
                    seen = 0
        except OSError:
            pass
        finally:
            self._end()

    def _take(self, message: dict[str, Any]) -> None:
        if "id" in message:
            with self._lock:
                _, future = self._waiting.pop(message["id"], ("", None))
            if future is None:
                return
            if "error" in message:
                future.set_exception(CommandFailed(message["error"].get("message", "refused")))
            else:
                future.set_result(message.get("result", {}))
            return
        handler = self._handlers.get(message.get("sessionId", ""))
        if handler:
            try:
                handler(message)
            except Exception:
                log.exception("cdp_event_failed", method=message.get("method"))

    def _end(self) -> None:
        with self._lock:
            self.closed.set()
            futures = [future for _, future in self._waiting.values()]
            self._waiting.clear()
        for future in futures:
            future.set_exception(BrowserGone("The browser has ended."))


def answer(future: Future[dict[str, Any]], what: str, timeout: float) -> dict[str, Any]:
    """Wait up to `timeout` seconds for an answer; raises what `Connection.call` raises."""
    try:
        return future.result(timeout)
    except FutureTimeout as error:
        raise NoAnswer(f"The browser did not answer {what} within {timeout:g} s.") from error
