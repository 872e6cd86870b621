"""Defects at an outside tracker: handed over once, told anew, and what is done there comes back."""

import json
import threading
import time
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest
from sqlalchemy import select, update

from lantern.core.plans.posting import signature
from lantern.core.review.handing import USUAL
from lantern.demo.slate.app import TOKEN
from lantern.demo.slate.items import Items
from lantern.store.models import Handing, Handover, Tracker
from lantern.store.outbox import send_due
from lantern.store.vault import Vault
from lantern.web.tracking import look_due, teller
from tests.api.conftest import Client
from tests.past import past
from tests.slate import slate

SECRET = "told by the slate"
BACK = {**USUAL.back, "dropped": "closed"}


@pytest.fixture
def lead(client):
    return Client(client.http.application, "wren")


@pytest.fixture
def there():
    """A tracker: its items, and where it is."""
    with slate() as served:
        yield served


@pytest.fixture
def tracker(lead, there):
    return make(lead, there[1])


def make(lead, address, **more):
    body = {
        "name": "Slate",
        "address": f"{address}/api/items",
        "token": f"Bearer {TOKEN}",
        "inbox": SECRET,
        "mapping": {**USUAL.write(), "back": BACK},
    }
    answer = lead.post("/trackers", **body | more)
    assert answer.status_code == 200, answer.json
    return answer.json


@pytest.fixture
def number(client, ids, database):
    """The number of a defect."""
    run = past(database, ids["Book a firing"], "f")[-1]
    cast = client.get(f"/runs/{run}").json["casts"][0]
    [result] = client.get(f"/casts/{cast['id']}/results").json["results"]
    draft = client.get(f"/results/{result['id']}/defect").json
    texts = {name: draft[name] for name in ("title", "severity", "steps", "expected", "found")}
    return client.post("/defects", result_id=result["id"], **texts).json["defect"]["id"]


@pytest.fixture
def tell(database):
    """Send what waits, also what is to be tried later."""

    def tell():
        with database.session() as session:
            session.execute(
                update(Handing).filter_by(state="waiting").values(next_at=Handing.made_at)
            )
        return send_due(database, Handing, teller(Vault(), "http://lantern.example"))

    return tell


@pytest.fixture
def look(database):
    """Ask for all that was handed over, as if its time had come."""

    def look():
        with database.session() as session:
            session.execute(update(Handover).values(look_at=Handover.at))
        return look_due(database, Vault())

    return look


def hand(client, number, tracker):
    return client.post(f"/defects/{number}/handovers", tracker=tracker["id"])


def defect(client, number):
    return client.get(f"/defects/{number}").json


def change(client, number, **fields):
    version = defect(client, number)["version"]
    assert client.patch(f"/defects/{number}", version=version, **fields).status_code == 200


def test_a_defect_is_handed_over_with_its_comments_and_told_anew_when_it_changes(
    client, there, tracker, number, tell
):
    items, address = there
    client.post("/comments", place="defect", key=number, text="Seen by two members")
    assert hand(client, number, tracker).status_code == 200
    assert defect(client, number)["handed"][0]["waits"] == 2
    assert tell() == 2
    [item] = items.all()
    told = defect(client, number)
    assert item.title == told["defect"]["title"]
    assert item.state == "new"
    assert item.values["origin"] == f"http://lantern.example/defects/{number}"
    assert "**Steps**" in item.values["text"]
    assert item.comments == [{"author": "Odo Fennick", "text": "Seen by two members"}]
    [link] = told["handed"]
    assert (link["key"], link["link"], link["waits"]) == (item.id, f"{address}/items/{item.id}", 0)
    assert told["history"][-1]["after"] == "Slate"

    change(client, number, title="The price is wrong", state="in work")
    client.post("/comments", place="defect", key=number, text="On it")
    assert tell() == 2
    assert (item.title, item.state) == ("The price is wrong", "doing")
    assert item.comments[-1]["text"] == "On it"
    assert len(items.all()) == 1


