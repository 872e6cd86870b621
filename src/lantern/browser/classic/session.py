"""A session of WebDriver as an isolated set of windows, and who looks around in it."""

from __future__ import annotations

import secrets
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any, Protocol

import structlog

from lantern.browser.base_session import BaseSession
from lantern.browser.classic.frames import UNLIMITED
from lantern.browser.classic.place import Place
from lantern.browser.classic.window import LOOK, ClassicWindow
from lantern.browser.classic.wire import Wire
from lantern.browser.errors import BrowserError, BrowserGone, CommandFailed, DialogOpen, NoAnswer
from lantern.browser.session import Engine, Session
from lantern.core.engine.browsers import Browser

log = structlog.get_logger()
SESSION_LIMIT = 60.0
"""Seconds that a driver may need to make a session."""
EVERY = 0.12
"""Seconds between two looks at what has happened by itself."""
LOOKS_AT_SIZE, AT_REST = 60, 5
"""How often the size of a window is looked at, and how many times it has to be the same."""
DEMANDS = {"unhandledPromptBehavior": "ignore", "pageLoadStrategy": "eager"}
"""What every session is asked for: dialogs stay open; a document counts as soon as it is read."""


class Owner(Engine, Protocol):
    """A browser that takes note of sessions that end."""

    def drop(self, session: Session) -> None:
        """Take note that a session has ended."""


