"""What Firefox tells of a window's network and console, in the words of all engines."""

from __future__ import annotations

from typing import Any

from lantern.browser.traffic import Traffic

Params = dict[str, Any]
BROKEN_OFF = ("NS_BINDING_ABORTED", "NS_ERROR_ABORT", "NS_BINDING_RETARGETED")
"""Errors of requests that the page or the browser itself gave up."""


def tell(traffic: Traffic, method: str, params: Params, *, own: bool) -> None:
    """Tell `traffic` of an event; `own` says that it is about the window's own frame."""
    if method == "log.entryAdded":
        if params["level"] == "error":
            traffic.complained(params.get("text") or "")
        return
    request = params["request"]
    if method == "network.beforeRequestSent":
        waits = not _listens(request)
        traffic.requested(request["request"], request["method"], request["url"], waits=waits)
    elif method == "network.responseStarted":
        document = own and params.get("navigation") is not None
        traffic.response(int(params["response"]["status"]), request["url"], document=document)
    elif method == "network.responseCompleted":
        traffic.done(request["request"])
    elif method == "network.fetchError":
        why = params.get("errorText", "")
        traffic.failed(request["request"], "" if why in BROKEN_OFF else f"{why} ({request['url']})")


def _listens(request: Params) -> bool:
    """Tell whether a request only opens a way to listen, so that nobody waits for its answer."""
    if request["url"].startswith(("ws:", "wss:")) or request.get("initiatorType") == "beacon":
        return True
    return any(
        header["name"].lower() == "accept"
        and header["value"].get("value", "").startswith("text/event-stream")
        for header in request.get("headers", ())
    )
