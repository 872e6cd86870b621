"""Chromium: starting it, and sessions in a running one."""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Mapping, Sequence
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Any

import structlog

from lantern.account import worker
from lantern.browser.base_session import BaseSession
from lantern.browser.chromium.connection import Connection
from lantern.browser.chromium.window import ChromiumWindow
from lantern.browser.errors import BrowserError, BrowserGone
from lantern.browser.files import LARGEST_DOWNLOAD
from lantern.browser.process import Process, own_folder
from lantern.core.engine.browsers import BROWSERS, USUAL, Browser

log = structlog.get_logger()

FLAGS = (
    "--headless=new",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--no-default-browser-check",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-breakpad",
    "--disable-crash-reporter",
    "--disable-default-apps",
    "--disable-extensions",
    "--disable-background-timer-throttling",
    "--disable-backgrounding-occluded-windows",
    "--disable-renderer-backgrounding",
    "--disable-features=Translate,OptimizationHints,MediaRouter,PasswordLeakDetection,"
    # The popup of an address bar that nobody sees would be two processes for each window.
    "WebUIOmniboxPopup,WebUIOmniboxAimPopup",
    "--password-store=basic",
    # Frames of other origins stay in the page's own process, so that one session reaches them.
    "--disable-site-isolation-trials",
    "--hide-scrollbars",
    "--mute-audio",
    # What is pressed before a window has drawn anything counts; Chromium would drop it.
    "--allow-pre-commit-input",
    "--force-color-profile=srgb",
    "--remote-debugging-pipe",
)
START_LIMIT = 30.0


def find_chromium() -> str:
    """Return the path of Chromium; raises BrowserError with what to install."""
    for name in (os.environ.get("LANTERN_CHROMIUM", ""), "chromium", "chromium-browser"):
        path = shutil.which(name) if name else None
        if path:
            return path
    raise BrowserError("Chromium is not installed. Install it with: apt-get install chromium")


class Chromium:
    """A running Chromium process with any number of isolated contexts."""

    def __init__(self) -> None:
        self._sessions: dict[str, ChromiumSession] = {}
        self._process, self.connection, self.version = self._start()
        try:
            self.connection.listen("", self._event)
            self.connection.call("Target.setDiscoverTargets", {"discover": True})
            self.connection.call(
                "Target.setAutoAttach",
                {"autoAttach": True, "waitForDebuggerOnStart": True, "flatten": True},
            )
        except BaseException:
            self._process.close()
            raise

    def _start(self) -> tuple[Process, Connection, str]:
        """Start the process, with its sandbox where that works."""
        if os.geteuid() == 0 and worker() is None:  # Chromium refuses to start as root with it
            return self._launch("--no-sandbox")
        try:
            return self._launch()
        except BrowserError as error:
            if "sandbox" not in str(error):
                raise
            log.warning("chromium_without_sandbox")  # containers often forbid it
            return self._launch("--no-sandbox")

    def _launch(self, *more: str) -> tuple[Process, Connection, str]:
        program = find_chromium()
        with own_folder() as folder:
            kept = f"--user-data-dir={folder / 'profile'}"
            process = Process([program, *FLAGS, kept, *more, "about:blank"], folder)
        try:
            connection = Connection(process.reads, process.writes)
            told = connection.call("Browser.getVersion", timeout=START_LIMIT)
        except BrowserError as error:
            said = process.said()
            process.close()
            raise BrowserError(f"Chromium did not start. It said: {said}") from error
        except BaseException:
            process.close()
            raise
        return process, connection, "Chromium " + str(told["product"]).partition("/")[2]

    @property
    def folder(self) -> Path:
        """What is kept on disk for this browser; gone when it is closed."""
        return self._process.folder

    @property
    def pid(self) -> int:
        """The process id of the browser."""
        return self._process.pid

    @property
    def alive(self) -> bool:
        """Whether the process runs and its connection is open."""
        return self._process.running and not self.connection.closed.is_set()

    def answers(self, limit: float = 5.0) -> bool:
        """Tell whether the browser itself answers, whatever its pages do."""
        try:
            self.connection.call("Browser.getVersion", timeout=limit)
        except BrowserError:
            return False
        return True

    def new_session(self, held_for: Browser = BROWSERS[USUAL]) -> ChromiumSession:
        """Open a fresh, isolated context: no cookies, storage or cache of any other.

        Its windows have the size and manners of the browser that it is held for.
        """
        answer = self.connection.call(
            "Target.createBrowserContext", {"disposeOnDetach": True}, timeout=15
        )
        context = ChromiumSession(self, answer["browserContextId"], held_for)
        self._sessions[context.id] = context
        try:
            self._prepare(context)
        except BaseException:
            context.close()
            raise
        return context

    def _prepare(self, context: ChromiumSession) -> None:
        self.connection.post(
            "Browser.setDownloadBehavior",
            {
                "behavior": "allowAndName",
                "browserContextId": context.id,
                "downloadPath": str(context.downloads.folder),
                "eventsEnabled": True,
            },
        )

    def drop(self, context: ChromiumSession) -> None:
        """Close a context and all its pages."""
        if self._sessions.pop(context.id, None) and self.alive:
            with suppress(BrowserError):  # it died just now, and its contexts with it
                self.connection.post(
                    "Target.disposeBrowserContext", {"browserContextId": context.id}
                )

    def close(self) -> None:
        """End the browser and remove all that it kept on disk."""
        with ExitStack() as closing:
            closing.callback(self._process.close)
            if not self.connection.closed.is_set():
                with suppress(BrowserError):
                    self.connection.call("Browser.close", timeout=3)

    def _event(self, message: dict[str, Any]) -> None:
        params = message["params"]
        if message["method"] == "Target.attachedToTarget":
            self._attached(params)
        elif message["method"] == "Browser.downloadWillBegin":
            for context in list(self._sessions.values()):
                if any(page.has_frame(params["frameId"]) for page in context.windows()):
                    context.happened += 1
                    context.downloads.begun(params["guid"], params["suggestedFilename"])
        elif message["method"] == "Browser.downloadProgress":
            self._download_went_on(params)
        elif message["method"] == "Target.targetInfoChanged":
            self._renamed(params["targetInfo"])
        elif message["method"] == "Target.detachedFromTarget":
            self.connection.forget(params["sessionId"])
            for context in list(self._sessions.values()):
                context.detached(params["sessionId"])

    def _download_went_on(self, params: dict[str, Any]) -> None:
        key, state = params["guid"], params["state"]
        for context in list(self._sessions.values()):
            if not context.downloads.known(key):
                continue
            size = max(int(params["receivedBytes"]), int(params.get("totalBytes", 0)))
            if state == "inProgress" and size > LARGEST_DOWNLOAD:
                broken = {"guid": key, "browserContextId": context.id}
                self.connection.post("Browser.cancelDownload", broken)
            elif state != "inProgress":
                path = context.downloads.folder / key
                context.downloads.ended(key, path if state == "completed" else None)

    def _renamed(self, info: dict[str, Any]) -> None:
        context = self._sessions.get(info.get("browserContextId", ""))
        for page in context.windows() if context else ():
            if page.target == info["targetId"] and page.title != info["title"]:
                page.title = info["title"]
                page.on_change()

    def _attached(self, params: dict[str, Any]) -> None:
        info, session = params["targetInfo"], params["sessionId"]
        context = self._sessions.get(info.get("browserContextId", ""))
        if context is None or info["type"] != "page":
            self.connection.post("Runtime.runIfWaitingForDebugger", session=session)
            return
        context.attached(info, session)