def test_what_is_done_there_comes_back_and_is_in_the_history(
    client, there, tracker, number, tell, look
):
    items, _ = there
    hand(client, number, tracker)
    tell()
    [item] = items.all()
    items.change(item, {"state": "done", "fixed_in": "summer"})
    assert look() == 1
    told = defect(client, number)
    assert (told["defect"]["state"], told["defect"]["fixed_in"]) == ("fixed", "summer")
    changes = [(one["what"], one["after"], one["source"]) for one in told["history"]]
    assert ("state", "fixed", "Slate") in changes
    assert tell() == 0, "what it said itself is not said back to it"
    assert look() == 1
    assert len(defect(client, number)["history"]) == len(told["history"])


def test_a_word_there_for_the_same_state_stays_there(client, there, tracker, number, tell, look):
    items, _ = there
    hand(client, number, tracker)
    tell()
    [item] = items.all()
    items.change(item, {"state": "dropped"})
    look()
    assert defect(client, number)["defect"]["state"] == "closed"
    change(client, number, title="Not worth it")
    tell()
    assert (item.title, item.state) == ("Not worth it", "dropped")


def test_both_change_it_at_once_and_neither_is_overwritten_unseen(
    client, there, tracker, number, tell
):
    items, _ = there
    hand(client, number, tracker)
    tell()
    [item] = items.all()
    change(client, number, state="in work", title="Mine")
    items.change(item, {"state": "done"})
    tell()
    told = defect(client, number)
    assert (told["defect"]["state"], item.state, item.title) == ("fixed", "done", "Mine")
    came = [one["after"] for one in told["history"] if one["what"] == "state"]
    assert came == ["in work", "fixed"]


def test_it_is_handed_over_once_however_often_one_presses(client, there, tracker, number, tell):
    hand(client, number, tracker)
    assert hand(client, number, tracker).status_code == 409
    tell()
    assert hand(client, number, tracker).status_code == 409
    assert len(there[0].all()) == 1


def test_a_process_that_died_after_it_told_makes_no_second_item(
    client, there, tracker, number, tell, database
):
    hand(client, number, tracker)
    tell()
    with database.session() as session:  # as if what the tracker answered was never kept
        session.execute(update(Handover).values(key="", sent={}))
        session.execute(update(Handing).values(state="waiting", tries=0))
    tell()
    [item] = there[0].all()
    assert defect(client, number)["handed"][0]["key"] == item.id


def test_what_a_tracker_forgot_can_be_handed_over_anew(client, there, tracker, number, tell, look):
    items, _ = there
    hand(client, number, tracker)
    tell()
    items.clear()
    look()
    assert defect(client, number)["handed"][0]["gone"]
    change(client, number, title="Still there")
    assert tell() == 0
    assert hand(client, number, tracker).status_code == 200
    tell()
    [item] = items.all()
    assert item.title == "Still there"
    assert not defect(client, number)["handed"][0]["gone"]


def test_a_tracker_that_is_away_is_told_later_and_its_trouble_is_shown(
    client, lead, there, number, tell
):
    wrong = make(lead, there[1], token="Bearer wrong")
    hand(client, number, wrong)
    assert tell() == 1
    [link] = defect(client, number)["handed"]
    assert (link["key"], link["waits"], link["given_up"]) == ("", 1, False)
    assert link["said"].startswith("The answer was 401")
    body = {name: wrong[name] for name in ("name", "address", "mapping", "version")}
    lead.put(f"/trackers/{wrong['id']}", **body, token=f"Bearer {TOKEN}")
    assert client.post(f"/handovers/{link['id']}/again").status_code == 200
    tell()
    assert defect(client, number)["handed"][0]["key"]


def test_what_a_tracker_refuses_is_given_up_with_its_words(client, lead, there, number, tell):
    mapping = {**USUAL.write(), "fields": {"title": "headline"}}
    hand(client, number, make(lead, there[1], mapping=mapping))
    tell()
    [link] = defect(client, number)["handed"]
    assert link["given_up"]
    assert "An item needs a title." in link["said"]


