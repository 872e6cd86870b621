"""A pause turns into the wait for what the recording saw, over the API."""

from lantern.core.recording.proposals import Waited, propose
from lantern.store import waits
from tests.core.samples import node


def paused(client, quotes, number):
    """A pause put before the sentence of that number and turned into a wait."""
    before = quotes["steps"][number - 2]["id"]
    pause = {"id": f"pause{number}", "action": "pause", "inputs": {"seconds": "3"}}
    test = client.edit(quotes, do="insert", steps=[pause], after=before).json
    changed = client.edit(test, do="to wait", step=pause["id"])
    assert changed.status_code == 200, changed.json
    return next(step for step in changed.json["steps"] if step["id"] == pause["id"])


def test_a_pause_waits_for_what_became_ready_before_the_recorded_step(client, quotes, database):
    press, check = quotes["steps"][9], quotes["steps"][10]
    ready = propose(node("p", "Your price", text="Your price"), (), "Quote")
    with database.session() as session:
        waits.keep(session, press["id"], Waited("shown", ready), {})
        waits.keep(session, check["id"], Waited("enabled"), {})
    assert paused(client, quotes, 10)["sentence"] == "Wait until Your price is shown"
    again = client.test_named(quotes["name"])
    wait = paused(client, again, 12)
    assert wait["inputs"]["property"] == "enabled"
    assert wait["sentence"].startswith("Wait until Price is enabled")


def test_without_a_recording_it_waits_for_what_the_next_sentence_needs(client, quotes):
    wait = paused(client, quotes, 11)
    assert wait["sentence"] == "Wait until Price is shown"


def test_what_was_waited_for_never_shows_a_secret(client, quotes, database):
    press = quotes["steps"][9]
    ready = propose(node("p", "Hello slip-2", text="Hello slip-2"), (), "Quote")
    with database.session() as session:
        waits.keep(session, press["id"], Waited("shown", ready), {"pin": "slip-2"})
    paused(client, quotes, 10)
    found = client.test_named(quotes["name"])
    assert "slip-2" not in str(found)
    assert "Hello " in str(found["elements"])
