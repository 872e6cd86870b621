"""The frames of a Firefox window, and the scripts that are carried out in them."""

from __future__ import annotations

import json
from collections.abc import Sequence
from concurrent.futures import Future
from contextlib import suppress
from typing import Any

from lantern.browser.base_window import WORLD, BaseWindow
from lantern.browser.errors import BrowserError, CommandFailed, NoAnswer
from lantern.browser.firefox.connection import Connection
from lantern.browser.waiting import answer
from lantern.core.engine.browsers import Browser
from lantern.core.engine.requests import Ran
from lantern.core.storable import read_json

Params = dict[str, Any]
CORNER = """(frame) => { const box = frame.getBoundingClientRect(), style = getComputedStyle(frame)
  return JSON.stringify([box.x + frame.clientLeft + parseFloat(style.paddingLeft),
    box.y + frame.clientTop + parseFloat(style.paddingTop)]) }"""
INNER = "document.elementFromPoint({x}, {y})?.contentWindow ?? null"
WINDOW = "window "
"""What begins the owner of commands that wait whatever document the window shows."""
MOST_DEEP = 20
"""Frames in frames that are gone into."""


class FramesWindow(BaseWindow):
    """A window as far as its frames and the scripts in them go."""

    def __init__(self, connection: Connection, target: str, held_for: Browser) -> None:
        super().__init__(target, held_for)
        self.connection = connection
        self.main_frame = target
        self.parents: dict[str, str] = {target: ""}
        """The frames of the window, each with the one it is in."""
        self._worlds: set[str] = set()
        self._held_by: dict[str, str] = {}
        """Names of what holds frames, "" for none; asked for when they are needed."""

    # -- commands ------------------------------------------------------------------------------

    def post(self, method: str, frame: str = "", **params: object) -> Future[Params]:
        """Send a command about a frame without waiting; it outlives the frame's document."""
        about = {"context": frame or self.target, **params}
        return self.connection.post(method, about, WINDOW + self.target)

    def call(self, method: str, timeout: float = 30.0, frame: str = "", **params: object) -> Params:
        """Send a command about a frame and wait for the answer."""
        return answer(self.post(method, frame, **params), method, timeout)

    def _script(
        self, method: str, timeout: float, frame: str, world: str = WORLD, **params: object
    ) -> Params:
        """Carry out a script command and return its result; raises CommandFailed for one thrown."""
        frame = frame or self.target
        target = {"context": frame, **({"sandbox": world} if world else {})}
        asked = self.connection.post(
            f"script.{method}", {"target": target, "awaitPromise": True, **params}, frame
        )
        told = answer(asked, method, timeout)
        if told["type"] == "exception":
            raise CommandFailed(f"The probe failed: {told['exceptionDetails']['text'][:300]}")
        result: Params = told["result"]
        return result

    def ask_probe(self, frame: str, expression: str, timeout: float) -> str | None:
        """Return the text that an expression comes to in the probe's world of a frame."""
        if frame not in self._worlds:
            raise CommandFailed("The frame is not there.")
        text: str | None = self._script("evaluate", timeout, frame, expression=expression).get(
            "value"
        )
        return text

    def frames(self) -> list[str]:
        """Return the ids of all frames that the probe is in, the main one first."""
        order = {frame: place for place, frame in enumerate(list(self.parents))}
        return sorted(self._worlds, key=lambda frame: order.get(frame, len(order)))

    def frame_path(self, frame: str) -> tuple[str, ...]:
        """Return the names of the frames that lead to a frame, outermost first; () for the page.

        A frame is named by the name or id of what holds it, which only that document can tell.
        """
        at = frame
        while at and (parent := self.parents.get(at, "")):
            if at not in self._held_by:
                with suppress(BrowserError):  # it is going: the path of its address will do
                    told = self._holder(at, parent)["value"]["attributes"]
                    self._held_by[at] = name = told.get("name") or told.get("id") or ""
                    if name:
                        self.know_frame(at, parent, name, "")
            at = parent
        return super().frame_path(frame)

    def _holder(self, frame: str, parent: str) -> Params:
        """Return the node of the document around a frame that holds it."""
        where = {"type": "context", "value": {"context": frame}}
        nodes = self.call("browsingContext.locateNodes", frame=parent, locator=where)["nodes"]
        if not nodes:
            raise CommandFailed("The frame is not there.")
        node: Params = nodes[0]
        return node

    def frame_offset(self, frame: str) -> tuple[float, float]:
        """Return where a frame's own corner is in the window, in CSS pixels."""
        x = y = 0.0
        while frame and (parent := self.parents.get(frame, "")):
            node = {"sharedId": self._holder(frame, parent)["sharedId"]}
            corner = self._script(
                "callFunction", 15.0, parent, functionDeclaration=CORNER, arguments=[node]
            )
            dx, dy = read_json(corner["value"])
            x, y, frame = x + dx, y + dy, parent
        return x, y

    def frame_at(self, x: float, y: float) -> str:
        """Return the innermost frame at a point; raises CommandFailed where there is nothing."""
        frame = self.target
        for _ in range(MOST_DEEP):
            dx, dy = self.frame_offset(frame)
            at = INNER.format(x=x - dx, y=y - dy)
            inner = self._script("evaluate", 5.0, frame, expression=at)
            if inner["type"] != "window":
                break
            frame = str(inner["value"]["context"])
        return frame

    def look_into(self, handles: Sequence[int], frame: str = "") -> int:
        """Hand closed shadow roots of nodes over to the probe; returns how many there were."""
        found = 0
        for handle in handles:
            told = self._script(
                "evaluate",
                15.0,
                frame,
                expression=f"lantern.node({int(handle)})",
                serializationOptions={"includeShadowTree": "all", "maxDomDepth": 0},
            )
            root = (told.get("value") or {}).get("shadowRoot") if told["type"] == "node" else None
            if root and root["value"]["mode"] == "closed":
                nodes = [{"sharedId": told["sharedId"]}, {"sharedId": root["sharedId"]}]
                adopt = "(host, root) => lantern.adopt(host, root)"
                self._script(
                    "callFunction", 15.0, frame, functionDeclaration=adopt, arguments=nodes
                )
                found += 1
        return found

    def listens_to_press(self, press: int, frame: str = "") -> bool:
        """Tell that it is not known whether a script listens: Firefox does not say."""
        return True

    def run_script(self, script: str, limit: float) -> Ran:
        """Run the body of an async function among the page's own scripts; gives `value`."""
        asked = self.connection.post(
            "script.evaluate",
            {
                "expression": f"(async () => {{ {script}\n}})()"
                ".then((value) => JSON.stringify([value ?? '']))",
                "target": {"context": self.target},
                "awaitPromise": True,
                "userActivation": True,
            },
            self.target,
        )
        try:
            told = answer(asked, "a script", limit)
        except NoAnswer:
            return Ran(error=f"It was not done after {limit:g} s.")
        except CommandFailed as error:
            return Ran(error=str(error))
        if told["type"] == "exception":
            details = told["exceptionDetails"]
            frames = details.get("stackTrace", {}).get("callFrames") or [details]
            said = details["text"].splitlines()[0]
            return Ran(error=said, line=int(frames[0].get("lineNumber", 0)))
        [value] = read_json(told["result"]["value"])
        text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
        return Ran({"value": text})

    # -- events (on the reading thread) ----------------------------------------------------------

    def _replaced(self, frame: str) -> None:
        """Take note of a new document in a frame: what was asked of the old one has no answer."""
        self._worlds.add(frame)
        self.connection.fail(frame, CommandFailed("The document was replaced."))
        if frame == self.target:
            self.traffic.under_way.clear()
            self.traffic.telling.clear()
        self._wake()

    def frame_gone(self, frame: str) -> None:
        """Take note that a frame went away."""
        self._worlds.discard(frame)
        self.parents.pop(frame, None)
        self._held_by.pop(frame, None)
        self.connection.fail(frame, CommandFailed("The frame went away."))
