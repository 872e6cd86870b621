"""The record of a cast while it is played: what of it is kept, in order, with secrets masked."""

from __future__ import annotations

import mimetypes
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor

from lantern.core.elements.facts import Facts
from lantern.core.engine import requests as ask
from lantern.core.engine.outcomes import StepResult
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.values.templates import masked
from lantern.station.book import Book, SeenPage
from lantern.station.guides import Watcher
from lantern.store.pictures import digest_of

MOST_BEHIND = 8
"""Writes that may wait while the browser plays on: what a dying station can lose."""
JPEG = "image/jpeg"


class Records(Watcher):
    """Writes into the book of one cast, in order, on a thread of its own.

    While who keeps the book is away writes wait, and with them, a few sentences later, the cast. A
    write that fails for good is raised by a later call or by `close`, which waits for all of them:
    TooLate where the cast was taken away meanwhile.
    """

    def __init__(self, book: Book) -> None:
        self._book, self._work = book, book.work
        self._step = ""
        self._results = 0
        self._titles: set[str] = set()
        self._seeing = self._work.seeing() if self._work.watched else frozenset()
        self._looks: dict[str, int] = {}
        self._unseen = self._work.unseen()
        self._writer = ThreadPoolExecutor(1, "records")
        self._behind: deque[Future[None]] = deque()

    def __enter__(self) -> Records:
        return self

    def __exit__(self, kind: object, *_: object) -> None:
        try:
            self.close()
        except Exception:
            if kind is None:  # else what went wrong first is what matters
                raise

    def close(self) -> None:
        """Wait until everything is written; raises what went wrong with it."""
        self._writer.shutdown()
        while self._behind:
            self._behind.popleft().result()

    def _write(self, write: Callable[[], None]) -> None:
        while len(self._behind) >= MOST_BEHIND or (self._behind and self._behind[0].done()):
            self._behind.popleft().result()
        self._behind.append(self._writer.submit(write))

    def _hide(self, text: str) -> str:
        return masked(text, self._work.secrets)

    def keep_picture(self, content: bytes) -> str:
        """Keep a picture; returns its digest."""
        self._write(lambda: self._book.keep(content, JPEG))
        return digest_of(content)

    def wants_page(self, title: str, *, failed: bool) -> bool:
        """Each page once, in the first row, and the page on which something failed.

        Also the page of a step whose element is known by its clues alone: it is seen there. In the
        first two rows also what a check saw, and what is there at the end.
        """
        new = title_pattern(title) not in self._titles
        unseen = self._work.first and self._step in self._unseen
        return failed or unseen or (self._work.watched and (new or self._sees()))

    def _sees(self) -> bool:
        return not self._step or self._step in self._seeing

    def looks_last(self) -> bool:
        """Tell whether what the row ends on is kept; it belongs to no step.

        It is where each step has its picture: a test that keeps none shows nothing at its end.
        """
        self._step = ""
        settings = self._work.body.get("settings", {})
        return self._work.watched and settings.get("pictures", "each step") == "each step"

    def keep_page(
        self, title: str, address: str, nodes: list[Facts], picture: str, *, failed: bool
    ) -> None:
        """Keep all that is on a page, and what the step's element looks like there."""
        nodes = [facts.masked(self._hide) for facts in nodes]
        title, address = self._hide(title), self._hide(address)
        step = self._step
        key = self._unseen.pop(step, "")
        if key:
            self._write(lambda: self._book.remember(key, nodes))
        pattern = title_pattern(title)
        look = hash(tuple((one.path, one.text, one.visible, one.enabled) for one in nodes))
        if failed or pattern not in self._titles or (self._sees() and look != self._looks[pattern]):
            self._looks[pattern] = look
            page = SeenPage(title, address, nodes, picture, step)
            self._write(lambda: self._book.saw(page))
        self._titles.add(pattern)

    def keep_file(self, name: str, content: bytes) -> str:
        """Keep a file that the page gave; returns its digest."""
        mime = mimetypes.guess_type(name)[0] or "application/octet-stream"
        self._write(lambda: self._book.keep(content, mime))
        return digest_of(content)

    def file(self, name: str) -> bytes | None:
        """Return a file that was kept with the test when the run was queued."""
        return self._book.file(name)

    def step_starts(self, step: ask.StepStarts) -> None:
        """Note which step is under way."""
        self._step = step.step_id
        self._write(lambda: self._book.at(self._hide(step.sentence), step.step_id))

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        """Keep a step's result."""
        self._results += 1
        place = self._results
        self._write(lambda: self._book.ends(place, result, console, requests))
