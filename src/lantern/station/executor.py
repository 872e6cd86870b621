"""The executor: plays one cast in a context of its own, every step kept as it ends."""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import ExitStack, suppress
from dataclasses import dataclass, replace

import structlog
from sqlalchemy.orm import Session

from lantern.browser.errors import BrowserError
from lantern.browser.session import Session as Windows
from lantern.core.elements.clues import Element
from lantern.core.engine.attempt import Flow, Script
from lantern.core.engine.browsers import browser_named
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import Problem
from lantern.core.runs.life import Ended, Lost, TooLate
from lantern.core.steps.model import Document
from lantern.core.values.sources import Names
from lantern.station.browsers import Browsers
from lantern.station.guides import GOES_ON, Cancelled
from lantern.station.keeping import Keeper
from lantern.station.live import Live
from lantern.station.offering import Offer, Row
from lantern.station.player import Player
from lantern.station.proving import Prover, prover_for
from lantern.station.records import OUTAGE, Records
from lantern.station.redaction import Redactor
from lantern.store import casts, plan_runs, preferences, proofs
from lantern.store.database import Database
from lantern.store.models import Cast, Run
from lantern.store.vault import Vault

log = structlog.get_logger()
STATION_STOPPED = "The station that played it was stopped."


@dataclass(frozen=True)
class Shown:
    """What there is to watch of a cast, and what offers it when it fails."""

    live: Live
    offer: Offer | None = None


@dataclass
class _Played:
    """What playing came to: the end to report, and what else is to be kept with it."""

    ended: Ended | Lost
    release: str = ""
    prover: Prover | None = None


