"""An engine without a browser: pages are lists of things, and what a press does is a function.

It keeps the promises of `lantern.browser.session` as the real ones do; `test_seam.py` holds all of
them to the same stories, and mypy holds it to the protocols.
"""

from __future__ import annotations

import io
import tempfile
import threading
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Future
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from PIL import Image

from lantern.browser.base_session import BaseSession
from lantern.browser.base_window import BaseWindow
from lantern.browser.errors import BrowserGone, CommandFailed, DialogOpen
from lantern.browser.session import Dialog, Engine, Input, Session, Window
from lantern.core.engine.browsers import BROWSERS, USUAL, Browser
from lantern.core.engine.requests import Ran

Act = Callable[["FakeWindow"], None]
HEIGHT = 30


@dataclass
class Thing:
    """A thing on a page; `press` is what pressing it does, `value` what a field holds."""

    tag: str
    name: str
    press: Act = lambda window: None
    value: str = ""
    type: str = ""


@dataclass
class Shown:
    """A page: its title, status and things."""

    title: str = "Test page"
    status: int = 200
    things: list[Thing] = field(default_factory=list)


class FakeEngine:
    """An engine whose windows show the pages of `site`, by path."""

    version = "Fake 1.0"

    def __init__(self) -> None:
        self.site: dict[str, Callable[[], Shown]] = {}
        self._folder = tempfile.TemporaryDirectory()
        self._alive = True
        self._sessions: dict[int, FakeSession] = {}
        self.pid = 0

    @property
    def folder(self) -> Path:
        return Path(self._folder.name)

    @property
    def alive(self) -> bool:
        return self._alive

    def answers(self, limit: float = 5.0) -> bool:
        return self._alive

    def new_session(self, held_for: Browser = BROWSERS[USUAL]) -> FakeSession:
        self.check()
        session = FakeSession(self, held_for)
        self._sessions[id(session)] = session
        return session

    def check(self) -> None:
        if not self._alive:
            raise BrowserGone("The browser has ended.")

    def kill(self) -> None:
        """Let it die as a browser does: without a word to anybody."""
        self._alive = False

    def close(self) -> None:
        self._alive = False
        self._folder.cleanup()


class FakeSession(BaseSession):
    def __init__(self, browser: FakeEngine, held_for: Browser) -> None:
        super().__init__(browser.folder, held_for)
        self.browser = browser
        self.cookies: dict[str, str] = {}
        self.headers: dict[str, str] = {}
        self._count = 0

    def open_page(self) -> FakeWindow:
        self.browser.check()
        self._count += 1
        page = FakeWindow(self, f"window {self._count}", self.held_for)
        self.happened += 1
        self.on_page(page)
        self.joined(page)
        self.switch(page)
        return page

    def clear(self, origin: str) -> None:
        self.cookies.clear()

    def set_cookies(self, cookies: Sequence[Mapping[str, str]]) -> None:
        self.cookies |= {one["name"]: one["value"] for one in cookies}

    def set_headers(self, headers: Mapping[str, str]) -> None:
        self.headers = dict(headers)

    def _forget(self) -> None:
        self.browser._sessions.pop(id(self), None)
        for page in list(self.pages):
            self.lost(page)


