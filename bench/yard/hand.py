"""A person at the stage: mouse and keys at places, at a pace of their own."""

from __future__ import annotations

import base64
import random
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any

from lantern.browser.chromium import ChromiumWindow
from lantern.browser.errors import BrowserError, CommandFailed
from lantern.browser.keys import key_of, modifiers_of
from lantern.station.stage import Stage

Place = tuple[float, float]
STILL = 3
"""How often in a row something has to be seen in the same place before a person presses it."""
FOLLOWS = 5
"""How often the mouse follows something that moves on before it is pressed."""
LIMIT = 10.0
"""Seconds that a person waits for something to show."""


class Lost(Exception):
    """A person did not find on the page what a story goes on with."""


class Missed(Lost):
    """What a person was about to press went away under the mouse; they begin again."""


@dataclass(frozen=True)
class Pace:
    """How fast a person is: seconds between acts and keys, and whether the mouse wanders."""

    name: str
    between: float
    key: float
    wanders: bool = False


PACES = (Pace("slow", 0.45, 0.05, wanders=True), Pace("normal", 0.15, 0.02), Pace("fast", 0.0, 0.0))


@dataclass
class Act:
    """One act: when it began, what it was, and how many sentences it may leave."""

    began: float
    words: str
    least: int = 1
    most: int = 1


