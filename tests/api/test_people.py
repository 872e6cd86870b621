"""Signing in, roles, and requests that someone else made up."""

import pytest

from lantern.store.models import SignIn
from tests.api.conftest import PASSWORDS, Client


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
