"""What a window says on its network and in its console: requests, answers, complaints."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from time import monotonic

MOST_NOISE = 200
MOST_HABITS = 500
SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
"""Methods of requests that change nothing (RFC 9110, 9.2.1)."""
BY_ITSELF = 2.0
"""Seconds after a press from which on a request counts as one that the page sends by itself."""


@dataclass
class Noise:
    """What the page itself complained about: console errors and failed requests."""

    console: list[str] = field(default_factory=list)
    requests: list[str] = field(default_factory=list)

    def take(self) -> tuple[list[str], list[str]]:
        """Return what has come since the last call."""
        console, self.console = self.console, []
        requests, self.requests = self.requests, []
        return console, requests


def _note(notes: list[str], text: str) -> None:
    if len(notes) < MOST_NOISE:
        notes.append(text[:500])


class Traffic:
    """Follows the network and the console of one window (on the engine's reading thread).

    `status` is the HTTP status of the newest document, `under_way` the requests that wait for an
    answer, `telling` those of them that may change something at the server, `asked` whether the
    page has asked its server for something since the last press that it does not ask for by
    itself. `wake` is called when a request was answered.
    """

    def __init__(self, wake: Callable[[], None]) -> None:
        self._wake = wake
        self.noise = Noise()
        self.status = 0
        self.under_way: dict[str, tuple[str, str]] = {}
        self.telling: set[str] = set()
        self.asked = False
        self._pressed = monotonic()
        self._habits: set[tuple[str, str]] = set()

    def pressed(self) -> None:
        """Take note of a press: what is asked from now on may come of it."""
        self.asked = False
        self._pressed = monotonic()

    def requested(self, request: str, method: str, url: str, *, waits: bool) -> None:
        """Take note of a request by its id; one that only listens does not wait for an answer."""
        what = method, url.partition("?")[0]
        if monotonic() - self._pressed > BY_ITSELF:
            if len(self._habits) < MOST_HABITS:
                self._habits.add(what)
        elif what not in self._habits:
            self.asked = True
        if waits:
            self.under_way[request] = what
            if method.upper() not in SAFE:
                self.telling.add(request)

    def outstanding(self) -> list[str]:
        """Return what is waited for because of what was done, as "GET /path" with a host."""
        now = list(self.under_way.values())
        return [f"{way} {url[:200]}" for way, url in now if (way, url) not in self._habits]

    def told(self, way: str) -> None:
        """Take note that the page told its server something without waiting for an answer."""
        if monotonic() - self._pressed > BY_ITSELF:
            self._habits.add((way, ""))
        elif (way, "") not in self._habits:
            self.asked = True

    def response(self, status: int, url: str, *, document: bool) -> None:
        """Take note of how a request was answered; `document` is one for the window's own."""
        if document:
            self.status = status
        if status >= 400:
            _note(self.noise.requests, f"{status} {url}")

    def done(self, request: str) -> None:
        """Take note that a request is over."""
        self.under_way.pop(request, None)
        self.telling.discard(request)
        self._wake()

    def failed(self, request: str, why: str) -> None:
        """Take note that a request failed; `why` is "" for one that was broken off."""
        self.done(request)
        if why:
            _note(self.noise.requests, why)

    def complained(self, text: str) -> None:
        """Take note of an error that the page's console shows."""
        _note(self.noise.console, text)