def test_a_signed_word_of_the_tracker_has_it_asked_at_once(
    client, there, tracker, number, tell, database
):
    hand(client, number, tracker)
    tell()
    [item] = there[0].all()
    there[0].change(item, {"state": "closed"})

    def say(secret=SECRET, at=None, key=item.id):
        body, stamp = json.dumps({"id": key}).encode(), int(at or time.time())
        headers = {
            "Content-Type": "application/json",
            "Lantern-Time": str(stamp),
            "Lantern-Signature": signature(secret, stamp, body),
        }
        fresh = client.http.application.test_client()
        return fresh.post("/api/trackers/told", data=body, headers=headers).status_code

    assert say(secret="somebody else") == 403
    assert say(at=time.time() - 3600) == 403
    assert look_due(database, Vault()) == 0
    assert say(key="SLATE-99") == 200
    assert say() == 200
    assert look_due(database, Vault()) == 1
    assert defect(client, number)["defect"]["state"] == "closed"


def test_letting_go_leaves_the_item_and_tells_no_more(client, there, tracker, number, tell):
    hand(client, number, tracker)
    tell()
    [link] = defect(client, number)["handed"]
    assert client.delete(f"/handovers/{link['id']}").status_code == 200
    change(client, number, title="Only here")
    assert tell() == 0
    assert there[0].all()[0].title != "Only here"
    assert defect(client, number)["handed"] == []


def test_two_changes_before_it_is_told_are_told_as_one(client, there, tracker, number, tell):
    hand(client, number, tracker)
    tell()
    change(client, number, title="One")
    change(client, number, title="Two")
    assert tell() == 1
    assert there[0].all()[0].title == "Two"


def test_lists_show_and_find_what_it_is_called_there(client, there, tracker, number, tell):
    hand(client, number, tracker)
    tell()
    key = there[0].all()[0].id
    assert [one["id"] for one in client.get("/defects", q=key.lower()).json["defects"]] == [number]
    assert client.get("/defects").json["defects"][0]["handed"] == key


def test_trackers_are_for_leads_and_their_secrets_are_never_told(client, lead, tracker, there):
    assert client.get("/trackers").status_code == 403
    assert client.post(
        "/trackers", name="x", address="http://x", mapping={"fields": {"title": "t"}}
    )
    assert client.get("/trackers/names").json["trackers"] == [
        {"id": tracker["id"], "name": "Slate"}
    ]
    assert TOKEN not in json.dumps(lead.get("/trackers").json)
    assert SECRET not in json.dumps(lead.get("/trackers").json)
    moved = {name: tracker[name] for name in ("name", "mapping", "version")}
    answer = lead.put(f"/trackers/{tracker['id']}", **moved, address="http://elsewhere.example/x")
    assert (answer.status_code, answer.json["where"]) == (422, "token")
    assert lead.post(f"/trackers/{tracker['id']}/try").json == {"said": ""}
    lead.put(f"/trackers/{tracker['id']}", **moved, address=tracker["address"], enabled=False)
    assert client.get("/trackers/names").json["trackers"] == []


@pytest.mark.parametrize(
    ("wrong", "where"),
    [
        ({"address": "ftp://x"}, "address"),
        ({"address": "http://user:pass@x/y"}, "address"),
        ({"name": " "}, "name"),
        ({"header": "two words"}, "header"),
        ({"kind": "unheard of"}, "kind"),
        ({"every": -1}, "every"),
        ({"inbox": "short"}, "inbox"),
        ({"mapping": {"fields": {"state": "s"}}}, "fields"),
    ],
    ids=str,
)
def test_a_tracker_that_can_not_be_is_refused(lead, there, wrong, where):
    body = {"name": "S", "address": there[1], "mapping": USUAL.write()}
    answer = lead.post("/trackers", **body | wrong)
    assert (answer.status_code, answer.json["where"]) == (422, where)


