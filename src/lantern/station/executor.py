"""The executor: plays one cast in a context of its own, every step kept as it ends."""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import ExitStack, suppress
from dataclasses import dataclass, replace

import structlog

from lantern.browser.errors import BrowserError
from lantern.core.engine.browsers import browser_named
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import Problem
from lantern.core.runs.life import Ended, Lost, Outcome, TooLate
from lantern.core.runs.work import Work
from lantern.station.book import Book, Books
from lantern.station.browsers import Browsers
from lantern.station.guides import GOES_ON, Cancelled
from lantern.station.live import Live
from lantern.station.offering import Offer
from lantern.station.player import Player
from lantern.station.proving import Prover
from lantern.station.records import Records
from lantern.station.redaction import Redactor

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
        books: Books | None,
        browsers: Browsers,
        show: Callable[[int, Shown | None], None] = lambda cast_id, shown: None,
    ) -> None:
        self._books, self._browsers, self._show = books, browsers, show
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

    def is_stopped(self) -> bool:
        """Tell whether nobody wants more of what is played."""
        return self._stopped.is_set()

    def play(self, cast_id: int, job: int) -> None:
        """Take a cast and play it to its end; what goes wrong is written into its book."""
        assert self._books is not None  # noqa: S101 - else it is given what was taken
        book = self._books.take(cast_id, job, self.is_stopped, lambda: self._station_stops)
        if book is None:
            log.info("cast_not_to_be_had", cast=cast_id, job=job)
            return
        self.play_by(book)

    def play_by(self, book: Book) -> None:
        """Play a cast that was taken, by its book, to its end."""
        self.token = book.work.token
        try:
            try:
                played = self._play(book)
            finally:
                self._show(book.work.cast, None)
            book.over(played.ended, played.release, played.prover)
        except TooLate:
            log.warning("cast_taken_away", cast=book.work.cast)

    def _play(self, book: Book) -> _Played:
        """Play; whatever goes wrong unforeseen ends this cast alone."""
        work = book.work

        def ended(outcome: Outcome, message: str = "") -> _Played:
            return _Played(Ended(work.cast, work.token, outcome, message))

        try:
            if work.trouble:
                return ended("failed", work.trouble)
            with ExitStack() as owned:
                return self._play_in(book, owned)
        except Cancelled:
            if self._station_stops:
                return _Played(Lost(work.cast, work.token, STATION_STOPPED))
            return ended("cancelled")
        except Problem as error:
            return ended("failed", error.message)
        except BrowserError as error:  # nothing is known of the application
            return ended("interrupted", str(error))
        except TooLate:
            raise
        except Exception as error:
            log.exception("cast_failed", cast=work.cast)
            kind = type(error).__name__
            return ended("interrupted", f"Lantern itself failed ({kind}); its log says more.")

    def _play_in(self, book: Book, owned: ExitStack) -> _Played:
        work = book.work
        try:
            held = browser_named(work.browser)
        except Problem as error:
            book.ends(1, _refused(work, error), [], [])
            return _Played(Ended(work.cast, work.token, "failed", counts=True))
        script = work.script()
        context = self._browsers.context(held)
        owned.callback(context.close)
        book.began(context.browser.version)
        live = Live(context, redactor=Redactor(work.secrets.values) if work.secrets else None)
        owned.callback(live.close)
        offer = book.offers(script, context, live)
        if offer:
            owned.callback(offer.close)
        self._show(work.cast, Shown(live, offer))
        records = owned.enter_context(Records(book))
        prover = book.proves(script)
        player = Player(context, records, prover=prover, guide=offer or GOES_ON)
        with self._lock:
            self._player, self._offer = player, offer
        if self._stopped.is_set():
            raise Cancelled
        if (following := book.following()) is not None:  # most likely played here next
            with suppress(Problem):  # it may name a browser that there is not
                self._browsers.prepare(browser_named(following))
        outcome = player.play(script)
        stops = f"Row {work.number} stopped the run." if player.stops_everything else ""
        told: Outcome = "passed" if outcome == "passed" else "failed"
        ended = Ended(work.cast, work.token, told, "", stops)
        if offer and offer.by:
            ended, outcome = _in_hand(work, ended, offer), "failed"
        return _Played(ended, player.release, prover if outcome == "passed" else None)


def _in_hand(work: Work, ended: Ended, offer: Offer) -> Ended:
    """Return how a cast ends that a person took in hand: a hand proves nothing on record."""
    told = f"{offer.by} took this row in hand at “{offer.at}”."
    on_record = work.kind == "run" and ended.outcome == "passed"
    told += " On record such a row does not count as passed." if on_record else ""
    outcome: Outcome = "failed" if on_record else ended.outcome
    return replace(ended, outcome=outcome, message=told, counts=True)


def _refused(work: Work, error: Problem) -> StepResult:
    """Return what is said where there is no browser of the name that the row says."""
    sentence = f"Begin in the browser “{work.browser}”"
    return StepResult("", 0, sentence, "failed", "bad value", error.message, hint=error.hint)
