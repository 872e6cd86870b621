"""Signing in, roles, and requests that someone else made up."""

import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack

import pytest
from sqlalchemy import text

from lantern.store import accounts
from lantern.store.models import SignIn
from lantern.web.sockets import MOST_OF_ONE, Sockets, TooManySockets
from tests.api.conftest import PASSWORDS, Client
from tests.ui.pages import until


def test_nothing_is_told_without_signing_in(app):
    stranger = Client(app, None)
    for path in (
        "/tests",
        "/runs",
        "/defects",
        "/me",
        "/environments",
        "/live/events",
        "/pictures/x",
    ):
        answer = stranger.get(path)
        assert (answer.status_code, answer.json["code"]) == (401, "sign_in_needed")


def test_a_wrong_password_and_an_unknown_name_read_the_same(app):
    stranger = Client(app, None)
    answers = [
        stranger.post("/sign-in", username=name, password="nope") for name in ("odo", "nobody")
    ]
    assert [a.status_code for a in answers] == [401, 401]
    assert answers[0].json == answers[1].json


def test_after_five_failures_even_the_right_password_has_to_wait(app):
    stranger = Client(app, None)
    for _ in range(5):
        stranger.post("/sign-in", username="odo", password="nope")
    answer = stranger.post("/sign-in", username="ODO", password=PASSWORDS["odo"])
    assert answer.status_code == 429
    assert "Wait five minutes" in answer.json["hint"]
    assert Client(app, "wren").get("/me").status_code == 200


def test_the_cookie_is_kept_from_scripts_and_only_its_hash_is_stored(app, database):
    client = Client(app, None)
    answer = client.post("/sign-in", username="odo", password=PASSWORDS["odo"])
    cookie = answer.headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Lax" in cookie
    with database.session() as session:
        assert session.query(SignIn).one().token_hash not in cookie


def test_the_cookie_is_secure_over_https(app):
    answer = app.test_client().post(
        "/api/sign-in",
        json={"username": "odo", "password": PASSWORDS["odo"]},
        base_url="https://lantern.example",
    )
    assert "Secure" in answer.headers["Set-Cookie"]


def test_a_change_without_the_token_is_refused(client):
    client.csrf = ""
    assert client.post("/tests", name="x", environment=1).status_code == 403
    client.csrf = "ä"
    assert client.post("/tests", name="x", environment=1).status_code == 403


def test_a_request_from_another_site_is_refused(client):
    headers = {"X-CSRF-Token": client.csrf, "Origin": "http://evil.example"}
    answer = client.http.post("/api/tests", json={"name": "x", "environment": 1}, headers=headers)
    assert answer.status_code == 403


def test_a_viewer_may_look_but_not_change(app, quotes):
    viewer = Client(app, "pia")
    assert viewer.get(f"/tests/{quotes['id']}").status_code == 200
    assert viewer.edit(quotes, do="remove", steps=[quotes["steps"][0]["id"]]).status_code == 403
    assert viewer.post(f"/tests/{quotes['id']}/runs").status_code == 403
    assert viewer.post("/sign-out").status_code == 200
    assert viewer.get("/me").status_code == 401


def test_only_a_lead_adds_people(app, client):
    fields = {
        "username": "fenn",
        "name": "Fenn Tarrow",
        "role": "tester",
        "password": "slip-and-score",
    }
    assert client.post("/people", **fields).status_code == 403
    lead = Client(app, "wren")
    assert lead.post("/people", **fields).json["username"] == "fenn"
    assert "already" in lead.post("/people", **fields).json["message"]
    assert (
        lead.post("/people", **fields | {"username": "gil", "password": "short"}).status_code == 422
    )
    assert lead.post("/people", **fields | {"username": "gil", "role": "boss"}).status_code == 422


