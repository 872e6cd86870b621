"""A connection to a browser over WebDriver BiDi.

Format: https://w3c.github.io/webdriver-bidi/ — JSON messages with `id`, `method` and `params` over
a WebSocket. One thread reads; callers wait for their answers.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import Future

import structlog
from websockets.exceptions import WebSocketException
from websockets.sync.client import connect

from lantern.browser.errors import BrowserGone, CommandFailed
from lantern.browser.waiting import Message, Waiting, answer
from lantern.core.storable import read_json

log = structlog.get_logger()
OPEN_LIMIT = 10.0


class Connection(Waiting):
    """The connection to one browser process; `handle` gets its events on the reading thread."""

    def __init__(self, address: str, handle: Callable[[str, Message], None]) -> None:
        """Connect to an address; raises BrowserGone when nobody is there."""
        super().__init__()
        self._handle = handle
        try:
            self._socket = connect(
                address, open_timeout=OPEN_LIMIT, max_size=None, compression=None, proxy=None
            )
        except (OSError, WebSocketException) as error:
            raise BrowserGone("The browser takes no connection.") from error
        self._reader = threading.Thread(target=self._read, name="bidi-reader", daemon=True)
        self._reader.start()

    def post(self, method: str, params: Message | None = None, owner: str = "") -> Future[Message]:
        """Send a command without waiting; returns the future answer. Raises BrowserGone.

        `owner` is what the command is about, for `fail`.
        """
        return self._post({"method": method, "params": params or {}}, owner)

    def call(
        self, method: str, params: Message | None = None, owner: str = "", timeout: float = 30.0
    ) -> Message:
        """Send a command and wait for its answer; raises what `answer` raises."""
        return answer(self.post(method, params, owner), method, timeout)

    def close(self) -> None:
        """Close the connection."""
        try:
            self._socket.close()
        except (OSError, WebSocketException):
            pass  # it was closed from the other side

    def _send(self, data: str) -> None:
        try:
            self._socket.send(data)
        except WebSocketException as error:
            raise OSError("The connection is closed.") from error

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
            refused = message["type"] == "error"
            code = message.get("error", "")
            failed = CommandFailed(message.get("message") or code, code) if refused else None
            self._answered(message["id"], failed or message["result"])
        elif message.get("type") == "event":
            try:
                self._handle(message["method"], message["params"])
            except Exception:
                log.exception("bidi_event_failed", method=message["method"])
