"""Firefox: starting it, and sessions in a running one."""

from __future__ import annotations

import os
import re
import shutil
import time
from collections.abc import Mapping, Sequence
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import structlog

from lantern.account import give
from lantern.browser.base_session import BaseSession
from lantern.browser.base_window import WORLD, probe_source
from lantern.browser.errors import BrowserError, BrowserGone
from lantern.browser.firefox.connection import Connection
from lantern.browser.firefox.window import FirefoxWindow
from lantern.browser.process import Guarded, own_folder
from lantern.core.engine.browsers import BROWSERS, USUAL, Browser

log = structlog.get_logger()
Params = dict[str, Any]
START_LIMIT = 30.0
LISTENS = re.compile(r"ws://\S+")
CHANNEL = "lantern"
PREFS = {
    # Nothing is asked of anybody but the application under test.
    "app.update.enabled": False,
    "browser.chrome.site_icons": False,
    "browser.safebrowsing.downloads.enabled": False,
    "datareporting.policy.dataSubmissionEnabled": False,
    "network.captive-portal-service.enabled": False,
    "network.connectivity-service.enabled": False,
    "network.prefetch-next": False,
    "toolkit.telemetry.enabled": False,
    # A row begins with nothing remembered, and windows that pages open are tabs.
    "browser.link.open_newwindow": 3,
    "browser.link.open_newwindow.restriction": 0,
    "browser.sessionhistory.max_total_viewers": 0,
    "browser.sessionstore.resume_from_crash": False,
    "dom.disable_open_during_load": False,
    "signon.rememberSignons": False,
    # Input counts as soon as there is something to press, not some frames later.
    "dom.input_events.security.minNumTicks": 0,
    "dom.input_events.security.minTimeElapsedInMS": 0,
    "ui.prefersReducedMotion": 0,
}
EVENTS = ("browsingContext", "network", "log.entryAdded", "script")


def find_firefox() -> str:
    """Return the path of Firefox; raises BrowserError with what to install."""
    for name in (os.environ.get("LANTERN_FIREFOX", ""), "firefox-esr", "firefox"):
        path = shutil.which(name) if name else None
        if path:
            return path
    raise BrowserError("Firefox is not installed. Install it with: apt-get install firefox-esr")


def _pref(value: object) -> str:
    return str(value).lower() if isinstance(value, bool) else str(value)


def _profile(folder: Path) -> Path:
    profile = folder / "profile"
    profile.mkdir()
    lines = [f'user_pref("{name}", {_pref(value)});' for name, value in PREFS.items()]
    (profile / "user.js").write_text("\n".join(lines), encoding="utf-8")
    give(profile)
    return profile


class Firefox:
    """A running Firefox process with any number of sessions."""

    def __init__(self) -> None:
        self._sessions: dict[str, FirefoxSession] = {}
        program = find_firefox()
        with own_folder() as folder:
            profile = _profile(folder)
            quiet = ["--headless", "--no-remote", "--profile", str(profile)]
            command = [program, *quiet, "--remote-debugging-port", "0", "about:blank"]
            self._process = Guarded(command, folder)
        try:
            self.connection, told = self._connect()
        except BaseException:
            self._process.close()
            raise
        self.pid = int(told["moz:processID"])
        self.version = "Firefox " + str(told["browserVersion"])

    def _connect(self) -> tuple[Connection, Params]:
        address = self._process.wait_for(LISTENS, START_LIMIT)
        if address is None:
            raise BrowserError(f"Firefox did not start. It said: {self._process.said()}")
        connection = Connection(address + "/session", self._event)
        # What a page asks stays open until it is answered; nobody is there to choose files.
        asks = {"default": "ignore", "file": "dismiss"}
        made = connection.call(
            "session.new",
            {"capabilities": {"alwaysMatch": {"unhandledPromptBehavior": asks}}},
            timeout=START_LIMIT,
        )
        connection.call("session.subscribe", {"events": list(EVENTS)})
        told: Params = made["capabilities"]
        return connection, told

    @property
    def folder(self) -> Path:
        """What is kept on disk for this browser; gone when it is closed."""
        return self._process.folder

    @property
    def alive(self) -> bool:
        """Whether the process runs and its connection is open."""
        return self._process.running and not self.connection.closed.is_set()

    def answers(self, limit: float = 5.0) -> bool:
        """Tell whether the browser itself answers, whatever its pages do."""
        try:
            self.connection.call("session.status", timeout=limit)
        except BrowserError:
            return False
        return True

    def new_session(self, held_for: Browser = BROWSERS[USUAL]) -> FirefoxSession:
        """Open a fresh session: no cookies, storage or cache of any other."""
        made = self.connection.call("browser.createUserContext", timeout=15)
        session = FirefoxSession(self, made["userContext"], held_for)
        self._sessions[session.id] = session
        try:
            session.prepare()
        except BaseException:
            session.close()
            raise
        return session

    def drop(self, session: FirefoxSession) -> None:
        """Close a session and all its windows."""
        if self._sessions.pop(session.id, None) and self.alive:
            with suppress(BrowserError):  # it died just now, and its sessions with it
                self.connection.post("browser.removeUserContext", {"userContext": session.id})

    def close(self) -> None:
        """End the browser and remove all that it kept on disk."""
        with ExitStack() as closing:
            closing.callback(self._process.close)
            closing.callback(self.connection.close)

    # -- events (on the reading thread) ----------------------------------------------------------

    def _event(self, method: str, params: Params) -> None:
        if method == "browsingContext.contextCreated":
            session = self._sessions.get(params.get("userContext", ""))
            if session:
                session.context_created(params)
            return
        frame = params.get("context") or (params.get("source") or {}).get("context") or ""
        for session in list(self._sessions.values()):
            if session.take(method, frame, params):
                return


