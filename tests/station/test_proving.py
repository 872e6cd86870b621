"""Proving a recording on the stage, and the quiet comparison of the first green run."""

import pytest

from lantern.core.proving.comparing import Difference
from lantern.station.browsers import Browsers
from lantern.station.database_book import DatabaseBooks
from lantern.station.executor import Executor
from lantern.store import proofs, runs, tests
from lantern.store.vault import Vault
from tests.station.conftest import browser_of
from tests.station.desk import until
from tests.station.test_unknown_pages import opened, recording  # noqa: F401 - a fixture

FORM = """
<label>Clay <select data-part=clay id=clay><option>Raku<option>Grog</select></label>
<button data-part=ask onclick="out.textContent = `${clay.value}: 14 euros`">Ask</button>
<p id=out></p><p>{clock}</p>
"""


def form(clock="Now 10:04, 3 visitors", answer="14 euros"):
    return FORM.replace("{clock}", clock).replace("14 euros", answer)


@pytest.fixture
def recorded(recording, site):  # noqa: F811 - the fixture
    """A choice and a press were recorded, and the page is as it was before."""
    hand = opened(recording, site, form())
    hand.press("ask")
    until(lambda: recording.sentences(2) == ["Press Ask"], "the press")
    recording.stage.take({"type": "record", "on": False})
    until(lambda: effects(recording), "what came of it")
    recording.site = site
    return recording


def effects(recording):  # noqa: F811
    with recording.database.session() as session:
        return proofs.effects(session, recording.test)


def proof(recording):  # noqa: F811
    with recording.database.session() as session:
        due, kept = proofs.is_due(session, recording.test), proofs.get(session, recording.test)
        return due, [
            Difference(**told) for one in (kept.found if kept else []) for told in one["told"]
        ]


def prove(recording):  # noqa: F811
    recording.said.clear()
    recording.stage.take({"type": "prove"})
    until(lambda: any(one["type"] in ("proved", "error") for one in recording.said)
          or any(one.get("failed") for one in recording.said), lambda: recording.said)  # fmt: skip
    return proof(recording)


def test_a_recording_that_plays_as_it_was_done_is_proved(recorded):
    assert proof(recorded) == (True, [])
    assert prove(recorded) == (False, [])


def test_what_a_press_did_not_do_is_told_at_its_sentence(recorded):
    """The test is green: nothing checks the price. The proof sees that it did not come."""
    recorded.site.put("/", form("Now 11:30, 3 visitors", "sold out"))
    due, told = prove(recorded)
    assert not due
    assert [one.said for one in told] == [
        "“Raku: 14 euros” did not appear.", "“Raku: sold out” appeared.",
    ]  # fmt: skip
    with recorded.database.session() as session:
        found = proofs.get(session, recorded.test).found
    assert [one["sentence"] for one in found] == ["Press Ask"]


def test_what_is_set_aside_is_not_told_again(recorded):
    recorded.site.put("/", form(answer="sold out"))
    _, told = prove(recorded)
    with recorded.database.session() as session:
        proofs.set_aside(session, recorded.test, [one.line for one in told])
    assert proof(recorded)[1] == []
    assert prove(recorded)[1] == []


def test_the_application_is_set_back_before_it_is_proved(recorded):
    with recorded.database.session() as session:
        tests.get(session, recorded.test).environment.reset = "/reset"
    recorded.said.clear()
    recorded.stage.take({"type": "prove"})
    until(
        lambda: any("not set back" in one.get("failed", "") for one in recorded.said), "the error"
    )
    assert proof(recorded)[0]  # a site that knows no POST: nothing was played, nothing is proved


def run_once(recording):  # noqa: F811
    with recording.database.session() as session:
        test = tests.get(session, recording.test)
        run = runs.create(session, test, kind="run", choice="all", account_id=None)
        cast, run = run.casts[0], run.id
        session.refresh(cast)
    browsers = Browsers()
    browsers.get = lambda *_: browser_of("chromium", recording.running)
    Executor(DatabaseBooks(recording.database, Vault(), "st1"), browsers).play(cast.id, cast.job)
    with recording.database.session() as session:
        one = runs.get(session, run)
        return one.state, proofs.found_by(session, one)


def test_the_first_green_run_warns_and_later_ones_do_not(recorded):
    recorded.site.put("/", form(answer="sold out"))
    state, found = run_once(recorded)
    assert state == "passed"
    assert [one["sentence"] for one in found] == ["Press Ask"]
    state, found = run_once(recorded)
    assert (state, found) == ("passed", [])


def test_secrets_are_not_kept_in_what_is_compared(recording, site):  # noqa: F811
    hand = opened(
        recording, site,
        '<input data-part=pin type=password aria-label=Pin>'
        '<button data-part=show onclick="out.textContent = document.querySelector(`input`).value">'
        "Show</button><p id=out></p>",
    )  # fmt: skip
    hand.type("pin", "slip-and-clay")
    hand.press("show")
    until(lambda: len(recording.sentences(2)) == 2, "two sentences")
    recording.stage.take({"type": "record", "on": False})
    until(lambda: len(effects(recording)) >= 2, "what came of them")
    assert "slip-and-clay" not in str(effects(recording))
