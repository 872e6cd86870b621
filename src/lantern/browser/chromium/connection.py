"""A connection to a browser over the Chrome DevTools Protocol, with flattened sessions.

Format: https://chromedevtools.github.io/devtools-protocol/ — JSON messages with `id`, `method`,
`params` and `sessionId`, each ended by a NUL on a pipe. One thread reads; callers wait for their
answers.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from concurrent.futures import Future

import structlog

from lantern.browser.errors import BrowserGone, CommandFailed
from lantern.browser.waiting import Message, Waiting, answer
from lantern.core.storable import read_json

log = structlog.get_logger()
Handler = Callable[[Message], None]
PIECE = 1 << 20
"""Bytes that are read at once at most."""


class Connection(Waiting):
    """The connection to one browser process, over the ends of a pipe that somebody else owns."""

    def __init__(self, reads: int, writes: int) -> None:
        super().__init__()
        self._reads, self._writes = reads, writes
        self._writing = threading.Lock()
        self._handlers: dict[str, Handler] = {}
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
        self.fail(session, BrowserGone("The window was closed."))

    def post(
        self, method: str, params: Message | None = None, session: str = ""
    ) -> Future[Message]:
        """Send a command without waiting; returns the future answer. Raises BrowserGone."""
        message: Message = {"method": method, "params": params or {}}
        if session:
            message["sessionId"] = session
        return self._post(message, session)

    def call(
        self, method: str, params: Message | None = None, session: str = "", timeout: float = 30.0
    ) -> Message:
        """Send a command and wait for its answer; raises what `answer` raises."""
        return answer(self.post(method, params, session), method, timeout)

    def _send(self, data: str) -> None:
        with self._writing:
            left = memoryview(data.encode() + b"\0")
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

    def _take(self, message: Message) -> None:
        if "id" in message:
            refused = message.get("error")
            failed = CommandFailed(refused.get("message", "refused")) if refused else None
            self._answered(message["id"], failed or message.get("result", {}))
            return
        handler = self._handlers.get(message.get("sessionId", ""))
        if handler:
            try:
                handler(message)
            except Exception:
                log.exception("cdp_event_failed", method=message.get("method"))