class FirefoxSession(BaseSession):
    """An isolated set of windows: a user context of Firefox."""

    def __init__(self, browser: Firefox, context_id: str, held_for: Browser) -> None:
        super().__init__(browser.folder, held_for)
        self.browser, self.id = browser, context_id
        self._windows: dict[str, FirefoxWindow] = {}
        self._of_frames: dict[str, FirefoxWindow] = {}
        self._script = ""

    def prepare(self) -> None:
        """Set up what every window of the session has before its first script runs."""
        call = self.browser.connection.call
        mine: Params = {"userContexts": [self.id]}
        made = call(
            "script.addPreloadScript",
            {
                "functionDeclaration": "(lanternReport) => { globalThis.lanternReport = "
                f"lanternReport; {probe_source()} }}",
                "arguments": [{"type": "channel", "value": {"channel": CHANNEL}}],
                "sandbox": WORLD,
                **mine,
            },
        )
        self._script = made["script"]
        width, height = self.held_for.viewport
        size = {"width": width, "height": height}
        call("browsingContext.setViewport", {"viewport": size, "devicePixelRatio": 1, **mine})
        saved = {"type": "allowed", "destinationFolder": str(self.downloads.folder)}
        call("browser.setDownloadBehavior", {"downloadBehavior": saved, **mine})

    def open_page(self) -> FirefoxWindow:
        """Open a window and return it when it can be used."""
        made = self.browser.connection.call(
            "browsingContext.create", {"type": "tab", "userContext": self.id}
        )
        end = time.monotonic() + START_LIMIT
        with self._changed:
            while True:
                page = self._windows.get(made["context"])
                if page and page in self.pages and page.frames():
                    break
                self._changed.wait(0.1)
                if time.monotonic() >= end:
                    raise BrowserError("The browser opened no window in time.")
        self.switch(page)
        return page

    def clear(self, origin: str) -> None:
        """Forget all cookies, and all that an origin has stored."""
        where = {"type": "storageKey", "userContext": self.id}
        self.browser.connection.call("storage.deleteCookies", {"partition": where})
        with suppress(BrowserError):  # a page that has no storage has nothing to forget
            self.current.run_script("localStorage.clear(); sessionStorage.clear()", 5.0)

    def set_cookies(self, cookies: Sequence[Mapping[str, str]]) -> None:
        """Set cookies, each with `name`, `value` and `url`."""
        where = {"type": "storageKey", "userContext": self.id}
        for one in cookies:
            value = {"type": "string", "value": one["value"]}
            cookie = {"name": one["name"], "value": value, "domain": urlsplit(one["url"]).hostname}
            asked = {"cookie": cookie, "partition": where}
            self.browser.connection.call("storage.setCookie", asked)

    def set_headers(self, headers: Mapping[str, str]) -> None:
        """Send these headers with every request from now on."""
        listed = [
            {"name": name, "value": {"type": "string", "value": value}}
            for name, value in headers.items()
        ]
        asked = {"headers": listed, "userContexts": [self.id]}
        self.browser.connection.call("network.setExtraHeaders", asked)

    def _forget(self) -> None:
        if self._script and self.browser.alive:  # it would stay for as long as the browser does
            with suppress(BrowserError):
                asked = {"script": self._script}
                self.browser.connection.post("script.removePreloadScript", asked)
        self.browser.drop(self)
        for page in list(self._windows.values()):
            page.lose(BrowserGone("The window was closed."))

    # -- events (on the reading thread) ----------------------------------------------------------

    def context_created(self, params: Params) -> None:
        """Take in a new window, or a new frame of one."""
        frame, parent = params["context"], params.get("parent")
        if parent is None:
            page = FirefoxWindow(self.browser.connection, frame, self.held_for)
            page.address = params.get("url", "")
            self._windows[frame] = self._of_frames[frame] = page
            self.happened += 1
            self.on_page(page)
            self.joined(page)
        elif page_of := self._of_frames.get(parent):
            self._of_frames[frame] = page_of
            page_of.parents[frame] = parent
            page_of.know_frame(frame, parent, "", params.get("url", ""))

    def take(self, method: str, frame: str, params: Params) -> bool:
        """Take note of an event about a frame; tells whether it is one of this session."""
        page = self._of_frames.get(frame)
        if page is None:
            return False
        if method == "script.message":
            page.told(params["data"]["value"], frame)
        elif method == "browsingContext.contextDestroyed" and frame == page.target:
            self._window_gone(page)
        elif method == "browsingContext.contextDestroyed":
            page.frame_gone(frame)
            self._of_frames.pop(frame, None)
        elif method == "browsingContext.downloadWillBegin":
            self._download_begins(params)
            page.take(method, frame, params)
        elif method == "browsingContext.downloadEnd":
            self._download_ended(params)
        else:
            page.take(method, frame, params)
            if method == "browsingContext.userPromptOpened":
                self.happened += 1
        return True

    def _window_gone(self, page: FirefoxWindow) -> None:
        for frame in list(page.parents):
            self._of_frames.pop(frame, None)
        self._windows.pop(page.target, None)
        page.lose(BrowserGone("The window was closed."))
        self.lost(page)

    def _download_begins(self, params: Params) -> None:
        self.happened += 1
        name = params.get("suggestedFilename") or "download"
        self.downloads.begun(params.get("download") or params["navigation"], name)

    def _download_ended(self, params: Params) -> None:
        key = params.get("download") or params["navigation"]
        path = params.get("filepath")
        self.downloads.ended(key, Path(path) if path and params["status"] == "complete" else None)