@pytest.mark.parametrize("path", ["/", "/tests/1", "/api/me"])
def test_every_answer_forbids_foreign_scripts(client, path):
    policy = client.http.get(path).headers["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "frame-ancestors 'none'" in policy


def test_guesses_made_at_once_are_counted_like_guesses_one_by_one(app):
    def guess(number):
        return Client(app, None).post("/sign-in", username="odo", password=f"no {number}")

    with ThreadPoolExecutor(30) as pool:
        codes = [answer.status_code for answer in pool.map(guess, range(30))]
    assert codes.count(401) <= 5
    assert set(codes) == {401, 429}


def test_only_a_few_passwords_are_worked_out_at_once_and_few_wait(monkeypatch):
    gate = accounts.Hashing(at_once=2, waiting=1, limit=0.2)
    go_on, inside, most = threading.Event(), [], []

    def one(_):
        try:
            with gate.turn():
                inside.append(1)
                most.append(len(inside))
                go_on.wait(1)
                inside.pop()
                return "worked out"
        except accounts.TooMany:
            go_on.set()
            return "too many"

    with ThreadPoolExecutor(8) as pool:
        told = list(pool.map(one, range(8)))
    assert max(most) <= 2
    assert "too many" in told
    with gate.turn():
        pass  # all places were given back


def test_a_right_password_that_came_in_a_rush_does_not_count_as_a_wrong_one(app, monkeypatch):
    full = accounts.Hashing(at_once=1, waiting=-1)
    monkeypatch.setattr(accounts, "hashing", full)
    for _ in range(7):
        answer = Client(app, None).post("/sign-in", username="odo", password=PASSWORDS["odo"])
        assert (answer.status_code, "in a moment" in answer.json["hint"]) == (429, True)
    monkeypatch.setattr(accounts, "hashing", accounts.Hashing())
    assert Client(app, "odo").get("/me").status_code == 200


def test_a_person_changes_their_password_and_is_signed_out_everywhere_else(app, client):
    elsewhere = Client(app, "odo")
    wrong = client.post("/me/password", old="nope", new="another-glaze")
    assert (wrong.status_code, wrong.json["where"]) == (422, "old")
    assert client.post("/me/password", old=PASSWORDS["odo"], new="short").status_code == 422
    old = PASSWORDS["odo"]
    assert client.post("/me/password", old=old, new="another-glaze").status_code == 200
    assert client.get("/me").status_code == 200
    assert elsewhere.get("/me").status_code == 401
    again = Client(app, None)
    assert again.post("/sign-in", username="odo", password=old).status_code == 401
    assert again.post("/sign-in", username="odo", password="another-glaze").status_code == 200
    viewer = Client(app, "pia")
    changed = viewer.post("/me/password", old=PASSWORDS["pia"], new="looks-only-1")
    assert changed.status_code == 200


def test_a_lead_resets_disables_and_deletes_and_it_holds_at_once(app, client, quotes):
    lead = Client(app, "wren")
    me = client.get("/me").json["account"]["id"]
    path = f"/people/{me}"
    assert client.patch(path, role="lead").status_code == 403
    assert lead.patch(path, role="boss").status_code == 422
    assert lead.patch(path, disabled=True).json["disabled"] is True
    assert client.get("/me").status_code == 401
    blocked = Client(app, None).post("/sign-in", username="odo", password=PASSWORDS["odo"])
    assert blocked.status_code == 401
    assert lead.patch(path, disabled=False, password="another-glaze").status_code == 200
    again = Client(app, None)
    assert again.post("/sign-in", username="odo", password="another-glaze").status_code == 200
    assert lead.delete(path).status_code == 200
    assert again.get("/me").status_code == 401
    assert me not in [one["id"] for one in lead.get("/people").json["people"]]
    assert lead.patch(path, name="x").status_code == 404
    run = lead.get(f"/tests/{quotes['id']}/versions").json
    assert run["versions"]  # what they did is still there
    fields = {"username": "odo", "name": "Odo the Second", "password": "slip-and-score"}
    assert lead.post("/people", **fields).status_code == 200


def test_the_last_lead_can_not_be_lost(app):
    lead = Client(app, "wren")
    path = f"/people/{lead.get('/me').json['account']['id']}"
    for refused in (
        lead.delete(path),
        lead.patch(path, disabled=True),
        lead.patch(path, role="tester"),
    ):
        assert refused.status_code == 422
        assert "only lead" in refused.json["message"]


def test_leads_read_what_matters_for_security(app, client, quotes):
    Client(app, None).post("/sign-in", username="odo", password="nope")
    client.put("/environments/1/secrets", name="pin", value="kiln-4711")
    table = f"/tests/{quotes['id']}/rows.csv"
    assert client.get(table).status_code == 200
    assert client.get("/security-events").status_code == 403
    lead = Client(app, "wren")
    events = lead.get("/security-events").json["events"]
    told = [(one["what"], one["who"], one["about"]) for one in events]
    assert ("sign-in failed", "", "odo") in told
    assert ("secret kept", "Odo Fennick", "pin of Kiln Desk") in told
    assert ("refused", "Odo Fennick", "GET /api/security-events") in told
    assert ("exported", "Odo Fennick", f"GET /api{table}") in told
    assert ("signed in", "Odo Fennick", "") in told
    assert "kiln-4711" not in str(events)
    assert [one["what"] for one in lead.get("/security-events", q="secret").json["events"]] == [
        "secret kept"
    ]


def test_what_strangers_can_bring_about_fills_no_list(app):
    for _ in range(12):
        Client(app, None).post("/sign-in", username="odo", password="nope")
        foreign = {"Origin": "http://evil.example"}
        app.test_client().post("/api/sign-in", json={}, headers=foreign)
    found = Client(app, "wren").get("/security-events").json["events"]
    told = [one["what"] for one in found]
    assert told.count("sign-in failed") == 5
    assert told.count("sign-in refused") == 1
    assert told.count("refused") == 1


class Socket:
    closed = None

    def close(self, code, message):
        self.closed = code


def test_an_account_has_so_many_connections_and_others_are_served():
    sockets = Sockets()
    with ExitStack() as mine:
        for _ in range(MOST_OF_ONE):
            mine.enter_context(sockets.counted(Socket(), 1, "a"))
        with pytest.raises(TooManySockets), sockets.counted(Socket(), 1, "a"):
            pass
        with sockets.counted(Socket(), 2, "b"):
            pass
    with sockets.counted(Socket(), 1, "a"):
        pass


def test_connections_end_with_the_sign_in_that_they_were_opened_under(app, client, database):
    mine, others = Socket(), Socket()
    hub = app.extensions["lantern"].hub
    hub.start()
    with database.session() as session:
        mark = accounts.mark_of(session.query(SignIn).one())
    with hub.sockets.counted(mine, 2, mark), hub.sockets.counted(others, 2, "another"):
        until(lambda: hub.listening.is_set(), "the hub listens")
        with database.session() as session:  # whatever else is said there
            for odd in ("", "not JSON", "[]", '{"about": "signed out"}'):
                session.execute(text("SELECT pg_notify('lantern', :odd)"), {"odd": odd})
        client.post("/sign-out")
        until(lambda: mine.closed == 4401, "the connection closed")
        assert others.closed is None
