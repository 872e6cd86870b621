"""Showing a browser context live: pictures and what goes on, to any number of viewers."""

from __future__ import annotations

import json
import threading
from typing import Any

from lantern.browser.cdp import BrowserError, CommandFailed, DialogOpen, NoAnswer
from lantern.browser.chromium import Context
from lantern.browser.page import Page

FIRST_PICTURE = 0.7
"""Seconds after which a picture is asked for when none came: a page that stands still while its
process is replaced sends none by itself."""


class Viewer:
    """One connection that watches; keeps the newest picture only, and every message."""

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._picture: bytes | None = None
        self._messages: list[str] = []
        self._closed = False

    def show(self, picture: bytes) -> None:
        """Hand over a picture; an older one that was not sent yet is dropped."""
        with self._changed:
            self._picture = picture
            self._changed.notify()

    def say(self, message: dict[str, Any]) -> None:
        """Hand over a message."""
        with self._changed:
            self._messages.append(json.dumps(message))
            self._changed.notify()

    def close(self) -> None:
        """Let `next` return None from now on."""
        with self._changed:
            self._closed = True
            self._changed.notify()

    def next(self) -> list[str | bytes] | None:
        """Wait for what is to be sent next; None when closed."""
        with self._changed:
            self._changed.wait_for(lambda: self._closed or self._picture or self._messages)
            if self._closed:
                return None
            batch: list[str | bytes] = [*self._messages]
            self._messages = []
            if self._picture:
                batch.append(self._picture)
                self._picture = None
            return batch


class Live:
    """The live picture of a context: follows its current window.

    With `always`, pictures are made even when nobody watches (the recorder wants the last one).
    """

    def __init__(self, context: Context, *, always: bool = False) -> None:
        self.context = context
        self.last = b""
        self._always = always
        self._viewers: list[Viewer] = []
        self._shown: Page | None = None
        self._fresh = threading.Event()
        self._lock = threading.RLock()
        context.on_change = self.changed
        self.changed()

    def add(self, viewer: Viewer) -> None:
        """Let a viewer watch from now on, beginning with the present picture."""
        with self._lock:
            self._viewers.append(viewer)
            viewer.say(self.state())
            if self.last:
                viewer.show(self.last)
        self.changed()

    def remove(self, viewer: Viewer) -> int:
        """Let a viewer go; returns how many are left."""
        with self._lock:
            if viewer in self._viewers:
                self._viewers.remove(viewer)
            left = len(self._viewers)
        self.changed()
        return left

    def say(self, message: dict[str, Any]) -> None:
        """Say something to all viewers."""
        with self._lock:
            for viewer in self._viewers:
                viewer.say(message)

    def close(self) -> None:
        """Stop making pictures and let all viewers go."""
        with self._lock:
            self.say({"type": "ended"})
            if self._shown:
                self._shown.stop_pictures()
                self._shown = None
            self._always = False

    def state(self) -> dict[str, Any]:
        """Return what there is to say of the windows."""
        pages = list(self.context.pages)
        current = self._shown or (pages[-1] if pages else None)
        dialog = current.dialog if current else None
        return {
            "type": "state",
            "windows": [
                {
                    "id": page.target,
                    "title": page.title,
                    "address": page.address,
                    "current": page is current,
                }
                for page in pages
            ],
            "address": current.address if current else "",
            "dialog": vars(dialog) if dialog else None,
            "chooser": bool(current and current.chooser),
        }

    def changed(self) -> None:
        """Follow the current window, make pictures if someone wants them, tell the viewers."""
        with self._lock:
            pages = self.context.pages
            wanted = self.context.current if pages else None
            if not (self._always or self._viewers):
                wanted = None
            if wanted is not self._shown:
                if self._shown:
                    self._shown.stop_pictures()
                self._shown = wanted
                if wanted:
                    self._fresh.clear()
                    wanted.start_pictures(self._take)
                    threading.Thread(
                        target=self._make_sure, args=(wanted,), name="first-picture", daemon=True
                    ).start()
            for page in pages:
                page.on_change = self.changed
            self.say(self.state())

    def _make_sure(self, page: Page) -> None:
        """Ask for a picture until one has come from the window that is shown."""
        while not self._fresh.wait(FIRST_PICTURE) and self._shown is page:
            try:
                picture = page.picture()
            except (CommandFailed, NoAnswer, DialogOpen):
                continue
            except BrowserError:
                return
            if self._shown is page and not self._fresh.is_set():
                self._take(picture)

    def _take(self, picture: bytes) -> None:
        self._fresh.set()
        self.last = picture
        with self._lock:
            for viewer in self._viewers:
                viewer.show(picture)
