"""What Chromium tells of a window's network and console, in the words of all engines."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from lantern.browser.traffic import Traffic

Params = dict[str, Any]
LISTENING = ("EventSource", "WebSocket", "Ping")
"""Kinds of requests whose answers nobody waits for."""


def traffic_handlers(
    traffic: Traffic, main_frame: Callable[[], str]
) -> dict[str, Callable[[Params], None]]:
    """Return what to call for the events that tell of traffic, by their names.

    `main_frame` tells which frame is the window's own.
    """

    def console(params: Params) -> None:
        if params["type"] in ("error", "assert"):
            words = [str(arg.get("value", arg.get("description", ""))) for arg in params["args"]]
            traffic.complained(" ".join(words))

    def thrown(params: Params) -> None:
        details = params["exceptionDetails"]
        said = details.get("exception", {}).get("description") or details.get("text", "")
        traffic.complained(said)

    def logged(params: Params) -> None:
        entry = params["entry"]
        if entry["level"] == "error" and entry["source"] != "network":
            traffic.complained(entry["text"])

    def requested(params: Params) -> None:
        request, waits = params["request"], params.get("type") not in LISTENING
        traffic.requested(params["requestId"], request["method"], request["url"], waits=waits)

    def response(params: Params) -> None:
        told = params["response"]
        own = params.get("type") == "Document" and params.get("frameId") == main_frame()
        traffic.response(int(told["status"]), told["url"], document=own)

    def failed(params: Params) -> None:
        why = "" if params.get("canceled") else f"{params['errorText']} ({params['type']})"
        traffic.failed(params["requestId"], why)

    return {
        "Runtime.consoleAPICalled": console,
        "Runtime.exceptionThrown": thrown,
        "Log.entryAdded": logged,
        "Network.requestWillBeSent": requested,
        "Network.responseReceived": response,
        "Network.loadingFinished": lambda params: traffic.done(params["requestId"]),
        "Network.loadingFailed": failed,
        "Network.webSocketFrameSent": lambda _: traffic.told("WebSocket"),
    }
