"""Carrying out a run: row by row, each in a fresh context, every step kept as it ends."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor

import structlog

from lantern.browser.cdp import BrowserError
from lantern.browser.chromium import Chromium, Context
from lantern.core.elements.clues import Element
from lantern.core.engine.attempt import Flow, Script
from lantern.core.engine.browsers import BROWSERS, USUAL, browser_named
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import Problem
from lantern.core.steps.model import Document
from lantern.core.values.templates import Names
from lantern.station.blurring import Veil
from lantern.station.live import Live
from lantern.station.player import Cancelled, Player
from lantern.station.proving import Prover, prover_for
from lantern.station.records import Records
from lantern.store import proofs, runs
from lantern.store.database import Database
from lantern.store.models import Run, RunRow
from lantern.store.vault import Vault

log = structlog.get_logger()
LOOK_FOR_CANCEL = 0.4
"""Seconds between two looks whether someone asked for the run to stop."""


class Carrier:
    """Carries out one run. `browser` gives a browser that lives; `show` is told what to watch."""

    def __init__(
        self,
        database: Database,
        vault: Vault,
        station_id: str,
        browser: Callable[[str], Chromium],
        show: Callable[[int, Live | None], None] = lambda run_id, live: None,
    ) -> None:
        self._database, self._vault, self._station_id = database, vault, station_id
        self._browser, self._show = browser, show
        self._cancelled = threading.Event()
        self._over = threading.Event()
        self._player: Player | None = None
        self._stops = False
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
            browser = self._browser(BROWSERS[USUAL].engine)
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
        flows = {
            key: Flow(raw["name"], Document.read(raw["body"])) for key, raw in run.flows.items()
        }
        with self._database.session() as session:
            secrets = self._vault.values(session, run.environment_id)
        outcomes = set()
        for place, row in enumerate(rows):
            if self._cancelled.is_set():
                return "cancelled"
            names = Names(
                row=row.values,
                env={**run.variables, "base_url": run.address},
                secret=secrets,
                given={one.name: one.default for one in document.takes},
                seed=f"{run.seed}|{row.number}",
                today=run.queued_at.date(),
            )
            script = Script(document, known, names, run.address, flows)
            browser = _wanted(row, document)
            if not self._has_browser(run, row, browser):
                outcomes.add("failed")
                continue
            try:
                context = self._context(browser)
                if place + 1 < len(rows):  # made ready while this row plays
                    following = _wanted(rows[place + 1], document)
                    self._spare = pool.submit(self._new_context, following)
                outcomes.add(self._play_row(run, row, script, secrets, context))
            except Cancelled:
                return "cancelled"
            if self._stops:
                return "failed"  # the rows that are left end as skipped
        return "failed" if "failed" in outcomes else "passed"

    def _has_browser(self, run: Run, row: RunRow, wanted: str) -> bool:
        """Tell whether the browser that a row names is there; its row fails when it is not."""
        try:
            browser_named(wanted)
        except Problem as error:
            sentence = f"Begin in the browser “{wanted}”"
            result = StepResult(
                "", 0, sentence, "failed", "bad value", error.message, hint=error.hint
            )
            with self._database.session() as session:
                runs.keep_result(session, run.id, row.id, result, [], [], {})
                runs.end_row(session, run.id, row.id, "failed")
            return False
        return True

    def _play_row(
        self,
        run: Run,
        row: RunRow,
        script: Script,
        secrets: dict[str, str],
        context: Context,
    ) -> str:
        with self._database.session() as session:
            runs.start_row(session, run.id, row.id)
        live = Live(context, veil=Veil(secrets.values) if secrets else None)
        self._show(run.id, live)
        records = Records(self._database, run, row, secrets)
        prover = self._prover_of(run, row, script)
        player = Player(context, records, prover=prover)
        self._player = player
        try:
            outcome = player.play(script)
            self._stops = player.stops_everything
        finally:
            self._player = None
            live.close()
            context.close()
            records.close()
        with self._database.session() as session:
            if player.release:
                runs.get(session, run.id).release = player.release
            runs.end_row(session, run.id, row.id, outcome)
            if prover and run.test_id is not None and outcome == "passed":
                proofs.keep(session, run.test_id, prover.found, prover.compared, run.id)
        return outcome

    def _prover_of(self, run: Run, row: RunRow, script: Script) -> Prover | None:
        """Return what holds the first green row since the recording against it, None later."""
        if run.test_id is None:
            return None
        with self._database.session() as session:
            if not proofs.is_due(session, run.test_id):
                return None
            return prover_for(session, run.test_id, script.document, script.names)

    def _new_context(self, name: str) -> Context:
        """Return a context with a window in the browser of that name; raises UnknownName."""
        browser = browser_named(name)
        context = self._browser(browser.engine).new_context(browser)
        context.open_page()
        return context

    def _context(self, name: str) -> Context:
        """Return a context as `_new_context` does: the one that was made ready, if it fits."""
        spare, self._spare = self._spare, None
        if spare:
            try:
                context = spare.result()
                if (
                    context.browser.alive
                    and context.pages
                    and context.held_for == browser_named(name)
                ):
                    return context
                context.close()
            except (BrowserError, Problem):
                pass  # it died while waiting, or the row names no browser; a new one is made
        return self._new_context(name)


def _wanted(row: RunRow, document: Document) -> str:
    """Return what a row says of its browser, "" when the table has no such column."""
    columns = [name for name in document.columns if document.trait(name).role == "browser"]
    return str(row.values.get(columns[0], "")) if columns else ""
