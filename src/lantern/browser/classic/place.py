"""In which frame of which window commands are carried out, and where the focus is meanwhile."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from typing import Any

from lantern.browser.classic import scripts
from lantern.browser.classic.wire import ELEMENT, Wire
from lantern.browser.errors import CommandFailed

APART = " "
"""Between the references of what holds a frame, in its id."""
MOST_DEEP = 8
"""How many frames within one another are looked into."""


class Place:
    """Goes into frames and comes back; whoever only looks takes no focus with that.

    A driver may give the focus to a frame that one goes into, and what is typed with it. So which
    frame has the focus is seen before a window is left for one of its frames, and put right when
    commands are about the window itself again, unless the page has moved it meanwhile. The page
    and its frames of the same origin do not hear of it. `path` is that of the session, `key` the
    name of the probe as a script writes it.
    """

    def __init__(self, wire: Wire, path: str, key: str) -> None:
        self._wire, self._path, self._key = wire, path, key
        self._at: tuple[str, str] | None = None
        self._held: dict[str, tuple[list[str], float]] = {}

    def forget(self) -> None:
        """Take note that it is not known any more which frame commands are about."""
        self._at = None

    def go(self, target: str, frame: str) -> None:
        """Go to a frame of a window; its own id is that of the window's document.

        Raises CommandFailed with the driver's code when there is none.
        """
        if self._at == (target, frame):
            return
        before, self._at = self._at, None
        if before is None or before[0] != target:
            self._call("/window", {"handle": target})
        elif before[1] != target:
            self._take_over(target, before[1])
            self._into(None)
        if frame != target:
            self._hold(target)
            self._along(frame.split(APART)[1:])
        elif target in self._held:
            self._come_back(target)
        self._at = target, frame

    def focused(self, target: str) -> str:
        """Return the innermost frame of a window that has the focus, as far as can be seen."""
        self.go(target, target)
        self._at = None
        self._hold(target)
        return APART.join([target, *self._held[target][0]])

    def _hold(self, target: str) -> None:
        """Before the window is left for a frame: see where its focus is."""
        if target in self._held:
            return
        now, holders = self._run(scripts.AWAY)
        way: list[str] = []
        self._held[target] = way, float(now)
        for holder in holders:
            way.append(holder[ELEMENT])
            with suppress(CommandFailed):  # it goes away just now
                self._into(way[0])
                way += self._within(1) or []
            self._into(None)

    def _within(self, deep: int) -> list[str] | None:
        """Return the way from here to the frame that has the focus; None where it is not here."""
        here, holders = self._run(scripts.HELD)
        for holder in holders if deep < MOST_DEEP else ():
            self._into(holder[ELEMENT])
            found = self._within(deep + 1)
            if found is not None:
                return [holder[ELEMENT], *found]
            self._call("/frame/parent", {})
        return [] if here else None

    def _take_over(self, target: str, frame: str) -> None:
        """Before a frame is left: the focus stays there if something there took it meanwhile."""
        held = self._held.get(target)
        if held:
            with suppress(CommandFailed):  # it went away
                if self._run(scripts.MOVED, held[1]):
                    self._held[target] = frame.split(APART)[1:], held[1]

    def _come_back(self, target: str) -> None:
        """Back in the window: put the focus where it was."""
        way, since = self._held.pop(target)
        moved = self._run(scripts.MOVED, since)
        if way and not moved:
            with suppress(CommandFailed):  # what had it went away
                self._along(way)
            self._into(None)
        self._run(scripts.BACK, bool(way) and not moved)

    def _along(self, way: Sequence[str]) -> None:
        for holder in way:
            self._into(holder)

    def _into(self, holder: str | None) -> None:
        self._call("/frame", {"id": holder and {ELEMENT: holder}})

    def _run(self, script: str, *args: object) -> Any:  # noqa: ANN401 - whatever it returns
        body = {"script": script % {"key": self._key}, "args": list(args)}
        return self._call("/execute/sync", body)

    def _call(self, path: str, body: dict[str, Any]) -> Any:  # noqa: ANN401 - whatever it returns
        return self._wire.call("POST", self._path + path, body)
