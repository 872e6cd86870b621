"""The record of a cast while it is played: results, pictures, pages and files in the database."""

from __future__ import annotations

import mimetypes
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor

from sqlalchemy.orm import Session

from lantern.core.elements.facts import Facts
from lantern.core.engine import requests as ask
from lantern.core.engine.outcomes import StepResult
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.values.templates import masked
from lantern.station.guides import Watcher
from lantern.store import casts, elements, pages, pictures
from lantern.store.database import Database
from lantern.store.models import Cast, Run

MOST_BEHIND = 8
"""Writes that may wait while the browser plays on: what a dying station can lose."""
OUTAGE = 120.0
"""Seconds for which the database may be away before a cast is given up."""


class Records(Watcher):
    """Keeps what happens to one cast, in order, on a thread of its own.

    While the database is away writes wait, and with them, a few sentences later, the cast. A write
    that fails for good is raised by a later call or by `close`, which waits for all of them:
    TooLate where the cast was taken away meanwhile. `stopped` tells that nobody wants more.
    """

    def __init__(
        self,
        database: Database,
        run: Run,
        cast: Cast,
        secrets: dict[str, str],
        stopped: Callable[[], bool] = lambda: False,
    ) -> None:
        self._database, self._run_id = database, run.id
        self._cast_id, self._token = cast.id, cast.token
        self._test_id, self._files = run.test_id, run.files
        self._first = cast.position == 0
        self._secrets, self._stopped = secrets, stopped
        self._step = ""
        self._results = 0
        self._titles: set[str] = set()
        self._unseen = {
            step["id"]: step["element"]
            for step in run.body.get("steps", [])
            if step["element"] and not run.elements.get(step["element"], {}).get("seen")
        }
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

    def _write(self, work: Callable[[Session], object]) -> None:
        while len(self._behind) >= MOST_BEHIND or (self._behind and self._behind[0].done()):
            self._behind.popleft().result()
        self._behind.append(self._writer.submit(self._insist, work))

    def _insist(self, work: Callable[[Session], object]) -> None:
        self._database.insist(work, OUTAGE, ending=self._stopped)

    def _hide(self, text: str) -> str:
        return masked(text, self._secrets)

    def keep_picture(self, content: bytes) -> str:
        """Keep a picture; returns its digest."""
        self._write(lambda session: pictures.keep(session, content))
        return pictures.digest_of(content)

    def wants_page(self, title: str, *, failed: bool) -> bool:
        """Each page once, in the first row, and the page on which something failed.

        Also the page of a step whose element is known by its clues alone: it is seen there.
        """
        new = title_pattern(title) not in self._titles
        return failed or (self._first and (new or self._step in self._unseen))

    def keep_page(
        self, title: str, address: str, nodes: list[Facts], picture: str, *, failed: bool
    ) -> None:
        """Keep all that is on a page, and what the step's element looks like there."""
        nodes = [facts.masked(self._hide) for facts in nodes]
        title, address = self._hide(title), self._hide(address)
        step = self._step
        key = self._unseen.pop(step, "")
        if key:
            self._write(lambda session: elements.remember(session, key, nodes))
        if failed or title_pattern(title) not in self._titles:
            self._write(
                lambda session: pages.save(
                    session,
                    title,
                    nodes,
                    address=address,
                    picture=picture,
                    test_id=self._test_id,
                    run_id=self._run_id,
                    cast_id=self._cast_id,
                    step_id=step,
                )
            )
        self._titles.add(title_pattern(title))

    def keep_file(self, name: str, content: bytes) -> str:
        """Keep a file that the page gave; returns its digest."""
        mime = mimetypes.guess_type(name)[0] or "application/octet-stream"
        self._write(lambda session: pictures.keep(session, content, mime))
        return pictures.digest_of(content)

    def file(self, name: str) -> bytes | None:
        """Return a file that was kept with the test when the run was queued."""
        digest = self._files.get(name)
        if not digest:
            return None
        with self._database.session() as session:
            kept = pictures.load(session, digest)
            return kept.content if kept else None

    def step_starts(self, step: ask.StepStarts) -> None:
        """Note which step is under way."""
        self._step = step.step_id
        self._write(
            lambda session: casts.set_current(
                session, self._cast_id, self._token, self._hide(step.sentence), step.step_id
            )
        )

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        """Keep a step's result."""
        self._results += 1
        place = self._results
        self._write(
            lambda session: casts.keep_result(
                session,
                self._cast_id,
                self._token,
                place,
                result,
                console,
                requests,
                self._secrets,
            )
        )
