"""The browsers of a station: started when they are needed, owned here, closed together."""

from __future__ import annotations

import threading
import time
from concurrent.futures import Future, ThreadPoolExecutor

import structlog

from lantern.browser.engines import ENGINES, installed, versions
from lantern.browser.errors import BrowserError
from lantern.browser.session import Engine, Session
from lantern.core.engine.browsers import BROWSERS, REMOTE, USUAL, Browser
from lantern.station.remotes import Remotes

log = structlog.get_logger()
SPARE_LASTS = 20.0
"""Seconds after which a context that was made ready ahead is closed when nobody took it."""


class Browsers:
    """Living browsers by what they are for, and contexts made ready ahead."""

    def __init__(self, remotes: Remotes | None = None) -> None:
        self._remotes = remotes
        self._browsers: dict[str, Engine] = {}
        self._starting: dict[str, threading.Lock] = {}
        self._spares: dict[Browser, tuple[Future[Session], float]] = {}
        self._lock = threading.RLock()
        # Looked at once, so that all that is said of it agrees.
        self._installed = installed()
        self._versions = versions(self._installed)
        self._makes = ThreadPoolExecutor(1, "context")
        self._closed = False

    @property
    def engines(self) -> list[str]:
        """What can be started here, and the remote ones that take sessions."""
        return [*self._installed, *sorted(self._remotes.ready if self._remotes else ())]

    @property
    def versions(self) -> dict[str, str]:
        """The versions of these, "" where they are not known."""
        return self._versions | (self._remotes.ready if self._remotes else {})

    @property
    def version(self) -> str:
        """The names and versions of the browsers that run, "" when none does."""
        with self._lock:
            return ", ".join(sorted({one.version for one in self._browsers.values()}))

    def get(self, purpose: str, engine: str = BROWSERS[USUAL].engine) -> Engine:
        """Return the living browser for a purpose ("stages", "runs"), started if need be."""
        key = f"{purpose} {engine}"
        with self._lock:
            starting = self._starting.setdefault(key, threading.Lock())
        with starting:
            browser = self._browsers.get(key)
            if browser is None or not browser.alive:
                if browser:
                    browser.close()
                browser = self._start(engine)
                with self._lock:
                    if self._closed:
                        browser.close()
                        raise BrowserError("The station is ending.")
                    self._browsers[key] = browser
            return browser

    def _start(self, engine: str) -> Engine:
        if not engine.startswith(REMOTE):
            return ENGINES[engine].start()
        if self._remotes is None:
            raise BrowserError("This station plays in no remote browsers.")
        return self._remotes.start(engine)

    @property
    def printer(self) -> str:
        """The engine that prints here, "" for none."""
        return next((name for name in self._installed if ENGINES[name].prints), "")

    def print_pdf(self, html: str) -> bytes:
        """Return a document as PDF; raises BrowserError."""
        prints = ENGINES[self.printer].prints if self.printer else None
        if prints is None:
            raise BrowserError("No browser here can print.")
        return prints(self.get("prints", self.printer), html)

    def context(self, held: Browser) -> Session:
        """Return a fresh context with a window: one that was made ready, if there is one."""
        with self._lock:
            spare, _ = self._spares.pop(held, (None, 0.0))
        if spare:
            try:
                context = spare.result()
                if context.browser.alive and context.pages:
                    return context
                context.close()
            except BrowserError:
                pass  # its browser died; a new one is made
        return self._make(held)

    def prepare(self, held: Browser) -> None:
        """Make a context ready in the background, unless one is."""
        with self._lock:
            if held not in self._spares and not self._closed:
                made = self._makes.submit(self._make, held)
                self._spares[held] = made, time.monotonic()

    def _make(self, held: Browser) -> Session:
        context = self.get("runs", held.engine).new_session(held)
        try:
            context.open_page()
        except BaseException:
            context.close()
            raise
        return context

    def tend(self, lasts: float = SPARE_LASTS) -> None:
        """Close the spare contexts that nobody took in `lasts` seconds."""
        since = time.monotonic() - lasts
        with self._lock:
            old = [held for held, (_, at) in self._spares.items() if at <= since]
            spares = [self._spares.pop(held)[0] for held in old]
        for spare in spares:
            try:
                spare.result().close()
            except BrowserError:
                pass  # it was never there

    def close(self) -> None:
        """Close all that was opened here."""
        with self._lock:
            self._closed = True
        self._makes.shutdown()
        self.tend(0.0)
        for browser in self._browsers.values():
            try:
                browser.close()
            except Exception:
                log.exception("browser_not_closed")  # the others have to be closed as well
