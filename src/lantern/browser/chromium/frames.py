"""The probe's worlds in the frames of a Chromium window."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from lantern.browser.base_window import WORLD
from lantern.browser.errors import CommandFailed


class Worlds:
    """Which world is the probe's in which frame, told by events on the reading thread."""

    def __init__(self, wake: Callable[[], None]) -> None:
        self._wake = wake
        self._worlds: dict[str, int] = {}
        self._frames: dict[int, str] = {}
        self.handlers: dict[str, Callable[[dict[str, Any]], None]] = {
            "Runtime.executionContextCreated": self._made,
            "Runtime.executionContextDestroyed": self._gone,
            "Runtime.executionContextsCleared": self._clear,
        }

    def frame_of(self, world: int) -> str:
        """Return the frame that a world is in, "" when it is not known."""
        return self._frames.get(world, "")

    def of(self, frame: str) -> int:
        """Return the number of the probe's world in a frame; raises CommandFailed without one."""
        world = self._worlds.get(frame)
        if world is None:
            raise CommandFailed("The frame is not there.")
        return world

    def frames(self, main: str) -> list[str]:
        """Return the ids of all frames that the probe is in, `main` first."""
        # `sorted` copies first, at once: events change the worlds on another thread.
        return sorted(self._worlds, key=lambda frame: frame != main)

    def _made(self, params: dict[str, Any]) -> None:
        context = params["context"]
        if context["name"] == WORLD:
            frame = context["auxData"]["frameId"]
            self._worlds[frame] = context["id"]
            self._frames[context["id"]] = frame
            self._wake()

    def _gone(self, params: dict[str, Any]) -> None:
        frame = self._frames.pop(params["executionContextId"], "")
        if self._worlds.get(frame) == params["executionContextId"]:
            del self._worlds[frame]

    def _clear(self, _: dict[str, Any]) -> None:
        self._worlds.clear()
        self._frames.clear()
