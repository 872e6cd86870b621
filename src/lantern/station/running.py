"""Carrying out a run: row by row, each in a fresh context, every step kept as it ends."""

from __future__ import annotations

import mimetypes
import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor

import structlog

from lantern.browser.cdp import BrowserError
from lantern.browser.chromium import Chromium, Context
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.engine import requests as ask
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import Problem
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.steps.model import Document
from lantern.core.values.templates import Names, masked
from lantern.station.live import Live
from lantern.station.player import Cancelled, Player, Watcher
from lantern.store import elements, pages, pictures, runs
from lantern.store.database import Database
from lantern.store.models import Run, RunRow
from lantern.store.vault import Vault

log = structlog.get_logger()
LOOK_FOR_CANCEL = 0.4
"""Seconds between two looks whether someone asked for the run to stop."""


class _Recorder(Watcher):
    """Keeps what happens to one row in the database."""

    def __init__(self, database: Database, run: Run, row: RunRow, secrets: dict[str, str]) -> None:
        self._database, self._run_id, self._row_id = database, run.id, row.id
        self._test_id, self._files = run.test_id, run.files
        self._first = row.position == 0
        self._secrets = secrets
        self._step = ""
        self._titles: set[str] = set()
        self._unseen = {
            step["id"]: step["element"]
            for step in run.body.get("steps", [])
            if step["element"] and not run.elements.get(step["element"], {}).get("seen")
        }

    def keep_picture(self, content: bytes) -> str:
        with self._database.session() as session:
            return pictures.keep(session, content)

    def wants_page(self, title: str, *, failed: bool) -> bool:
        """Each page once, in the first row, and the page on which something failed.

        Also the page of a step whose element is known by its clues alone: it is seen there.
        """
        new = title_pattern(title) not in self._titles
        return failed or (self._first and (new or self._step in self._unseen))

    def keep_page(
        self, title: str, address: str, nodes: list[Facts], picture: str, *, failed: bool
    ) -> None:
        nodes = [facts.masked(lambda text: masked(text, self._secrets)) for facts in nodes]
        key = self._unseen.pop(self._step, "")
        with self._database.session() as session:
            if key:
                elements.remember(session, key, nodes)
            if failed or title_pattern(title) not in self._titles:
                pages.save(
                    session,
                    title,
                    nodes,
                    address=address,
                    picture=picture,
                    test_id=self._test_id,
                    run_id=self._run_id,
                    row_id=self._row_id,
                    step_id=self._step,
                )
        self._titles.add(title_pattern(title))

    def keep_file(self, name: str, content: bytes) -> str:
        mime = mimetypes.guess_type(name)[0] or "application/octet-stream"
        with self._database.session() as session:
            return pictures.keep(session, content, mime)

    def file(self, name: str) -> bytes | None:
        digest = self._files.get(name)
        if not digest:
            return None
        with self._database.session() as session:
            kept = pictures.load(session, digest)
            return kept.content if kept else None

    def step_starts(self, step: ask.StepStarts) -> None:
        self._step = step.step_id
        with self._database.session() as session:
            runs.set_current(session, self._run_id, self._row_id, step.sentence)

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        with self._database.session() as session:
            runs.keep_result(
                session, self._run_id, self._row_id, result, console, requests, self._secrets
            )


class Carrier:
    """Carries out one run. `browser` gives a browser that lives; `show` is told what to watch."""

    def __init__(
        self,
        database: Database,
        vault: Vault,
        station_id: str,
        browser: Callable[[], Chromium],
        show: Callable[[int, Live | None], None] = lambda run_id, live: None,
    ) -> None:
        self._database, self._vault, self._station_id = database, vault, station_id
        self._browser, self._show = browser, show
        self._cancelled = threading.Event()
        self._over = threading.Event()
        self._player: Player | None = None
        self._spare: Future[Context] | None = None

    def cancel(self) -> None:
        """Stop the run as soon as possible."""
        self._cancelled.set()
        player = self._player
        if player:
            player.cancel()

    def carry_out(self, run_id: int) -> None:
        """Carry out a queued run to its end; what goes wrong is written into the run."""
        try:
            browser = self._browser()
        except BrowserError as error:
            self._finish(run_id, "failed", str(error))
            return
        with self._database.session() as session:
            run = runs.claim(session, run_id, self._station_id, browser.version)
            if run is None:
                return
            rows = list(run.rows)
        watch = threading.Thread(target=self._watch_cancel, args=(run_id,), daemon=True)
        watch.start()
        state, message = "failed", ""
        try:
            with ThreadPoolExecutor(1, "context") as pool:
                state = self._play_rows(run, rows, pool)
        except Problem as error:
            message = error.message
        except Exception:
            log.exception("run_failed", run_id=run_id)
            message = "Lantern itself failed; its log says more."
        finally:
            self._over.set()
            self._show(run_id, None)
            self._finish(run_id, state, message)

    def _finish(self, run_id: int, state: str, message: str) -> None:
        with self._database.session() as session:
            run = runs.get(session, run_id)
            if run.state in ("queued", "running"):
                runs.finish(session, run, state, message)

    def _watch_cancel(self, run_id: int) -> None:
        while not self._over.wait(LOOK_FOR_CANCEL):
            with self._database.session() as session:
                asked = runs.cancel_asked(session, run_id)
            if asked:
                self.cancel()
                return

    def _play_rows(self, run: Run, rows: list[RunRow], pool: ThreadPoolExecutor) -> str:
        document = Document.read(run.body)
        known = {key: Element.read(raw) for key, raw in run.elements.items()}
        with self._database.session() as session:
            secrets = self._vault.values(session, run.environment_id)
        outcomes = set()
        for place, row in enumerate(rows):
            if self._cancelled.is_set():
                return "cancelled"
            names = Names(row=row.values, env={"base_url": run.address}, secret=secrets)
            script = Script(document, known, names, run.address)
            more = place + 1 < len(rows)
            try:
                outcomes.add(self._play_row(run, row, script, secrets, pool, more=more))
            except Cancelled:
                return "cancelled"
        return "failed" if "failed" in outcomes else "passed"

    def _play_row(
        self,
        run: Run,
        row: RunRow,
        script: Script,
        secrets: dict[str, str],
        pool: ThreadPoolExecutor,
        *,
        more: bool,
    ) -> str:
        with self._database.session() as session:
            runs.start_row(session, run.id, row.id)
        context = self._context()
        live = Live(context)
        self._show(run.id, live)
        player = Player(context, _Recorder(self._database, run, row, secrets))
        self._player = player
        if more:  # the next row's context is made ready while this row plays
            self._spare = pool.submit(self._new_context)
        try:
            outcome = player.play(script)
        finally:
            self._player = None
            live.close()
            context.close()
        with self._database.session() as session:
            if player.release:
                runs.get(session, run.id).release = player.release
            runs.end_row(session, run.id, row.id, outcome)
        return outcome

    def _new_context(self) -> Context:
        context = self._browser().new_context()
        context.open_page()
        return context

    def _context(self) -> Context:
        spare, self._spare = self._spare, None
        if spare:
            try:
                context = spare.result()
                if context.browser.alive and context.pages:
                    return context
            except BrowserError:
                pass  # it died while waiting; a new one is made
        return self._new_context()