class FakeWindow(BaseWindow):
    chooser = False

    def __init__(self, session: FakeSession, target: str, held_for: Browser) -> None:
        super().__init__(target, held_for)
        self.session, self.main_frame = session, target
        self.shown = Shown("")
        self.focus: Thing | None = None
        self._went: list[str] = []
        self._place = -1
        self._picturing = threading.Event()

    # -- what only a page can do

    def ask_probe(self, frame: str, expression: str, timeout: float) -> str | None:
        raise CommandFailed("There is no page to ask.")

    def probe(self, function: str, *args: object, frame: str = "", timeout: float = 15.0) -> Any:
        self._check()
        if self.dialog:
            raise DialogOpen(self.dialog.message)
        return getattr(self, f"_{function}")(*args)

    def _check(self) -> None:
        self.session.browser.check()
        if self.gone.is_set():
            raise BrowserGone("The window was closed.")

    def _raw(self, place: int) -> dict[str, Any]:
        thing = self.shown.things[place]
        box = {"x": 10, "y": 10 + place * HEIGHT, "width": 100, "height": HEIGHT - 6}
        role = {"button": "button", "a": "link", "input": "textbox", "h1": "heading"}
        return {
            "handle": place + 1, "tag": thing.tag, "role": role.get(thing.tag, ""),
            "name": thing.name, "text": thing.name, "box": box, "order": place,
            "attributes": {"type": thing.type} if thing.type else {},
        }  # fmt: skip

    def _lookup(self, query: Mapping[str, Any]) -> dict[str, Any]:
        found = [self._raw(place) for place in range(len(self.shown.things))]
        return {"candidates": found, "total": len(found), "stamp": 1, "hosts": [], "aimed": None}

    def _aim(self, handle: int, at: object = None) -> dict[str, Any]:
        box = self._raw(handle - 1)["box"]
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        return {"handle": handle, "x": x, "y": y, "box": box, "problem": "", "by": ""}

    def _read(self, handle: int, name: str) -> str | None:
        thing = self.shown.things[handle - 1]
        return {"value": thing.value, "text": thing.name, "shown": "yes"}.get(name)

    def _toType(self, handle: int, text: str, append: bool) -> str:  # noqa: N802 - the probe's name
        self.focus = self.shown.things[handle - 1]
        if not append:
            self.focus.value = ""
        return "keys"

    def _survey(self, special: str, also: int) -> list[dict[str, Any]]:
        return [self._raw(place) for place in range(len(self.shown.things))]

    def _unsure(self) -> list[int]:
        return []

    def _page(self) -> dict[str, str]:
        return {"title": self.shown.title, "address": self.address, "release": ""}

    def _settle(self) -> str:
        return "complete"

    def _quiet(self, time: float, limit: float) -> bool:
        return True

    def frames(self) -> list[str]:
        return [self.main_frame]

    def frame_offset(self, frame: str) -> tuple[float, float]:
        return 0.0, 0.0

    def frame_at(self, x: float, y: float) -> str:
        return self.main_frame

    def look_into(self, handles: Sequence[int], frame: str = "") -> int:
        return 0

    def listens_to_press(self, press: int, frame: str = "") -> bool:
        return True

    def run_script(self, script: str, limit: float) -> Ran:
        return Ran(error="There is no page to run it in.")

    # -- going somewhere

    def navigate(self, address: str, limit: float) -> tuple[int, str]:
        self._check()
        self._went[self._place + 1 :] = [address]
        self._place += 1
        return self._show()

    def _show(self) -> tuple[int, str]:
        self.address = self._went[self._place]
        path = "/" + self.address.split("://")[-1].partition("/")[2]
        make = self.session.browser.site.get(path)
        if make is None and self.session.browser.site:
            return 404, ""
        if make is None:
            return 0, "CONNECTION_REFUSED"
        self.shown = make()
        self.title = self.shown.title
        self.on_change()
        return self.shown.status, ""

    def history(self, to: str, limit: float) -> None:
        self._check()
        place = self._place + {"back": -1, "forward": 1}.get(to, 0)
        if 0 <= place < len(self._went):
            self._place = place
            self._show()

    def read_in(self, limit: float) -> None:
        self._check()

    # -- acting

    def press(self, x: float, y: float, button: str = "left", count: int = 1) -> None:
        self._check()
        place = int((y - 10) // HEIGHT)
        if 0 <= place < len(self.shown.things):
            with suppress(DialogOpen):
                self.shown.things[place].press(self)

    def point_at(self, x: float, y: float) -> None:
        self._check()

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        self._check()

    def press_key(self, keys: str) -> None:
        self._check()
        if keys == "Delete" and self.focus:
            self.focus.value = ""

    def type_text(self, text: str) -> None:
        self._check()
        if self.focus:
            self.focus.value += text

    def put_in(self, what: Input) -> Future[Any]:
        done: Future[Any] = Future()
        done.set_result(None)
        return done

    def give_files(self, handle: int, paths: list[str], frame: str = "") -> None:
        self._check()
        self.shown.things[handle - 1].value = ", ".join(Path(path).name for path in paths)

    def choose_files(self, paths: list[str]) -> None:
        """Do nothing: nobody waits for files."""

    def ask(self, kind: str, message: str, then: Callable[[FakeWindow, bool, str], None]) -> None:
        """Open a dialog; `then` is done with how it is answered."""
        self.dialog, self._then = Dialog(kind, message), then
        self.on_change()

    def answer_dialog(self, accept: bool, text: str = "") -> Dialog | None:
        dialog, self.dialog = self.dialog, None
        if dialog:
            self._then(self, accept, text)
        return dialog

    def come_to_front(self) -> None:
        """Do nothing: nothing is drawn."""

    def end(self) -> None:
        self._check()

    # -- pictures

    def picture(self, quality: int = 70) -> bytes:
        self._check()
        taken = io.BytesIO()
        Image.new("RGB", self.viewport, "white").save(taken, "JPEG")
        return taken.getvalue()

    def start_pictures(self, take: Callable[[bytes], None], quality: int = 70) -> None:
        take(self.picture())

    def stop_pictures(self) -> None:
        """Do nothing: none are sent."""


def holds_to_the_seam(engine: FakeEngine, session: FakeSession, window: FakeWindow) -> None:
    """Let mypy hold the fake to the protocols."""
    _engine: Engine = engine
    _session: Session = session
    _window: Window = window
