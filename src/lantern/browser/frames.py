"""The frames of a window, and the world of the probe in each of them."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import Any

from lantern.browser.cdp import CommandFailed
from lantern.core.addresses import parts_of

WORLD = "lantern"
MOST_FRAMES = 20
"""Frames in frames that are followed: a page can put itself into itself."""


class Frames(ABC):
    """What is known of a window's frames, told by events on the reading thread.

    `main_frame` is the id of the frame that is the window's own, "" before it is known.
    """

    def __init__(self) -> None:
        self.main_frame = ""
        self._worlds: dict[str, int] = {}
        self._world_frames: dict[int, str] = {}
        self._frame_names: dict[str, tuple[str, str]] = {}

    @abstractmethod
    def call(self, method: str, timeout: float = 30.0, **params: object) -> dict[str, Any]:
        """Send a command to this window and wait for the answer."""

    @abstractmethod
    def _wake(self) -> None: ...

    def frame_handlers(self) -> dict[str, Callable[[dict[str, Any]], None]]:
        """Return what to call for the events that tell of worlds, by their names."""
        return {
            "Runtime.executionContextCreated": self._world_made,
            "Runtime.executionContextDestroyed": self._world_gone,
            "Runtime.executionContextsCleared": self._clear_worlds,
        }

    def know_frame(self, frame: dict[str, Any]) -> None:
        """Note the name of a frame that went to an address, and which it is in."""
        words = frame.get("name") or parts_of(frame["url"]).path
        self._frame_names[frame["id"]] = frame.get("parentId", ""), words
        if "parentId" not in frame:
            self.main_frame = frame["id"]

    def frame_of(self, world: int) -> str:
        """Return the frame that a world is in, "" for the window's own."""
        frame = self._world_frames.get(world, "")
        return "" if frame == self.main_frame else frame

    def world(self, frame: str = "") -> int:
        """Return the number of the probe's world in a frame; raises CommandFailed without one."""
        world = self._worlds.get(frame or self.main_frame)
        if world is None:
            raise CommandFailed("The frame is not there.")
        return world

    def frames(self) -> list[str]:
        """Return the ids of all frames that the probe is in, the main one first."""
        # `sorted` copies first, at once: events change the worlds on another thread.
        return sorted(self._worlds, key=lambda frame: frame != self.main_frame)

    def has_frame(self, frame: str) -> bool:
        """Tell whether a frame is one of this window."""
        return frame == self.main_frame or frame in self._frame_names

    def frame_path(self, frame: str) -> tuple[str, ...]:
        """Return the names of the frames that lead to a frame, outermost first; () for the page.

        A frame without a name goes by the path of its address.
        """
        names: list[str] = []
        while frame and frame != self.main_frame and len(names) < MOST_FRAMES:
            frame, name = self._frame_names.get(frame, ("", ""))
            names.append(name)
        return tuple(reversed(names))

    def frame_offset(self, frame: str) -> tuple[float, float]:
        """Return where a frame's own corner is in the window, in CSS pixels."""
        if not frame or frame == self.main_frame:
            return 0.0, 0.0
        owner = self.call("DOM.getFrameOwner", frameId=frame)
        quad = self.call("DOM.getBoxModel", backendNodeId=owner["backendNodeId"])
        content = quad["model"]["content"]
        return float(content[0]), float(content[1])

    def _world_made(self, params: dict[str, Any]) -> None:
        context = params["context"]
        if context["name"] == WORLD:
            frame = context["auxData"]["frameId"]
            self._worlds[frame] = context["id"]
            self._world_frames[context["id"]] = frame
            self._wake()

    def _world_gone(self, params: dict[str, Any]) -> None:
        frame = self._world_frames.pop(params["executionContextId"], "")
        if self._worlds.get(frame) == params["executionContextId"]:
            del self._worlds[frame]

    def _clear_worlds(self, _: dict[str, Any]) -> None:
        self._worlds.clear()
        self._world_frames.clear()
