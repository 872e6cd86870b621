"""A row that fails while its author watches is offered to them, and else goes its way."""

import threading
import time

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.edits import Change
from lantern.core.steps.model import Document, Settings, Step
from lantern.station.browsers import Browsers
from lantern.station.database_book import DatabaseBooks
from lantern.station.executor import Executor
from lantern.station.live import Viewer
from lantern.store import casts, elements, preferences, runs, tests
from lantern.store.models import Account, Environment
from lantern.store.vault import Vault
from tests.station.conftest import browser_of
from tests.station.desk import until

ODO = "Odo Fennick"
BOOK = Element("o-book", "Book", "button", (Clue("name", "is", "Book"),))
LOST = Element("o-lost", "Lost", "button", (Clue("name", "is", "Lost"),))


class Watched:
    """A run whose rows a person watches."""

    def __init__(self, database, site, running):
        self.database, self.running = database, running
        site.put("/", "<button>Book</button>")
        self.offer, self.live, self.said = None, None, []
        steps = (
            Step("open", "open", inputs={"address": "/"}),
            Step("lost", "press", LOST.id),
            Step("book", "press", BOOK.id),
        )
        with database.session() as session:
            self.author = session.query(Account).filter_by(username="odo").one().id
            environment = session.query(Environment).one()
            environment.address = site.address
            for one in (BOOK, LOST):
                elements.save(session, one)
            document = Document(steps, settings=Settings(0.4, pictures="none"))
            self.test = tests.create(session, "Offered", environment.id, self.author, document).id

    def play(self, kind="run", *, watched=True, seconds=20):
        """Let a station play it, on a thread; returns that."""
        with self.database.session() as session:
            preferences.put_rehearsing(session, preferences.Rehearsing(5, seconds))
            test = tests.get(session, self.test)
            run = runs.create(session, test, kind, "all", self.author)
            cast, self.run = run.casts[0], run.id
            session.refresh(cast)
            self.cast, job = cast.id, cast.job
        browsers = Browsers()
        browsers.get = lambda *_: browser_of("chromium", self.running)
        self.executor = Executor(
            DatabaseBooks(self.database, Vault(), "st1"),
            browsers,
            show=lambda _, shown: self._shown(shown, watched=watched),
        )
        thread = threading.Thread(target=self.executor.play, args=(self.cast, job), daemon=True)
        thread.start()
        return thread

    def _shown(self, shown, *, watched):
        if shown is None:
            return
        self.offer, self.live = shown.offer, shown.live
        say = self.live.say

        def heard(message):
            self.said.append(message)
            say(message)

        self.live.say = heard
        if watched:
            self.live.add(Viewer(self.author))

    def offered(self):
        return until(
            lambda: any(one["type"] == "offer" and one["seconds"] for one in self.said), "offered"
        )

    def take(self, account=None):
        self.offer.take_in_hand({"account": account or self.author, "name": ODO})

    def held(self):
        return until(
            lambda: (
                self.offer.stage
                and self.offer.stage.rehearsals.now.held
                and self.offer.stage.rehearsals.now.state
            ),
            "held",
        )

    def send(self, **message):
        self.offer.stage.take(message, self.author)

    def came(self, thread):
        thread.join(30)
        assert not thread.is_alive()
        with self.database.session() as session:
            run = runs.get(session, self.run)
            cast = run.casts[0]
            outcomes = [one.outcome for one in casts.results(session, cast.id)]
            return run.state, cast.hand, cast.message, outcomes


@pytest.fixture
def watched(database, site, running):
    return Watched(database, site, running)


def repair(watched):
    with watched.database.session() as session:
        change = Change("lost", {"element": BOOK.id})
        tests.edit(session, watched.test, change, watched.author)


def test_it_is_taken_repaired_and_tried_again_and_on_record_does_not_count_as_passed(watched):
    thread = watched.play()
    watched.offered()
    watched.take(account=999)
    watched.take()
    state = watched.held()
    assert (state["why"], state["spot"]["step"]) == ("trouble", "lost")
    watched.send(type="from here", calls=[], step="book", sure=True)
    until(lambda: any(one["type"] == "error" for one in watched.said), "that it stays where it is")
    repair(watched)
    watched.send(type="hand", do="again")
    state, hand, message, outcomes = watched.came(thread)
    assert (state, hand, outcomes) == ("failed", ODO, ["passed"] * 3)
    assert "On record such a row does not count as passed" in message


def test_a_try_that_was_in_hand_may_pass_and_says_so(watched):
    thread = watched.play("try")
    watched.offered()
    watched.take()
    watched.held()
    repair(watched)
    watched.send(type="hand", do="again")
    state, hand, message, _ = watched.came(thread)
    assert (state, hand) == ("passed", ODO)
    assert message.startswith(f"{ODO} took this row in hand at “Press Lost”")


@pytest.mark.parametrize(
    "given", [{"watched": False}, {"seconds": 0}, {"seconds": 1}], ids=["unwatched", "off", "late"]
)
def test_nobody_who_takes_it_lets_the_failure_take_its_course(watched, given):
    began = time.monotonic()
    state, hand, message, outcomes = watched.came(watched.play(**given))
    assert (state, hand, message) == ("failed", "", "")
    assert outcomes == ["passed", "failed", "skipped"]
    assert time.monotonic() - began < 15


def test_it_is_let_go_at_once_and_goes_on_without_who_had_it(watched):
    thread = watched.play(seconds=60)
    watched.offered()
    watched.offer.decline({"account": watched.author, "name": ODO})
    assert watched.came(thread)[:2] == ("failed", "")
    thread = watched.play(seconds=60)
    watched.said.clear()
    watched.offered()
    watched.take()
    watched.held()
    watched.send(type="hand", do="end")
    assert watched.came(thread)[:2] == ("failed", ODO)


def test_a_run_that_is_cancelled_waits_for_no_hand(watched):
    for in_hand in (False, True):
        watched.said.clear()
        thread = watched.play(seconds=60)
        watched.offered()
        if in_hand:
            watched.take()
            watched.held()
        with watched.database.session() as session:
            runs.ask_cancel(session, watched.run)
        watched.executor.stop()
        assert watched.came(thread)[0] == "cancelled"