class ClassicSession(BaseSession):
    """Windows behind one wire; `ends` ends what there is behind it, such as a driver."""

    beside = True
    """Whether it runs on this machine, so that files of this machine are files there."""
    opens_shut = False
    """Whether closed shadow roots can be had."""

    def __init__(
        self,
        browser: Owner,
        folder: Path,
        held_for: Browser,
        wire: Wire,
        demands: Mapping[str, Any],
        ends: Callable[[], None],
        wishes: Mapping[str, Any] | None = None,
    ) -> None:
        super().__init__(folder, held_for)
        self.browser, self.wire, self._ends = browser, wire, ends
        self.key = f"'_{secrets.token_hex(8)}'"
        asked: dict[str, Any] = {"alwaysMatch": {**demands, **DEMANDS}}
        if wishes:  # a driver that does not know them makes a session without
            asked["firstMatch"] = [dict(wishes), {}]
        made = wire.call("POST", "/session", {"capabilities": asked}, timeout=SESSION_LIMIT)
        self.told: Mapping[str, Any] = made["capabilities"]
        self.id = str(made["sessionId"])
        self.path = f"/session/{self.id}"
        self._place = Place(wire, self.path, self.key)
        self._windows: dict[str, ClassicWindow] = {}
        self._over = threading.Event()
        try:
            wire.call("POST", f"{self.path}/timeouts", {"script": int(UNLIMITED * 1000)})
        except BaseException:
            self._ends()
            raise
        self._looker = threading.Thread(target=self._look_on, name="classic-looker", daemon=True)

    # -- commands --------------------------------------------------------------------------------

    def carry_out(
        self,
        window: ClassicWindow | Any,  # noqa: ANN401 - a window while it is being made
        frame: str,
        method: str,
        path: str,
        body: Mapping[str, Any] | None,
        timeout: float,
    ) -> Any:  # noqa: ANN401 - whatever the command returns
        """Go to a frame of a window and carry out a command there, as one."""
        if not self.browser.alive:
            raise BrowserGone("The browser has ended.")
        with self.wire.turn:
            self._go_to(window.target, frame or window.target)
            try:
                return self.wire.call(method, self.path + path, body, timeout)
            except CommandFailed as error:
                if error.code in ("no such window", "no such frame"):
                    self._place.forget()
                    self._check(window.target)
                raise
            except (NoAnswer, BrowserGone):
                self._place.forget()
                raise

    def _go_to(self, target: str, frame: str) -> None:
        try:
            self._place.go(target, frame)
        except CommandFailed as error:
            if error.code == "no such window":
                self._check(target)
            raise CommandFailed("The frame went away.", error.code) from error

    def focused(self, window: ClassicWindow) -> str:
        """Return the innermost frame of a window that has the focus; raises CommandFailed."""
        with self.wire.turn:
            return self._place.focused(window.target)

    def _check(self, target: str) -> None:
        """Raise BrowserGone for a window that is not there any more."""
        if target not in self.wire.call("GET", f"{self.path}/window/handles"):
            raise BrowserGone("The window was closed.")

    def forget_place(self) -> None:
        """Take note that it is not known any more which window commands are about."""
        self._place.forget()

    # -- windows ---------------------------------------------------------------------------------

    def open_page(self) -> ClassicWindow:
        """Open a window and return it when it can be used."""
        with self.wire.turn:
            if not self._windows:  # a session begins with one
                handle = self.wire.call("GET", f"{self.path}/window")
            else:
                made = self.wire.call("POST", f"{self.path}/window/new", {"type": "tab"})
                handle = made["handle"]
            page = self._windows.get(handle) or self._take_in(handle)
        if not self._looker.is_alive() and not self._over.is_set():
            self._looker.start()
        self.switch(page)
        return page

    def _take_in(self, handle: str) -> ClassicWindow:
        page = ClassicWindow(self, handle, self.held_for)
        self._windows[handle] = page
        self._fit(page)
        page.drain()
        self.happened += 1
        self.on_page(page)
        self.joined(page)
        return page

    def _fit(self, page: ClassicWindow) -> None:
        """Give a window the size at which its viewport is as large as asked for."""
        with suppress(CommandFailed, DialogOpen, NoAnswer):
            page.ratio = float(page.script("return devicePixelRatio")) or 1.0
            page.viewport = _at_rest(page)
            width, height = self.held_for.viewport
            more_x = more_y = 0
            for _ in range(3):
                if page.viewport == (width, height):
                    return
                size = {"width": width + more_x, "height": height + more_y, "x": 0, "y": 0}
                page.call("POST", "/window/rect", size)  # one of a device refuses that
                inner = page.viewport = _at_rest(page)
                more_x, more_y = more_x + width - inner[0], more_y + height - inner[1]

    def look_around(self) -> None:
        """Take note of windows that came and went, and of downloads; raises nothing."""
        try:
            with self.wire.turn:
                handles = self.wire.call("GET", f"{self.path}/window/handles", timeout=10.0)
                for handle in handles:
                    if handle not in self._windows:
                        self._take_in(handle)
        except BrowserError:
            if not self.wire.closed.is_set() and self.browser.alive:
                return
            handles = []
        for handle in set(self._windows) - set(handles):
            page = self._windows.pop(handle)
            self.forget_place()
            self.lost(page)
        self.look_for_files()

    def look_for_files(self) -> None:
        """Take note of downloads, where the browser puts them where they can be seen."""

    def look_for_dialog(self, page: ClassicWindow) -> None:
        """Take note of a dialog that is open in a window; raises nothing but BrowserGone."""
        if page.dialog is None:
            with suppress(CommandFailed, NoAnswer, DialogOpen):
                page.dialog_opens(str(page.call("GET", "/alert/text")))

    def _look_on(self) -> None:
        """See what happens by itself, while nobody else has the wire."""
        while not self._over.wait(EVERY):
            if not self.wire.turn.acquire(blocking=False):
                continue
            try:
                self.look_around()
                page = self._current
                if isinstance(page, ClassicWindow):
                    page.drain()
            except Exception:
                if not self._over.is_set():  # what is being closed goes away under the looker
                    log.exception("looking_failed")
            finally:
                self.wire.turn.release()

    # -- the rest --------------------------------------------------------------------------------

    def clear(self, origin: str) -> None:
        """Forget all cookies, and all that an origin has stored."""
        page = self.current
        assert isinstance(page, ClassicWindow)  # noqa: S101 - all of its windows are such
        page.call("DELETE", "/cookie")
        page.run_script("localStorage.clear(); sessionStorage.clear()", 5.0)

    def set_cookies(self, cookies: Sequence[Mapping[str, str]]) -> None:
        """Set cookies, each with `name`, `value` and `url`; each address is gone to for it."""
        page = self.current
        assert isinstance(page, ClassicWindow)  # noqa: S101 - all of its windows are such
        for one in cookies:
            page.navigate(one["url"], 20.0)
            page.call("POST", "/cookie", {"cookie": {"name": one["name"], "value": one["value"]}})

    def set_headers(self, headers: Mapping[str, str]) -> None:
        """Refuse it: the protocol knows no headers. Raises CommandFailed."""
        if headers:
            raise CommandFailed("This browser sends no headers that one sets.")

    def _forget(self) -> None:
        """End the session, also under who waits for an answer of it."""
        self._over.set()
        self.wire.cut()
        for page in list(self._windows.values()):
            self.lost(page)
        self._ends()
        self.browser.drop(self)


def _at_rest(page: ClassicWindow) -> tuple[int, int]:
    """Return the size of a viewport once it changes no more: windows take theirs in their time."""
    before, same = (0, 0), 0
    for _ in range(LOOKS_AT_SIZE):
        wide, high = page.script("return [innerWidth, innerHeight]")
        now = int(wide), int(high)
        same = same + 1 if now == before else 0
        if same >= AT_REST:
            break
        before = now
        time.sleep(LOOK)
    return before
