"""A remote browser: each session is one that the driver at an address makes."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Mapping
from contextlib import ExitStack, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from lantern.browser.classic.session import ClassicSession
from lantern.browser.classic.wire import Wire
from lantern.browser.errors import BrowserError
from lantern.browser.process import own_folder
from lantern.browser.remote.ahead import Ahead
from lantern.browser.session import Session
from lantern.core.engine.browsers import BROWSERS, USUAL, Browser

READY_LIMIT = 5.0
"""Seconds in which a driver has to say that it is ready."""
BIDI = "webSocketUrl"
"""The capability by which a driver is asked whether it speaks BiDi as well."""
HIDDEN = "••••••"
END_LIMIT = 20.0
"""Seconds that a driver may need to end a session."""
FEATURES = "return 'responseStatus' in PerformanceNavigationTiming.prototype"
"""Whether a page can be asked with which status it was answered."""


@dataclass(frozen=True)
class Setup:
    """Where a driver answers, who is let in there, and what is asked of it.

    `capabilities` are those of WebDriver that every session has to have; `hidden` is what is never
    told, whatever the driver says, "" for nothing.
    """

    address: str
    user: str = ""
    password: str = ""
    capabilities: Mapping[str, Any] = field(default_factory=dict)
    hidden: str = ""

    def wire(self) -> Wire:
        """Return a way to the driver."""
        return Wire(self.address, self.user, self.password)


class Remote:
    """The sessions at an address, which is asked for anew for each: it may have been changed.

    `setup` raises BrowserError where there is none any more; `learned` is told what the last
    session was: the `browser` with its version, whether it is watched `ahead`, and whether it tells
    the `status` of pages.
    """

    def __init__(
        self,
        setup: Callable[[], Setup],
        learned: Callable[[Mapping[str, Any]], None] = lambda told: None,
    ) -> None:
        self._setup, self._learned = setup, learned
        self._sessions: dict[str, RemoteSession] = {}
        self._closed = False
        with own_folder() as folder:
            self.folder: Path = folder
        self.version = "Remote browser"

    @property
    def pid(self) -> int:
        """No process of this machine."""
        return 0

    @property
    def alive(self) -> bool:
        """Whether sessions can be asked for."""
        return not self._closed

    def answers(self, limit: float = READY_LIMIT) -> bool:
        """Tell whether the driver says that it takes a session."""
        with suppress(BrowserError):
            return is_ready(self._setup(), limit)
        return False

    def new_session(self, held_for: Browser = BROWSERS[USUAL]) -> RemoteSession:
        """Have a session made; raises BrowserError with what the driver says."""
        setup = self._setup()
        try:
            session = RemoteSession(self, setup, held_for)
        except BrowserError as error:
            if not setup.hidden or setup.hidden not in str(error):
                raise
            raise BrowserError(str(error).replace(setup.hidden, HIDDEN)) from None
        self._sessions[session.id] = session
        self.version = session.version
        self._learned(session.learned)
        return session

    def drop(self, session: Session) -> None:
        """Take note that a session has ended."""
        if isinstance(session, RemoteSession):
            self._sessions.pop(session.id, None)

    def close(self) -> None:
        """End all sessions."""
        self._closed = True
        with ExitStack() as closing:
            closing.callback(shutil.rmtree, self.folder, ignore_errors=True)
            for session in list(self._sessions.values()):
                closing.callback(session.close)


def is_ready(setup: Setup, limit: float = READY_LIMIT) -> bool:
    """Tell whether the driver at an address says that it takes a session."""
    try:
        told = setup.wire().call("GET", "/status", timeout=limit)
    except BrowserError:
        return False
    return isinstance(told, dict) and bool(told.get("ready"))


class RemoteSession(ClassicSession):
    """A session of a driver elsewhere: no file of this machine is one there."""

    beside = False

    def __init__(self, browser: Remote, setup: Setup, held: Browser) -> None:
        self._ahead: Ahead | None = None
        super().__init__(
            browser,
            browser.folder,
            held,
            setup.wire(),
            setup.capabilities,
            lambda: self._end(setup),
            {} if BIDI in setup.capabilities else {BIDI: True},
        )
        with suppress(BrowserError, OSError):
            self._ahead = Ahead.of(self.told, setup, self.key)
        name = str(self.told.get("browserName") or "browser")
        self.version = f"{name.capitalize()} {self.told.get('browserVersion') or ''}".strip()

    @property
    def learned(self) -> dict[str, Any]:
        """What is known of the browser now."""
        status = False
        with suppress(BrowserError):
            status = bool(self.wire.call("POST", f"{self.path}/execute/sync", _script(FEATURES)))
        return {"browser": self.version, "ahead": self._ahead is not None, "status": status}

    def _end(self, setup: Setup) -> None:
        """Let the driver end the session; one that does not answer ends it in its own time."""
        if self._ahead:
            self._ahead.close()
        with suppress(BrowserError):
            setup.wire().call("DELETE", self.path, timeout=END_LIMIT)


def _script(text: str) -> dict[str, Any]:
    return {"script": text, "args": []}
