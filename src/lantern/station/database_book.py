"""The book of a cast in the database, for a station that stands beside it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from sqlalchemy.orm import Session

from lantern.browser.session import Session as Windows
from lantern.core.elements.facts import Facts
from lantern.core.engine.attempt import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.runs.life import Ended, Lost
from lantern.core.runs.work import Work
from lantern.station.book import OUTAGE, SeenPage, Told
from lantern.station.keeping import Keeper
from lantern.station.live import Live
from lantern.station.offering import Offer, Row
from lantern.station.proving import Prover, prover_for
from lantern.store import casts, elements, pages, pictures, plan_runs, preferences, proofs, works
from lantern.store.database import Database
from lantern.store.vault import Vault


class DatabaseBooks:
    """Takes casts for a station from the database."""

    def __init__(self, database: Database, vault: Vault, station_id: str) -> None:
        self._database, self._vault, self._station_id = database, vault, station_id

    def take(self, cast_id: int, job: int, stopped: Told, ending: Told) -> DatabaseBook | None:
        """Take a cast, as Books has it."""
        with self._database.session() as session:
            work = works.take(session, self._vault, cast_id, job, self._station_id)
        if work is None:
            return None
        return DatabaseBook(self._database, self._vault, work, stopped, ending)


class DatabaseBook:
    """A `Book` that is the database."""

    def __init__(
        self, database: Database, vault: Vault, work: Work, stopped: Told, ending: Told
    ) -> None:
        self._database, self._vault, self._work = database, vault, work
        self._stopped, self._ending = stopped, ending
        self._key = work.cast, work.token
        if (plan_run := work.plan_run) is not None:
            self._insist(lambda session: plan_runs.begun(session, plan_run))

    @property
    def work(self) -> Work:
        """What is to be played."""
        return self._work

    def _write(self, work: Callable[[Session], object]) -> None:
        """Write something that is of no use any more once the cast is to stop."""
        self._database.insist(work, OUTAGE, ending=self._stopped)

    def _insist(self, work: Callable[[Session], object]) -> None:
        """Write something that matters to the run, while the station lives."""
        self._database.insist(work, OUTAGE, ending=self._ending)

    def began(self, version: str) -> None:
        """Take note of the browser in which it is played."""
        self._insist(lambda session: casts.began(session, *self._key, version))

    def following(self) -> str | None:
        """Return the browser of the next cast of the run."""
        with self._database.session() as session:
            return casts.following(session, self._work.run)

    def at(self, sentence: str, step: str) -> None:
        """Take note of the sentence that is under way."""
        self._write(lambda session: casts.set_current(session, *self._key, sentence, step))

    def ends(
        self, place: int, result: StepResult, console: Sequence[str], requests: Sequence[str]
    ) -> None:
        """Keep how a sentence ended."""
        hidden = self._work.secrets
        self._write(
            lambda session: casts.keep_result(
                session, *self._key, place, result, console, requests, hidden
            )
        )

    def keep(self, content: bytes, mime: str) -> None:
        """Keep a picture or a file."""
        self._write(lambda session: pictures.keep(session, content, mime))

    def remember(self, element: str, nodes: Sequence[Facts]) -> None:
        """Let an element know what it looks like."""
        self._write(lambda session: elements.remember(session, element, nodes))

    def saw(self, page: SeenPage) -> None:
        """Keep all that was on a page."""
        work = self._work
        self._write(
            lambda session: pages.save(
                session,
                page.title,
                page.nodes,
                address=page.address,
                picture=page.picture,
                test_id=work.test,
                run_id=work.run,
                cast_id=work.cast,
                step_id=page.step,
            )
        )

    def file(self, name: str) -> bytes | None:
        """Return a file that was kept with the test when the run was queued."""
        digest = self._work.files.get(name)
        if not digest:
            return None
        with self._database.session() as session:
            kept = pictures.load(session, digest)
            return kept.content if kept else None

    def over(self, ended: Ended | Lost, release: str, prover: Prover | None) -> None:
        """Let the end happen, keep what was learned, and go on with the plan."""
        work = self._work

        def end(session: Session) -> None:
            works.over(session, work.run, ended, release)
            if prover and work.test is not None:
                proofs.keep(session, work.test, prover.found, prover.compared, work.run)

        try:
            self._insist(end)
        finally:  # in a transaction of its own: the plan is locked before its runs
            if (plan_run := work.plan_run) is not None:
                self._insist(lambda session: plan_runs.go_on(session, plan_run))

    def offers(self, script: Script, context: Windows, live: Live) -> Offer | None:
        """Return what offers the row to its author; None for a run of nobody, or of no test."""
        work = self._work
        if work.account is None or work.test is None:
            return None

        def seconds() -> float:
            return self._database.insist(
                lambda session: preferences.rehearsing(session).offered,
                OUTAGE,
                ending=self._ending,
            )

        def taken(name: str) -> None:
            self._insist(lambda session: casts.take_in_hand(session, *self._key, name))

        def keeper_of(test: int, account: int) -> Keeper:
            return Keeper(self._database, self._vault, test, account)

        row = Row(work.test, work.account, work.number, script, work.address, context, live)
        return Offer(row, seconds, taken, keeper_of)

    def proves(self, script: Script) -> Prover | None:
        """Return what holds the first green row since the recording against it, None later."""
        test = self._work.test
        if test is None:
            return None
        with self._database.session() as session:
            if not proofs.is_due(session, test):
                return None
            return prover_for(session, test, script.document, script.names)
