"""Showing a browser context live: pictures and what goes on, to any number of viewers."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Callable
from functools import partial

import structlog

from lantern.browser.errors import BrowserError, CommandFailed, DialogOpen, NoAnswer
from lantern.browser.session import Session, Window
from lantern.core.channel import DialogSaid, Said, StateSaid
from lantern.core.values.redaction import everywhere
from lantern.station.redaction import Redactor

log = structlog.get_logger()

AGAIN = 0.3
"""Seconds after which a page that could not say where secrets are is asked once more."""
FIRST_PICTURE = 0.7
"""Seconds after which a picture is asked for when none came: a page that stands still while its
process is replaced sends none by itself."""
CHECK = 0.12
"""Seconds between two looks at whether the page looks different."""
REST = 0.12
"""Seconds without a change or a picture after which a page counts as resting."""
LATE = 0.35
"""Seconds after which a change has to be shown that no picture has come of."""
SELDOM = 1.0
"""Seconds between pictures that are asked for only because some came: a caret blinks."""


class Viewer:
    """One connection that watches; keeps the newest picture only, and every message."""

    def __init__(self, account: int = 0) -> None:
        self.account = account
        self._changed = threading.Condition()
        self._picture: bytes | None = None
        self._messages: list[str] = []
        self._closed = False

    def show(self, picture: bytes) -> None:
        """Hand over a picture; an older one that was not sent yet is dropped."""
        with self._changed:
            self._picture = picture
            self._changed.notify()

    def say(self, message: Said) -> None:
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


class RedactionQueue:
    """Lays a redactor over pictures on a thread of its own; what is overtaken is left out."""

    def __init__(self, redactor: Redactor, show: Callable[[Window, bytes], None]) -> None:
        self._redactor, self._show = redactor, show
        self._changed = threading.Condition()
        self._next: tuple[Window, bytes] | None = None
        self._closed = False
        threading.Thread(target=self._work, name="redaction", daemon=True).start()

    def take(self, page: Window, picture: bytes) -> None:
        """Take a picture that came; the thread that reads from the browser does not wait."""
        with self._changed:
            self._next = page, picture
            self._changed.notify()

    def close(self) -> None:
        """Let the thread end."""
        with self._changed:
            self._closed = True
            self._changed.notify()

    def _work(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._closed or self._next)
                if self._closed or self._next is None:
                    return
                (page, picture), self._next = self._next, None
            try:
                picture = self._redactor.over(page, picture)
            except BrowserError:
                self._keep_back(page, picture)
                continue
            except Exception:
                log.exception("picture_not_redacted")  # better none than one that shows too much
                continue
            self._show(page, picture)

    def _keep_back(self, page: Window, picture: bytes) -> None:
        """Show nothing that may hold a secret: try again later, unless a newer picture comes."""
        with self._changed:
            if self._next or page.gone.is_set():
                return
            self._changed.wait_for(lambda: self._closed or self._next, AGAIN)
            self._next = self._next or (page, picture)


class Live:
    """The live picture of a context: follows its current window.

    With `always`, pictures are made even when nobody watches (the recorder wants the last one).
    With a redactor, it lies over every picture before anybody sees it.
    """

    def __init__(
        self, context: Session, *, always: bool = False, redactor: Redactor | None = None
    ) -> None:
        self.context = context
        self.last = b""
        self._redacting = RedactionQueue(redactor, self._show) if redactor else None
        self._redactor = redactor
        if redactor:
            redactor.learn()
        self._always = always
        self._viewers: list[Viewer] = []
        self._shown: Window | None = None
        self._fresh = threading.Event()
        self._came = 0.0
        self._lock = threading.RLock()
        context.on_change = self.changed
        self.changed()

    def add(self, viewer: Viewer) -> None:
        """Let a viewer watch from now on, beginning with the present picture."""
        with self._lock:
            self._viewers.append(viewer)
            viewer.say(self.safe(self.state()))
            if self.last:
                viewer.show(self.last)
        self.changed()

    def watched_by(self, account: int) -> bool:
        """Tell whether somebody watches."""
        with self._lock:
            return any(viewer.account == account for viewer in self._viewers)

    def remove(self, viewer: Viewer) -> int:
        """Let a viewer go; returns how many are left."""
        with self._lock:
            if viewer in self._viewers:
                self._viewers.remove(viewer)
            left = len(self._viewers)
        self.changed()
        return left

    def say(self, message: Said) -> None:
        """Say something to all viewers, without the values of secrets."""
        message = self.safe(message)
        with self._lock:
            for viewer in self._viewers:
                viewer.say(message)

    def safe(self, message: Said) -> Said:
        """Return a message without the values of secrets."""
        if self._redactor is None:
            return message
        safe: Said = everywhere(message, self._redactor.hide)
        return safe

    def close(self) -> None:
        """Stop making pictures and let all viewers go."""
        with self._lock:
            self.say({"type": "ended"})
            if self._shown:
                self._shown.stop_pictures()
                self._shown = None
            self._always = False
        if self._redacting:
            self._redacting.close()

    def state(self) -> StateSaid:
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
            "dialog": DialogSaid(type=dialog.type, message=dialog.message, default=dialog.default)
            if dialog
            else None,
            "viewport": current.viewport if current else None,
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
                    wanted.start_pictures(partial(self._take, wanted))
                    threading.Thread(
                        target=self._keep_fresh, args=(wanted,), name="fresh-picture", daemon=True
                    ).start()
            for page in pages:
                page.on_change = self.changed
            self.say(self.state())

    def _make_sure(self, page: Window) -> None:
        """Ask for a picture until one has come from the window that is shown."""
        while not self._fresh.wait(FIRST_PICTURE) and self._shown is page:
            try:
                picture = page.picture()
            except (CommandFailed, NoAnswer, DialogOpen):
                continue
            except BrowserError:
                return
            if self._shown is page and not self._fresh.is_set():
                self._deliver(page, picture)

    def _keep_fresh(self, page: Window) -> None:
        """Ask for a picture of what the browser's own pictures have left out, once it rests.

        A browser that is busy leaves pictures out, the last one as well: without asking, the stage
        would show an earlier state until the page changes once more.
        """
        self._make_sure(page)
        looks, changed, asked, owed = "", time.monotonic(), time.monotonic(), False
        while self._shown is page and not page.gone.wait(CHECK):
            try:
                now_looks = str(page.probe("looks", timeout=1.0))
                now = time.monotonic()
                if now_looks != looks:
                    looks, changed, owed = now_looks, now, True
                elif self._came > asked + CHECK and now - asked > SELDOM:
                    owed = True
                rests = now - max(changed, self._came) >= REST
                if owed and (rests or (now - changed >= LATE and self._came < changed)):
                    asked, owed = now, False
                    self._deliver(page, page.picture())
            except (CommandFailed, NoAnswer, DialogOpen):
                continue  # being replaced, busy, or asking something: looked at again soon
            except BrowserError:
                return

    def _take(self, page: Window, picture: bytes) -> None:
        """Take a picture that the browser sent by itself."""
        self._came = time.monotonic()
        self._deliver(page, picture)

    def _deliver(self, page: Window, picture: bytes) -> None:
        self._fresh.set()
        if self._redacting:
            self._redacting.take(page, picture)
        else:
            self._show(page, picture)

    def _show(self, page: Window, picture: bytes) -> None:
        with self._lock:
            if page is not self._shown:
                return
            self.last = picture
            for viewer in self._viewers:
                viewer.show(picture)
