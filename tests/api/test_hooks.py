"""Webhooks: signed, tried again until they are taken or given up, logged; secrets stay sealed."""

import json
import threading
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest

from lantern.core.plans.posting import EVENTS, MOST_TRIES, signature
from lantern.store.models import Delivery, Hook
from lantern.store.outbox import send_due
from lantern.store.vault import Vault
from lantern.web.posting import poster
from tests.api.conftest import Client
from tests.api.planning import Worker, up

SECRET = "a secret between us"


class Receiver:
    """Takes messages, and answers as it is told."""

    def __init__(self):
        self.answers, self.taken = [], []
        receiver = self

        class Handler(BaseHTTPRequestHandler):
            def do_POST(self):
                body = self.rfile.read(int(self.headers["Content-Length"]))
                receiver.taken.append((dict(self.headers), body))
                self.send_response(receiver.answers.pop(0) if receiver.answers else 204)
                self.send_header("Location", "/elsewhere")
                self.end_headers()

            def log_message(self, *_):
                pass

        self.server = HTTPServer(("127.0.0.1", 0), Handler)
        self.address = f"http://127.0.0.1:{self.server.server_port}/hook?x=1"
        threading.Thread(target=self.server.serve_forever, daemon=True).start()

    @property
    def events(self):
        return [json.loads(body)["event"] for _, body in self.taken]


@pytest.fixture
def receiver():
    receiver = Receiver()
    yield receiver
    receiver.server.shutdown()
    receiver.server.server_close()


@pytest.fixture
def lead(client):
    return Client(client.http.application, "wren")


@pytest.fixture
def send(database):
    return lambda: send_due(database, Delivery, poster(Vault()))


def make(lead, receiver, **more):
    body = {"name": "Pipeline", "address": receiver.address, "events": list(EVENTS)}
    answer = lead.post("/hooks", **body | {"secret": SECRET} | more)
    assert answer.status_code == 200, answer.json
    return answer.json


def ran(client, database, plan, outcome):
    up(database, "st1")
    client.post(f"/plans/{plan}/runs")
    Worker(database).play(lambda *_: outcome)


def test_start_end_failure_and_what_is_fixed_are_told_signed(
    client,
    lead,
    nightly,
    database,
    receiver,
    send,
):
    make(lead, receiver)
    ran(client, database, nightly, "failed")
    ran(client, database, nightly, "passed")
    assert send() == 6
    assert sorted(receiver.events) == ["end", "end", "fail", "fixed", "start", "start"]
    for headers, body in receiver.taken:
        told = json.loads(body)
        assert headers["Lantern-Event"] == told["event"]
        at = int(headers["Lantern-Time"])
        assert headers["Lantern-Signature"] == signature(SECRET, at, body)
        assert SECRET.encode() not in body
    assert send() == 0


def test_a_hook_is_told_only_what_it_wants_and_of_its_plan_alone(
    client,
    lead,
    nightly,
    database,
    receiver,
    send,
):
    other = client.post("/plans", name="Other", plan={"picks": []}).json["id"]
    make(lead, receiver, events=["fail"], plan=nightly)
    make(lead, receiver, name="Other's", plan=other)
    make(lead, receiver, name="Off", enabled=False)
    ran(client, database, nightly, "failed")
    assert (send(), receiver.events) == (1, ["fail"])


def test_what_is_not_taken_is_tried_again_and_at_last_given_up_and_sent_by_hand(
    client,
    lead,
    nightly,
    database,
    receiver,
    send,
):
    hook = make(lead, receiver, events=["end"])
    receiver.answers = [500, 301, 204]
    ran(client, database, nightly, "passed")

    def due():
        with database.session() as session:
            one = session.query(Delivery).one()
            if one.next_at:
                one.next_at = datetime.now(UTC) - timedelta(seconds=1)

    assert (send(), send()) == (1, 0), "the next try has its time"
    (told,) = lead.get(f"/hooks/{hook['id']}/deliveries").json["deliveries"]
    assert (told["state"], told["tries"], told["said"]) == (
        "waiting",
        1,
        "The answer was 500 Internal Server Error.",
    )
    assert lead.get("/hooks").json["hooks"][0]["failing"]
    due()
    send()
    due()
    send()
    (told,) = lead.get(f"/hooks/{hook['id']}/deliveries").json["deliveries"]
    assert (told["state"], told["tries"], told["said"]) == ("sent", 3, "taken")
    assert len(receiver.taken) == 3, "a redirection is not followed"

    receiver.answers = [503] * MOST_TRIES
    assert lead.post(f"/deliveries/{told['id']}/again").status_code == 200
    for _ in range(MOST_TRIES + 2):
        due()
        send()
    (told,) = lead.get(f"/hooks/{hook['id']}/deliveries").json["deliveries"]
    assert (told["state"], told["tries"]) == ("given up", MOST_TRIES)


def test_two_processes_send_a_message_once_and_one_that_died_leaves_it_to_another(
    client,
    lead,
    nightly,
    database,
    receiver,
    send,
):
    make(lead, receiver, events=["end"])
    ran(client, database, nightly, "passed")
    threads = [threading.Thread(target=send) for _ in range(4)]
    for one in threads:
        one.start()
    for one in threads:
        one.join(20)
    assert receiver.events == ["end"]
    with database.session() as session:  # taken by one that died before it sent
        one = session.query(Delivery).one()
        one.state, one.next_at = "waiting", datetime.now(UTC) - timedelta(seconds=1)
    assert send() == 1


def test_the_secret_is_sealed_and_only_leads_have_to_do_with_it(
    client,
    lead,
    nightly,
    database,
    receiver,
):
    hook = make(lead, receiver)
    assert SECRET not in str(lead.get("/hooks").json)
    with database.session() as session:
        row = session.query(Hook).one()
        assert SECRET.encode() not in row.sealed
        assert Vault().open(row.sealed) == SECRET
    kept = lead.put(
        f"/hooks/{hook['id']}", name="Same", address=receiver.address, events=["end"], secret=None
    )
    assert kept.json["name"] == "Same"
    with database.session() as session:
        assert Vault().open(session.query(Hook).one().sealed) == SECRET
    assert client.get("/hooks").status_code == 403
    for wrong in (
        {"address": "ftp://x"},
        {"address": "https://u:p@x/"},
        {"events": []},
        {"secret": "short"},
        {"name": " "},
    ):
        body = {"name": "x", "address": receiver.address, "events": ["end"], "secret": SECRET}
        assert lead.post("/hooks", **body | wrong).status_code == 422, wrong
    assert lead.delete(f"/hooks/{hook['id']}").status_code == 200
    assert lead.get("/hooks").json["hooks"] == []


def test_a_receiver_that_is_not_there_is_told(client, lead, nightly, database, receiver, send):
    hook = make(lead, receiver, address="http://127.0.0.1:1/", events=["end"])
    ran(client, database, nightly, "passed")
    send()
    (told,) = lead.get(f"/hooks/{hook['id']}/deliveries").json["deliveries"]
    assert "Refused" in told["said"]


def test_what_may_be_secret_of_an_address_stands_in_no_list_of_events(lead, receiver):
    make(lead, receiver, address="https://chat.example/hook/very-secret?key=also")
    told = lead.get("/security-events", q="webhook").text
    assert "chat.example" in told
    assert "secret" not in told.replace("secret kept", "")
    assert "also" not in told
