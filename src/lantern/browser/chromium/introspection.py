"""What only the browser can tell of a page's nodes: closed shadow roots, and who listens."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from lantern.browser.errors import CommandFailed

if TYPE_CHECKING:
    from lantern.browser.chromium.window import ChromiumWindow

LISTENED = frozenset(
    "click dblclick mousedown mouseup pointerdown pointerup touchstart touchend keydown "
    "keyup submit reset change input focus focusin toggle".split()
)
"""Events by which a page takes part in a press."""
GROUP = "lantern-insides"


def look_into(page: ChromiumWindow, handles: Sequence[int], frame: str = "") -> int:
    """Hand closed shadow roots of nodes over to the probe; returns how many there were.

    Raises CommandFailed when the frame went away, and what `ChromiumWindow.call` raises.
    """
    world = page.world(frame)
    found = 0
    for handle in handles:
        host = _object(page, f"lantern.node({int(handle)})", world)
        if host is None:
            continue
        node = page.call("DOM.describeNode", objectId=host, depth=0, pierce=True)["node"]
        for root in node.get("shadowRoots") or ():
            if root["shadowRootType"] == "closed":
                _adopt(page, host, root["backendNodeId"], world)
                found += 1
    page.post("Runtime.releaseObjectGroup", objectGroup=GROUP)
    return found


def _adopt(page: ChromiumWindow, host: str, root: int, world: int) -> None:
    resolved = page.call(
        "DOM.resolveNode", backendNodeId=root, executionContextId=world, objectGroup=GROUP
    )
    page.call(
        "Runtime.callFunctionOn",
        functionDeclaration="function (host) { lantern.adopt(host, this) }",
        objectId=resolved["object"]["objectId"],
        arguments=[{"objectId": host}],
    )


def listens_to_press(page: ChromiumWindow, press: int, frame: str = "") -> bool:
    """Tell whether a script of the page listens to presses on what an act was done to.

    True as well when the act is not known any more. Raises what `ChromiumWindow.call` raises.
    """
    world = page.world(frame)
    listed = _object(page, f"lantern.pathOfPress({int(press)})", world)
    if listed is None:
        return True
    own = page.call("Runtime.getProperties", objectId=listed, ownProperties=True)["result"]
    try:
        for entry in own:
            node = entry.get("value", {}).get("objectId")
            if entry["name"].isdecimal() and node and _listens(page, node):
                return True
        return False
    finally:
        page.post("Runtime.releaseObjectGroup", objectGroup=GROUP)


def _listens(page: ChromiumWindow, node: str) -> bool:
    """Tell whether the page's own scripts listen at a node; the probe's world knows of none."""
    known = page.call("DOM.describeNode", objectId=node)["node"]["backendNodeId"]
    own = page.call("DOM.resolveNode", backendNodeId=known, objectGroup=GROUP)["object"]
    told = page.call("DOMDebugger.getEventListeners", objectId=own["objectId"])["listeners"]
    return any(one["type"] in LISTENED for one in told)


def _object(page: ChromiumWindow, expression: str, world: int) -> str | None:
    """Return a handle of what an expression gives in the probe's world; None for nothing."""
    answer: dict[str, Any] = page.call(
        "Runtime.evaluate", expression=expression, contextId=world, objectGroup=GROUP
    )
    if "exceptionDetails" in answer:
        raise CommandFailed("The probe does not answer.")
    found: str | None = answer["result"].get("objectId")
    return found
