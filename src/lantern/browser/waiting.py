"""Commands that wait for their answers: what connections of all protocols have in common."""

from __future__ import annotations

import itertools
import json
import threading
from abc import ABC, abstractmethod
from collections.abc import Iterable
from concurrent.futures import Future
from concurrent.futures import TimeoutError as FutureTimeout
from typing import Any

from lantern.browser.errors import BrowserGone, NoAnswer

Message = dict[str, Any]


class Waiting(ABC):
    """The part of a connection to a browser that is the same in every protocol.

    Each command belongs to an `owner`, so that all that wait for the same thing can be told that
    it went away. A protocol's reading thread calls `_answered` and, at the end, `_end`.
    """

    def __init__(self) -> None:
        self._ids = itertools.count(1)
        self._waiting: dict[int, tuple[str, Future[Message]]] = {}
        self._lock = threading.Lock()
        self.closed = threading.Event()

    @abstractmethod
    def _send(self, data: str) -> None:
        """Send a message; raises OSError when nobody is there any more."""

    def _post(self, message: Message, owner: str) -> Future[Message]:
        """Send a command, numbered; returns the future answer. Raises BrowserGone."""
        number, future = next(self._ids), Future[Message]()
        with self._lock:
            if self.closed.is_set():
                raise BrowserGone("The browser has ended.")
            self._waiting[number] = owner, future
        try:
            self._send(json.dumps({"id": number, **message}))
        except OSError as error:
            raise BrowserGone("The browser has ended.") from error
        return future

    def fail(self, owner: str, error: Exception) -> None:
        """Let everyone who waits for an answer about `owner` see `error` instead."""
        with self._lock:
            hit = [number for number, (about, _) in self._waiting.items() if about == owner]
            futures = [self._waiting.pop(number)[1] for number in hit]
        _fail(futures, error)

    def _answered(self, number: int, result: Message | Exception) -> None:
        """Hand an answer, or why there is none, to who waits for it."""
        with self._lock:
            _, future = self._waiting.pop(number, ("", None))
        if future is None:
            return
        if isinstance(result, Exception):
            future.set_exception(result)
        else:
            future.set_result(result)

    def _end(self) -> None:
        """Take note that the browser is gone, with all that was asked of it."""
        with self._lock:
            self.closed.set()
            futures = [future for _, future in self._waiting.values()]
            self._waiting.clear()
        _fail(futures, BrowserGone("The browser has ended."))


def _fail(futures: Iterable[Future[Message]], error: Exception) -> None:
    for future in futures:
        future.set_exception(error)


def answer(future: Future[Message], what: str, timeout: float) -> Message:
    """Wait up to `timeout` seconds for an answer.

    Raises CommandFailed, NoAnswer after that time, BrowserGone, or what `Waiting.fail` gave.
    """
    try:
        return future.result(timeout)
    except FutureTimeout as error:
        raise NoAnswer(f"The browser did not answer {what} within {timeout:g} s.") from error
