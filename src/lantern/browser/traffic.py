"""What a window says on its network and in its console: requests, answers, complaints."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from time import monotonic
from typing import Any

MOST_NOISE = 200
MOST_HABITS = 500
BY_ITSELF = 2.0
"""Seconds after a press from which on a request counts as one that the page sends by itself."""
Handler = Callable[[dict[str, Any]], None]


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
    """Follows the network and the console of one window (on the connection's reading thread).

    `status` is the HTTP status of the newest document, `under_way` the requests that wait for an
    answer, `asked` whether the page has asked its server for something since the last press that
    it does not ask for by itself. `main_frame` tells which frame is the window's own; `wake` is
    called when a request was answered.
    """

    def __init__(self, main_frame: Callable[[], str], wake: Callable[[], None]) -> None:
        self._main_frame, self._wake = main_frame, wake
        self.noise = Noise()
        self.status = 0
        self.under_way: set[str] = set()
        self.asked = False
        self._pressed = monotonic()
        self._habits: set[tuple[str, str]] = set()
        self.handlers: dict[str, Handler] = {
            "Runtime.consoleAPICalled": self._console,
            "Runtime.exceptionThrown": self._thrown,
            "Log.entryAdded": self._logged,
            "Network.requestWillBeSent": self._requested,
            "Network.responseReceived": self._response,
            "Network.loadingFinished": self._loaded,
            "Network.loadingFailed": self._failed,
            "Network.webSocketFrameSent": lambda _: self._told("WebSocket"),
        }

    def pressed(self) -> None:
        """Take note of a press: what is asked from now on may come of it."""
        self.asked = False
        self._pressed = monotonic()

    def _console(self, params: dict[str, Any]) -> None:
        if params["type"] in ("error", "assert"):
            words = [str(arg.get("value", arg.get("description", ""))) for arg in params["args"]]
            _note(self.noise.console, " ".join(words))

    def _thrown(self, params: dict[str, Any]) -> None:
        details = params["exceptionDetails"]
        text = details.get("exception", {}).get("description") or details.get("text", "")
        _note(self.noise.console, text)

    def _logged(self, params: dict[str, Any]) -> None:
        entry = params["entry"]
        if entry["level"] == "error" and entry["source"] != "network":
            _note(self.noise.console, entry["text"])

    def _response(self, params: dict[str, Any]) -> None:
        response = params["response"]
        if params.get("type") == "Document" and params.get("frameId") == self._main_frame():
            self.status = int(response["status"])
        if response["status"] >= 400:
            _note(self.noise.requests, f"{response['status']} {response['url']}")

    def _requested(self, params: dict[str, Any]) -> None:
        request = params["request"]
        what = request["method"], request["url"].partition("?")[0]
        if monotonic() - self._pressed > BY_ITSELF:
            if len(self._habits) < MOST_HABITS:
                self._habits.add(what)
        elif what not in self._habits:
            self.asked = True
        if params.get("type") not in ("EventSource", "WebSocket", "Ping"):
            self.under_way.add(params["requestId"])

    def _told(self, way: str) -> None:
        """Take note that the page told its server something without waiting for an answer."""
        if monotonic() - self._pressed > BY_ITSELF:
            self._habits.add((way, ""))
        elif (way, "") not in self._habits:
            self.asked = True

    def _loaded(self, params: dict[str, Any]) -> None:
        self.under_way.discard(params["requestId"])
        self._wake()

    def _failed(self, params: dict[str, Any]) -> None:
        self._loaded(params)
        if not params.get("canceled"):
            _note(self.noise.requests, f"{params['errorText']} ({params['type']})")