class ChromiumSession(BaseSession):
    """An isolated set of windows: a browser context of Chromium."""

    def __init__(self, browser: Chromium, context_id: str, held_for: Browser) -> None:
        super().__init__(browser.folder, held_for)
        self.browser, self.id = browser, context_id
        self._windows: dict[str, ChromiumWindow] = {}

    def windows(self) -> list[ChromiumWindow]:
        """Return its windows."""
        return list(self._windows.values())

    def open_page(self) -> ChromiumWindow:
        """Open a window and return it when it can be used."""
        target = self.browser.connection.call(
            "Target.createTarget",
            {
                "url": "about:blank",
                "browserContextId": self.id,
                "width": self.held_for.width,
                "height": self.held_for.height,
            },
        )["targetId"]
        end = time.monotonic() + START_LIMIT
        with self._changed:
            while True:
                page = next((page for page in self.windows() if page.target == target), None)
                if page and page in self.pages:
                    break
                if not self._changed.wait(end - time.monotonic()):
                    raise BrowserError("The browser opened no window in time.")
        page.prepared(START_LIMIT)
        self.switch(page)
        return page

    def clear(self, origin: str) -> None:
        """Forget all cookies, and all that an origin has stored."""
        page = self._any()
        page.post("Network.clearBrowserCookies")
        page.post("Storage.clearDataForOrigin", origin=origin, storageTypes="all")

    def set_cookies(self, cookies: Sequence[Mapping[str, str]]) -> None:
        """Set cookies, each with `name`, `value` and `url`."""
        self._any().call("Network.setCookies", cookies=list(cookies))

    def set_headers(self, headers: Mapping[str, str]) -> None:
        """Send these headers with every request from now on."""
        for page in self.windows():
            page.call("Network.setExtraHTTPHeaders", headers=dict(headers))

    def _any(self) -> ChromiumWindow:
        window = self._windows.get(self.current.target)
        if window is None:
            raise BrowserGone("No window is open any more.")
        return window

    def _forget(self) -> None:
        self.browser.drop(self)
        for page in self.windows():
            page.gone.set()  # the browser tells nobody any more

    def attached(self, info: dict[str, Any], session: str) -> None:
        """Take in a new window (on the connection's reading thread)."""
        browser = self.browser
        page = ChromiumWindow(
            browser.connection, session, info["targetId"], self.held_for, browser.version
        )
        page.title, page.address = info.get("title", ""), info.get("url", "")
        self.happened += 1
        self._windows[page.target] = page
        self.on_page(page)
        page.prepare()
        self.joined(page)

    def detached(self, session: str) -> None:
        """Take note that the window of a protocol session is gone."""
        for page in self.windows():
            if page.session == session:
                self._windows.pop(page.target, None)
                self.lost(page)