@dataclass
class Hand:
    """Uses a stage as the front end lets a person; `acts` is what was done."""

    stage: Stage
    pace: Pace
    seed: int = 1
    acts: list[Act] = field(default_factory=list)
    said: list[Any] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)
        self._at: Place = (640.0, 400.0)

    @property
    def page(self) -> ChromiumWindow:
        """The window that is in front."""
        page = self.stage.context.current
        assert isinstance(page, ChromiumWindow)
        return page

    # -- seeing ----------------------------------------------------------------------------------

    def see(self, spec: str, limit: float = LIMIT) -> dict[str, float]:
        """Wait until something shows, rests and can be reached; returns its box in the window."""
        end = time.monotonic() + limit
        before: dict[str, float] | None = None
        same = 0
        while time.monotonic() < end:
            box = self._seen(spec)
            same = same + 1 if box and box == before and box["reached"] else 0
            if same == STILL and box:
                return box
            before = box
            time.sleep(0.03)
        if before:
            return before
        raise Lost(f"{spec} did not show.")

    def shows(self, spec: str) -> bool:
        """Tell whether something shows right now."""
        return self._seen(spec) is not None

    def _seen(self, spec: str) -> dict[str, float] | None:
        page = self.page
        if spec.startswith("closed "):
            return self._evaluate(page, f"({_finder()})({spec[7:]!r}, yard.closed)", None)
        for frame in page.frames():
            try:
                world = page.world(frame)
            except CommandFailed:
                continue  # it is just going
            box = self._evaluate(page, f"({_finder()})({spec!r})", world)
            if box:
                try:
                    dx, dy = page.frame_offset(frame)
                except BrowserError:
                    return None
                return {**box, "x": box["x"] + dx, "y": box["y"] + dy}
        return None

    @staticmethod
    def _evaluate(
        page: ChromiumWindow, expression: str, world: int | None
    ) -> dict[str, float] | None:
        where = {} if world is None else {"contextId": world}
        try:
            answer = page.call(
                "Runtime.evaluate", 30.0, expression=expression, returnByValue=True, **where
            )
        except BrowserError:
            return None
        value: dict[str, float] | None = answer["result"].get("value")
        return value

    # -- acting ----------------------------------------------------------------------------------

    def act(self, words: str, least: int = 1, most: int = 1) -> None:
        """Take note that an act begins."""
        if self.acts:
            self._rest(self.pace.between)
        self.acts.append(Act(time.monotonic(), words, least, most))

    def press(
        self, spec: str, at: Place = (0.5, 0.5), *, part: bool = False, most: int = 1,
        button: str = "left", count: int = 1, modifiers: int = 0, calm: bool = False,
    ) -> None:  # fmt: skip
        """Press at a share of something; a `part` may be told by the act that follows.

        A `calm` hand goes there straight, as where a menu would close under a mouse that wanders.
        """
        if not calm:
            self._wander()
        box = self.see(spec)
        self.act(f"press {spec}", 0 if part else 1, most)
        for _ in range(FOLLOWS):
            point = box["x"] + box["width"] * at[0], box["y"] + box["height"] * at[1]
            self._move(point)
            now = self._seen_now(spec, box)
            if now == box:
                break
            box = now  # it moved on, as a list that is filtered does
        self._press_at(point, button, count, modifiers)

    def _seen_now(self, spec: str, before: dict[str, float]) -> dict[str, float]:
        """Look once more before pressing; raises Missed for what went away meanwhile."""
        try:
            self.page.after_input(1.0)
        except BrowserError:
            return before  # a busy page does not say
        box = self._seen(spec)
        if box is None and self._seen("body") is not None:
            raise Missed(f"{spec} went away before it was pressed.")
        return box or before

    def press_beside(self, x: float, y: float) -> None:
        """Press where nothing is, at a share of the window, as what closes a menu."""
        self.act("press beside")
        self._press_at((self.page.viewport[0] * x, self.page.viewport[1] * y), "left", 1)

    def _press_at(self, point: Place, button: str, count: int, modifiers: int = 0) -> None:
        self._move(point)
        held = {"left": 1, "right": 2}[button]
        for number in range(1, count + 1):
            for kind in ("down", "up"):
                buttons = held if kind == "down" else 0
                self._mouse(kind, point, button=button, buttons=buttons, count=number,
                            modifiers=modifiers)  # fmt: skip
                self._rest(self.pace.key)
        self.settle()

    def point(self, spec: str, *, part: bool = True) -> None:
        """Move the mouse onto something and leave it there."""
        box = self.see(spec)
        self.act(f"point at {spec}", 0 if part else 1)
        self._move((box["x"] + box["width"] / 2, box["y"] + box["height"] / 2))
        self.settle()

    def drag(self, spec: str, onto: str, at: Place = (0.5, 0.5), most: int = 1) -> None:
        """Press something, carry it to a share of something else and let go."""
        a, b = self.see(spec), self.see(onto)
        self.drag_from(spec, a, (b["x"] + b["width"] * at[0], b["y"] + b["height"] * at[1]), most)

    def drag_by(self, spec: str, dx: float, dy: float, most: int = 1) -> None:
        """Press something, carry it so many pixels and let go."""
        box = self.see(spec)
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.drag_from(spec, box, (x + dx, y + dy), most)

    def drag_from(self, spec: str, box: dict[str, float], end: Place, most: int) -> None:
        """Carry what is in a box to a point."""
        start = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self._move(start)
        self.act(f"drag {spec}", most=most)
        self._mouse("down", start, button="left", buttons=1, count=1)
        for share in (0.02, 0.1, 0.3, 0.5, 0.7, 0.85, 1, 1, 1):
            point = tuple(a + (b - a) * share for a, b in zip(start, end, strict=True))
            self._mouse("move", (point[0], point[1]), button="left", buttons=1)
            self.settle()
            self._rest(max(self.pace.key, 0.03))
            if share == 0.1:
                self._rest(0.15)  # the browser's own dragging begins in another process
        self._mouse("up", end, button="left", buttons=0, count=1)
        self._at = end
        self.settle()

    def type(self, spec: str, text: str, *, part: bool = False, most: int = 1) -> None:
        """Press a field and type into it."""
        box = self.see(spec)
        self.act(f"type into {spec}", 0 if part else 1, most)
        self._press_at((box["x"] + box["width"] / 2, box["y"] + box["height"] / 2), "left", 1)
        self._letters(text)

    def write(self, text: str, *, part: bool = False, most: int = 1) -> None:
        """Type where the focus is."""
        self.act(f"write {text}", 0 if part else 1, most)
        self._letters(text)

    def _letters(self, text: str) -> None:
        for letter in text:
            if letter.isascii() and letter.isprintable():
                self._key(letter, 0)
            else:
                self.stage.take({"type": "text", "text": letter})
            self._rest(self.pace.key)
        self.settle()

    def compose(self, parts: list[str]) -> None:
        """Type by an input method: what is composed step by step, then taken."""
        self.act(f"compose {parts[-1]}")
        for text in parts:
            self.stage.take({"type": "compose", "text": text})
            self._rest(self.pace.key)
        self.stage.take({"type": "text", "text": parts[-1]})
        self.settle()

    def keys(self, keys: str, *, part: bool = False, most: int = 1) -> None:
        """Press keys one after the other, such as "ArrowDown Enter" or "Control+a"."""
        self.act(f"keys {keys}", 0 if part else 1, most)
        for one in keys.split():
            *held, name = one.split("+") if one != "+" else ["+"]
            self._key(name, modifiers_of(held))
            self._rest(self.pace.key)
        self.settle()

    def _key(self, name: str, modifiers: int) -> None:
        key = key_of(" " if name == "Space" else name)
        text = "" if modifiers & 7 else key.text
        shape = {"key": key.key, "code": key.code, "number": key.number}
        for kind in ("down", "up"):
            self.stage.take(
                {"type": "key", "kind": kind, "modifiers": modifiers, "text": text, **shape}
            )

    def wheel(self, spec: str, dy: float) -> None:
        """Turn the wheel over something, "" for where the mouse is; that is no act of its own."""
        if spec:
            box = self.see(spec)
            self._move((box["x"] + box["width"] / 2, box["y"] + box["height"] / 2))
        point = self._at
        while dy:
            turn = max(-2000.0, min(2000.0, dy))
            self._mouse("wheel", point, dy=turn)
            self.settle()
            dy -= turn

    def choose(self, spec: str, option: str) -> None:
        """Open a list of the browser and choose from what Lantern shows of it."""
        self.said.clear()
        self.press(spec)
        end = time.monotonic() + LIMIT
        while not (told := [one for one in self.said if one.get("type") == "options"]):
            if time.monotonic() > end:
                raise Lost(f"{spec} did not open.")
            time.sleep(0.02)
        self._rest(self.pace.between)
        self.stage.take({"type": "choose", "handle": told[-1]["handle"],
                         "frame": told[-1].get("frame", ""), "option": option})  # fmt: skip
        self.settle()

    def dialog(self, accept: bool, text: str = "") -> None:
        """Answer a browser dialog."""
        self._until(lambda: any(page.dialog for page in self.stage.context.pages), "a dialog")
        self.act("answer the dialog")
        self.stage.take({"type": "dialog", "accept": accept, "text": text})
        self.settle()

    def give(self, name: str, content: bytes) -> None:
        """Give a file to the page that asks for one."""
        self._until(lambda: self.page.chooser is not None, "the question for a file")
        self.act(f"give {name}")
        told = {"name": name, "content": base64.b64encode(content).decode()}
        self.stage.take({"type": "files", "files": [told]})
        self.settle()

    def window(self, title: str, *, act: bool = True) -> None:
        """Go to a window by its title, pressing its tab if it did not come up by itself."""
        self._until(
            lambda: any(title in one["title"] for one in self._windows()), f"window {title}"
        )
        for one in self._windows():
            if title in one["title"] and not one["current"]:
                if act:
                    self.act(f"go to window {title}")
                self.stage.take({"type": "window", "id": one["id"]})
        self.settle()

    def _windows(self) -> list[dict[str, Any]]:
        current = self.page
        return [
            {"id": page.target, "title": self.stage.title_of(page), "current": page is current}
            for page in list(self.stage.context.pages)
        ]

    def until(self, spec: str, limit: float = LIMIT) -> None:
        """Wait until something shows, as a person does who looks at the page."""
        self._until(lambda: self.shows(spec), spec, limit)

    def _until(self, condition: Callable[[], bool], what: str, limit: float = LIMIT) -> None:
        end = time.monotonic() + limit
        while not condition():
            if time.monotonic() > end:
                raise Lost(f"{what} did not come.")
            time.sleep(0.03)

    def settle(self) -> None:
        """Let the page take what was done, as far as it can."""
        try:
            if not self.page.dialog:
                self.page.after_input(25.0)
        except BrowserError:
            pass

    def _wander(self) -> None:
        if not self.pace.wanders:
            return
        for _ in range(2):
            self._move((self._chance.uniform(40, 1200), self._chance.uniform(40, 760)))
            self._rest(0.12)

    def _move(self, end: Place) -> None:
        steps = 6 if self.pace.wanders else 3 if self.pace.key else 1
        for n in range(1, steps + 1):
            share = n / steps
            self._mouse("move", tuple(a + (b - a) * share
                                            for a, b in zip(self._at, end, strict=True)))  # type: ignore[arg-type] # fmt: skip
            self._rest(self.pace.key / 2)
        self._at = end

    def _mouse(self, kind: str, at: Place, **more: object) -> None:
        self.stage.take({"type": "mouse", "kind": kind, "x": at[0], "y": at[1], **more})

    def pause(self, seconds: float) -> None:
        """Do nothing for some time, as a person who reads."""
        self._rest(seconds)

    @staticmethod
    def _rest(seconds: float) -> None:
        if seconds:
            time.sleep(seconds)


@cache
def _finder() -> str:
    text = (Path(__file__).parent / "finding.js").read_text(encoding="utf-8")
    return text.partition("\n")[2].strip().removeprefix(";")