class Executor:
    """Plays one cast. `show` is told what there is to watch meanwhile, None at the end."""

    def __init__(
        self,
        database: Database,
        vault: Vault,
        station_id: str,
        browsers: Browsers,
        show: Callable[[int, Shown | None], None] = lambda cast_id, shown: None,
    ) -> None:
        self._database, self._vault, self._station_id = database, vault, station_id
        self._browsers, self._show = browsers, show
        self._stopped = threading.Event()
        self._station_stops = False
        self._lock = threading.Lock()
        self._player: Player | None = None
        self._offer: Offer | None = None
        self.token = ""

    def stop(self, *, station: bool = False) -> None:
        """Stop as soon as possible, since the run is to end or the `station` does."""
        with self._lock:
            self._station_stops |= station
            self._stopped.set()
            player, offer = self._player, self._offer
        if offer:
            offer.stop()
        if player:
            player.cancel()

    def play(self, cast_id: int, job: int) -> None:
        """Take a cast and play it to its end; what goes wrong is written into the cast."""
        with self._database.session() as session:
            taken = casts.take(session, cast_id, job, self._station_id)
        if taken is None:
            log.info("cast_not_to_be_had", cast=cast_id, job=job)
            return
        run, cast = taken
        self.token = cast.token
        plan_run = run.plan_run_id
        if plan_run is not None:
            self._insist(lambda session: plan_runs.begun(session, plan_run))
        try:
            played = self._play(run, cast)
        except TooLate:
            log.warning("cast_taken_away", cast=cast_id)
            return
        finally:
            self._show(cast_id, None)
        try:
            self._insist(lambda session: _end(session, run, cast, played))
        except TooLate:
            log.warning("cast_taken_away", cast=cast_id)
        if plan_run is not None:  # in a transaction of its own: the plan is locked before its runs
            self._insist(lambda session: plan_runs.go_on(session, plan_run))

    def _insist(self, work: Callable[[Session], object]) -> None:
        self._database.insist(work, OUTAGE, ending=lambda: self._station_stops)

    def _play(self, run: Run, cast: Cast) -> _Played:
        """Play; whatever goes wrong unforeseen ends this cast alone."""

        def ended(outcome: str, message: str = "") -> _Played:
            return _Played(Ended(cast.id, cast.token, outcome, message))  # type: ignore[arg-type]

        try:
            with ExitStack() as owned:
                return self._play_in(run, cast, owned)
        except Cancelled:
            if self._station_stops:
                return _Played(Lost(cast.id, cast.token, STATION_STOPPED))
            return ended("cancelled")
        except Problem as error:
            return ended("failed", error.message)
        except BrowserError as error:  # nothing is known of the application
            return ended("interrupted", str(error))
        except TooLate:
            raise
        except Exception as error:
            log.exception("cast_failed", cast=cast.id)
            kind = type(error).__name__
            return ended("interrupted", f"Lantern itself failed ({kind}); its log says more.")

    def _play_in(self, run: Run, cast: Cast, owned: ExitStack) -> _Played:
        try:
            held = browser_named(cast.browser)
        except Problem as error:
            self._refuse(cast, error)
            return _Played(Ended(cast.id, cast.token, "failed", counts=True))
        script = self._script(run, cast)
        context = self._browsers.context(held)
        owned.callback(context.close)
        version = context.browser.version
        self._insist(lambda session: casts.began(session, cast.id, cast.token, version))
        secrets = dict(script.names.secret)
        live = Live(context, redactor=Redactor(secrets.values) if secrets else None)
        owned.callback(live.close)
        offer = self._offer_of(run, cast, script, context, live)
        if offer:
            owned.callback(offer.close)
        self._show(cast.id, Shown(live, offer))
        records = owned.enter_context(
            Records(self._database, run, cast, secrets, self._stopped.is_set)
        )
        prover = self._prover_of(run, script)
        player = Player(context, records, prover=prover, guide=offer or GOES_ON)
        with self._lock:
            self._player, self._offer = player, offer
        if self._stopped.is_set():
            raise Cancelled
        with self._database.session() as session:
            following = casts.following(session, run.id)
        if following is not None:  # most likely played here next
            with suppress(Problem):  # it may name a browser that there is not
                self._browsers.prepare(browser_named(following))
        outcome = player.play(script)
        stops = f"Row {cast.number} stopped the run." if player.stops_everything else ""
        ended = Ended(cast.id, cast.token, outcome if outcome == "passed" else "failed", "", stops)
        if offer and offer.by:
            told = f"{offer.by} took this row in hand at “{offer.at}”."
            on_record = run.kind == "run" and outcome == "passed"
            told += " On record such a row does not count as passed." if on_record else ""
            result = "failed" if on_record else ended.outcome
            ended = replace(ended, outcome=result, message=told, counts=True)
            outcome = "failed"  # what a hand was on proves nothing
        return _Played(ended, player.release, prover if outcome == "passed" else None)

    def _offer_of(
        self, run: Run, cast: Cast, script: Script, context: Windows, live: Live
    ) -> Offer | None:
        """Return what offers the row to its author; None for a run of nobody, or of no test."""
        if run.account_id is None or run.test_id is None:
            return None

        def seconds() -> float:
            return self._database.insist(
                lambda session: preferences.rehearsing(session).offered,
                OUTAGE,
                ending=lambda: self._station_stops,
            )

        def taken(name: str) -> None:
            self._insist(lambda session: casts.take_in_hand(session, cast.id, cast.token, name))

        def keeper_of(test: int, account: int) -> Keeper:
            return Keeper(self._database, self._vault, test, account)

        row = Row(run.test_id, run.account_id, cast.number, script, run.address, context, live)
        return Offer(row, seconds, taken, keeper_of)

    def _script(self, run: Run, cast: Cast) -> Script:
        document = Document.read(run.body)
        known = {key: Element.read(raw) for key, raw in run.elements.items()}
        flows = {
            key: Flow(raw["name"], Document.read(raw["body"])) for key, raw in run.flows.items()
        }
        with self._database.session() as session:
            secrets = self._vault.values(session, run.environment_id)
        names = Names(
            row=dict(cast.values),
            env={**run.variables, "base_url": run.address},
            secret=secrets,
            given={one.name: one.default for one in document.takes},
            seed=f"{run.seed}|{cast.number}",
            today=run.queued_at.date(),
        )
        return Script(document, known, names, run.address, flows)

    def _refuse(self, cast: Cast, error: Problem) -> None:
        """Write down that there is no browser of the name that the row says."""
        sentence = f"Begin in the browser “{cast.browser}”"
        result = StepResult("", 0, sentence, "failed", "bad value", error.message, hint=error.hint)
        self._insist(
            lambda session: casts.keep_result(session, cast.id, cast.token, 1, result, [], [], {})
        )

    def _prover_of(self, run: Run, script: Script) -> Prover | None:
        """Return what holds the first green row since the recording against it, None later."""
        if run.test_id is None:
            return None
        with self._database.session() as session:
            if not proofs.is_due(session, run.test_id):
                return None
            return prover_for(session, run.test_id, script.document, script.names)


def _end(session: Session, run: Run, cast: Cast, played: _Played) -> None:
    """Let the end happen, and keep with it what was learned."""
    casts.happen(session, run.id, played.ended)
    if played.release:
        session.get_one(Run, run.id).release = played.release
    if played.prover and run.test_id is not None:
        proofs.keep(session, run.test_id, played.prover.found, played.prover.compared, run.id)