class Echo(BaseHTTPRequestHandler):
    """Refuses, and says back what it was told to be let in."""

    def do_POST(self):
        self.rfile.read(int(self.headers["Content-Length"]))
        self.send_response(403)
        self.end_headers()
        said = self.headers["Authorization"]
        self.wfile.write(f"Not let in: {said}, {said.split()[-1]}".encode())

    def log_message(self, *_):
        pass


class Strange(BaseHTTPRequestHandler):
    """Answers all with what is no item."""

    def do_POST(self):
        self.rfile.read(int(self.headers["Content-Length"]))
        self.send_response(200)
        self.end_headers()
        self.wfile.write(b"<html>Sign in</html>")

    def log_message(self, *_):
        pass


@pytest.fixture
def answering():
    """Serve with a handler; returns the address."""
    servers = []

    def answering(handler):
        servers.append(HTTPServer(("127.0.0.1", 0), handler))
        threading.Thread(target=servers[-1].serve_forever, daemon=True).start()
        return f"http://127.0.0.1:{servers[-1].server_port}"

    yield answering
    for server in servers:
        server.shutdown()
        server.server_close()


def test_an_answer_that_is_no_item_is_told_as_that(client, lead, number, tell, answering):
    hand(client, number, make(lead, answering(Strange)))
    tell()
    [link] = defect(client, number)["handed"]
    assert (link["key"], link["said"]) == ("", "Its answer is no JSON object.")


def test_a_token_that_comes_back_in_an_answer_is_shown_to_nobody(
    client, lead, number, tell, answering
):
    tracker = make(lead, answering(Echo))
    hand(client, number, tracker)
    tell()
    shown = client.get(f"/defects/{number}").text
    shown += lead.get(f"/trackers/{tracker['id']}/messages").text
    assert "Not let in" in shown
    assert TOKEN not in shown


def test_two_leads_who_change_a_tracker_do_not_overwrite_each_other(lead, tracker):
    body = {name: tracker[name] for name in ("address", "mapping", "version")}
    path = f"/trackers/{tracker['id']}"
    assert lead.put(path, **body, name="Mine").json["version"] == tracker["version"] + 1
    answer = lead.put(path, **body, name="Theirs")
    assert (answer.status_code, answer.json["code"]) == (409, "conflict")
    assert lead.put(path, **{**body, "version": None}, name="Blind").status_code == 422
    assert lead.get("/trackers").json["trackers"][0]["name"] == "Mine"


def test_who_has_not_said_who_they_are_is_not_listened_to_for_long(client):
    stranger = client.http.application.test_client()
    long = stranger.post("/api/trackers/told", json={"id": "x" * 70_000})
    assert (long.status_code, long.json["code"]) == (403, "forbidden")


def test_what_waits_while_a_defect_changes_goes_out_after_it(
    client, there, tracker, number, tell, database
):
    hand(client, number, tracker)
    tell()
    change(client, number, title="First")
    with database.session() as session:  # somebody is about to send what waits
        waits = select(Handing).filter_by(state="waiting")
        session.scalar(waits.with_for_update())
        change(client, number, title="Second")
    assert tell() == 2
    assert there[0].all()[0].title == "Second"


def test_items_of_the_stand_in_outlive_it(tmp_path):
    items = Items(tmp_path / "items.json")
    made = items.make({"title": "One"}, "key")
    items.comment(made, "Wren", "Seen", "other")
    again = Items(tmp_path / "items.json")
    assert again.make({"title": "Other"}, "key").id == made.id
    assert again.get(made.id).comments == [{"author": "Wren", "text": "Seen"}]


def test_a_tracker_that_is_gone_leaves_its_defects(client, lead, tracker, number, tell, database):
    hand(client, number, tracker)
    tell()
    assert lead.delete(f"/trackers/{tracker['id']}").status_code == 200
    assert defect(client, number)["handed"] == []
    with database.session() as session:
        assert session.scalars(select(Tracker)).all() == []
