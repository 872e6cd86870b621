"""Chromium: starting it, and isolated contexts in a running one."""

from __future__ import annotations

import os
import shutil
import threading
import time
from collections.abc import Callable
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Any

import structlog

from lantern.browser.cdp import BrowserError, BrowserGone, Connection
from lantern.browser.files import Downloads, Files
from lantern.browser.page import Page
from lantern.browser.process import Process, own_folder
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.core.engine.browsers import Browser as Held

log = structlog.get_logger()

VIEWPORT = BROWSERS[USUAL].viewport
"""Width and height of stages, in CSS pixels."""

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
    "--disable-features=Translate,OptimizationHints,MediaRouter,PasswordLeakDetection",
    "--password-store=basic",
    # Frames of other origins stay in the page's own process, so that one session reaches them.
    "--disable-site-isolation-trials",
    "--hide-scrollbars",
    "--mute-audio",
    "--force-color-profile=srgb",
    f"--window-size={VIEWPORT[0]},{VIEWPORT[1]}",
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
        self._contexts: dict[str, Context] = {}
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
        if os.geteuid() == 0:  # Chromium refuses to start as root with it
            return self._launch("--no-sandbox")
        try:
            return self._launch()
        except BrowserError as error:
            if "sandbox" not in str(error):
                raise
            log.warning("chromium_without_sandbox")  # containers often forbid it
            return self._launch("--no-sandbox")

    def _launch(self, *more: str) -> tuple[Process, Connection, str]:
        program, folder = find_chromium(), own_folder()
        command = [program, *FLAGS, f"--user-data-dir={folder / 'profile'}", *more, "about:blank"]
        process = Process(command, folder)
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

    def new_context(self, held_for: Held = BROWSERS[USUAL]) -> Context:
        """Open a fresh, isolated context: no cookies, storage or cache of any other.

        Its windows have the size and manners of the browser that it is held for.
        """
        answer = self.connection.call(
            "Target.createBrowserContext", {"disposeOnDetach": True}, timeout=15
        )
        context = Context(self, answer["browserContextId"], held_for)
        self._contexts[context.id] = context
        try:
            self._prepare(context)
        except BaseException:
            context.close()
            raise
        return context

    def _prepare(self, context: Context) -> None:
        self.connection.post(
            "Browser.setDownloadBehavior",
            {
                "behavior": "allowAndName",
                "browserContextId": context.id,
                "downloadPath": str(context.downloads.folder),
                "eventsEnabled": True,
            },
        )

    def drop(self, context: Context) -> None:
        """Close a context and all its pages."""
        if self._contexts.pop(context.id, None) and self.alive:
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
            for context in list(self._contexts.values()):
                if any(page.has_frame(params["frameId"]) for page in context.pages):
                    context.happened += 1
                    context.downloads.begin(params)
        elif message["method"] == "Browser.downloadProgress":
            for context in list(self._contexts.values()):
                if context.downloads.progress(params):
                    broken = {"guid": params["guid"], "browserContextId": context.id}
                    self.connection.post("Browser.cancelDownload", broken)
        elif message["method"] == "Target.targetInfoChanged":
            self._renamed(params["targetInfo"])
        elif message["method"] == "Target.detachedFromTarget":
            self.connection.forget(params["sessionId"])
            for context in list(self._contexts.values()):
                context.lost(params["sessionId"])

    def _renamed(self, info: dict[str, Any]) -> None:
        context = self._contexts.get(info.get("browserContextId", ""))
        for page in context.pages if context else []:
            if page.target == info["targetId"] and page.title != info["title"]:
                page.title = info["title"]
                page.on_change()

    def _attached(self, params: dict[str, Any]) -> None:
        info, session = params["targetInfo"], params["sessionId"]
        context = self._contexts.get(info.get("browserContextId", ""))
        if context is None or info["type"] != "page":
            self.connection.post("Runtime.runIfWaitingForDebugger", session=session)
            return
        context.attached(info, session)


class Context:
    """An isolated set of windows: what one person with an empty profile would have open."""

    def __init__(self, browser: Chromium, context_id: str, held_for: Held) -> None:
        self.browser, self.held_for = browser, held_for
        self.id = context_id
        self.happened = 0
        """How often something happened beside a page: a window, a dialog, a download."""
        self.pages: list[Page] = []
        self.on_change: Callable[[], None] = lambda: None
        self.on_page: Callable[[Page], None] = lambda page: None
        self.downloads = Downloads(browser.folder)
        self.files = Files(browser.folder)
        self._current: Page | None = None
        self._front: Page | None = None
        self._changed = threading.Condition()

    @property
    def current(self) -> Page:
        """The window that is acted on; raises BrowserGone when none is open."""
        with self._changed:
            if self._current is None or self._current.gone.is_set():
                if not self.pages:
                    raise BrowserGone("No window is open any more.")
                self._current = self.pages[-1]
                self.bring_to_front(self._current)
            return self._current

    def open_page(self) -> Page:
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
                page = next((page for page in self.pages if page.target == target), None)
                if page:
                    break
                if not self._changed.wait(end - time.monotonic()):
                    raise BrowserError("The browser opened no window in time.")
        page.prepared(START_LIMIT)
        self.switch(page)
        return page

    def switch(self, page: Page) -> None:
        """Make a window the current one."""
        with self._changed:
            self._current = page
        self.bring_to_front(page)
        self.on_change()

    def bring_to_front(self, page: Page) -> None:
        """Let the browser draw this window: one in the background has no pictures."""
        if self._front is not page:
            page.post("Page.bringToFront")
            self._front = page

    def follow(self, page: Page) -> None:
        """Make a window the current one that is in front by itself, such as a new one."""
        with self._changed:
            self._current = page

    def close_page(self, page: Page) -> None:
        """Close a window."""
        self.browser.connection.call("Target.closeTarget", {"targetId": page.target})
        self.lost(page.session)

    def close(self) -> None:
        """Close the context with all its windows."""
        with ExitStack() as closing:
            closing.callback(self.files.remove)
            closing.callback(self.downloads.remove)
            closing.callback(self.browser.drop, self)

    def attached(self, info: dict[str, Any], session: str) -> None:
        """Take in a new window (on the connection's reading thread)."""
        browser = self.browser
        page = Page(browser.connection, session, info["targetId"], self.held_for, browser.version)
        page.title, page.address = info.get("title", ""), info.get("url", "")
        self.happened += 1
        self.on_page(page)
        page.prepare()
        with self._changed:
            self.pages.append(page)
            self._front = page
            self._changed.notify_all()
        self.on_change()

    def lost(self, session: str) -> None:
        """Take note that a window is gone."""
        with self._changed:
            gone = [page for page in self.pages if page.session == session]
            for page in gone:
                self.pages.remove(page)
                page.gone.set()
                if self._front is page:
                    self._front = None
            self._changed.notify_all()
        if gone:
            self.on_change()


ENGINES: dict[str, Callable[[], Chromium]] = {"chromium": Chromium}
"""How each engine is started, by the names of core.engine.browsers."""
