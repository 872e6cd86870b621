"""What sessions of all engines have in common: their windows, files and downloads."""

from __future__ import annotations

import threading
from abc import ABC, abstractmethod
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path

from lantern.browser.errors import BrowserGone
from lantern.browser.files import Downloads, Files
from lantern.browser.session import Window
from lantern.core.engine.browsers import Browser


class BaseSession(ABC):
    """The part of a `Session` that is the same in every engine.

    An engine tells it of windows by `joined` and `lost`, on the reading thread.
    """

    def __init__(self, folder: Path, held_for: Browser) -> None:
        self.held_for = held_for
        self.happened = 0
        self.pages: list[Window] = []
        self.on_change: Callable[[], None] = lambda: None
        self.on_page: Callable[[Window], None] = lambda page: None
        self.downloads = Downloads(folder)
        self.files = Files(folder)
        self._current: Window | None = None
        self._front: Window | None = None
        self._changed = threading.Condition()

    @abstractmethod
    def _forget(self) -> None:
        """Let the browser forget the session; raises nothing when it is gone."""

    @property
    def current(self) -> Window:
        """The window that is acted on; raises BrowserGone when none is open."""
        with self._changed:
            if self._current is None or self._current.gone.is_set():
                if not self.pages:
                    raise BrowserGone("No window is open any more.")
                self._current = self.pages[-1]
                self.bring_to_front(self._current)
            return self._current

    def switch(self, page: Window) -> None:
        """Make a window the current one."""
        with self._changed:
            self._current = page
        self.bring_to_front(page)
        self.on_change()

    def bring_to_front(self, page: Window) -> None:
        """Let the browser draw this window: one in the background has no pictures."""
        if self._front is not page:
            page.come_to_front()
            self._front = page

    def follow(self, page: Window) -> None:
        """Make a window the current one that is in front by itself, such as a new one."""
        with self._changed:
            self._current = page

    def close_page(self, page: Window) -> None:
        """Close a window."""
        page.end()
        self.lost(page)

    def close(self) -> None:
        """Close the session with all its windows."""
        with ExitStack() as closing:
            closing.callback(self.files.remove)
            closing.callback(self.downloads.remove)
            closing.callback(self._forget)

    def joined(self, page: Window) -> None:
        """Take in a new window, which is in front by itself."""
        with self._changed:
            self.pages.append(page)
            self._front = page
            self._changed.notify_all()
        self.on_change()

    def lost(self, page: Window) -> None:
        """Take note that a window is gone."""
        page.gone.set()
        with self._changed:
            known = page in self.pages
            if known:
                self.pages.remove(page)
            if self._front is page:
                self._front = None
            self._changed.notify_all()
        if known:
            self.on_change()
