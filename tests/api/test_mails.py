"""Mails: to whom they go, what they show, tried again until taken or given up; kept secrets."""

from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select

from lantern.core.plans.posting import MOST_TRIES
from lantern.core.steps.edits import SetLabels
from lantern.demo.post.app import create_app as post_room
from lantern.store import mails, tests
from lantern.store.models import Mail, MailServer
from lantern.store.outbox import send_due
from lantern.store.vault import Vault
from lantern.web import mailing
from lantern.web.mailing import mailer
from tests.api.planning import BOOKING, QUOTES, Worker, up

HERE = "https://lantern.emberhall.example"


@pytest.fixture
def send(database):
    return lambda: send_due(database, Mail, mailer(Vault(), HERE))


def played(client, database, plan, outcomes):
    """Play a run of a plan whose tests end as said, all others passed."""
    up(database, "st1")
    key = client.post(f"/plans/{plan}/runs").json["run"]["id"]
    Worker(database).play(lambda name, *_: outcomes.get(name, "passed"))
    return key


def to(box):
    return sorted(one.to[0].partition("@")[0] for one in box.all())


def due(database):
    """Let the time of all mails come."""
    with database.session() as session:
        for one in session.scalars(select(Mail).filter_by(state="waiting")):
            one.next_at = datetime.now(UTC) - timedelta(seconds=1)


def test_a_failure_and_its_end_are_told_to_those_on_the_list(
    client, database, make, server, box, send, people
):
    tells = [
        {"account": people["pia"], "when": ["failed", "fixed"]},
        {"account": people["wren"], "when": ["fixed"]},
    ]
    plan = make(tells=tells)["id"]
    run = played(client, database, plan, {QUOTES: "failed"})
    send()
    assert to(box) == ["pia"]
    mail = box.all()[0]
    assert mail.header("Subject") == "[Lantern] Every night: failed"
    for told in (mail.text("plain"), mail.text("html")):
        assert f"{HERE}/plan-runs/{run}" in told
        assert "It is not there." in told
        assert BOOKING in told
        assert "You are on the list of the plan." in told
    played(client, database, plan, {})
    send()
    assert to(box) == ["pia", "pia", "wren"]
    assert box.all()[0].header("Subject") == "[Lantern] Every night: passes again"
    played(client, database, plan, {})
    assert send() == 0
    listed = client.get(f"/plan-runs/{run}/mails").json
    assert listed["works"]
    assert [(one["person"], one["state"]) for one in listed["mails"]] == [("Pia Marlow", "sent")]


def test_owners_and_who_changed_what_fails_are_told(
    client, database, make, server, box, send, people, ids
):
    tells = [{"whom": "owners", "when": ["failed"]}, {"whom": "changers", "when": ["failed"]}]
    plan = make(tells=tells)["id"]
    played(client, database, plan, {})
    played(client, database, plan, {BOOKING: "failed"})
    send()
    assert to(box) == ["odo"]  # who owns the test; nobody changed it since it passed
    with database.session() as session:
        tests.edit(session, ids[QUOTES], SetLabels(("dear",)), people["wren"])
    played(client, database, plan, {QUOTES: "failed"})
    send()
    assert to(box) == ["odo", "odo", "wren"]
    to_wren = next(one for one in box.all() if one.to[0].startswith("wren"))
    assert f"You changed “{QUOTES}” since it last passed." in to_wren.text("plain")


def test_a_test_may_be_given_to_somebody_else(
    client, database, make, server, box, send, people, ids
):
    answer = client.patch(f"/tests/{ids[BOOKING]}", owner=people["pia"])
    assert answer.status_code == 200
    assert client.get(f"/tests/{ids[BOOKING]}").json["owner"]["name"] == "Pia Marlow"
    plan = make(tells=[{"whom": "owners", "when": ["failed"]}])["id"]
    played(client, database, plan, {BOOKING: "failed"})
    send()
    assert to(box) == ["pia"]
    assert client.patch(f"/tests/{ids[BOOKING]}", owner=9999).status_code == 404


def test_a_digest_is_one_mail_a_day_about_all_that_ended(
    client, database, make, server, box, send, people
):
    tells = [{"account": people["wren"], "when": ["digest"]}]
    first = make(tells=tells)["id"]
    second = make("Each week", tells=tells)["id"]
    played(client, database, first, {})
    played(client, database, second, {QUOTES: "failed"})
    assert send() == 0  # its hour has not come
    due(database)
    send()
    (mail,) = box.all()
    assert mail.header("Subject") == "[Lantern] 2 runs of plans, 1 failed"
    assert "Every night: passed" in mail.text("plain")
    assert "Each week: failed" in mail.text("plain")
    played(client, database, first, {})
    with database.session() as session:
        assert len(session.scalars(select(Mail).filter_by(kind="digest")).all()) == 2


def test_what_is_not_taken_is_tried_again_shown_and_given_up_in_the_end(
    client, lead, database, make, server, box, send, people
):
    box.refusal = "451 Try it later"
    plan = make(tells=[{"account": people["pia"], "when": ["always"]}])["id"]
    played(client, database, plan, {})
    send()
    (one,) = lead.get("/mails").json["mails"]
    assert (one["state"], one["tries"]) == ("waiting", 1)
    assert "451" in one["said"]
    for _ in range(MOST_TRIES - 1):
        due(database)
        send()
    (one,) = lead.get("/mails").json["mails"]
    assert one["state"] == "given up"
    box.refusal = ""
    assert lead.post(f"/mails/{one['id']}/again").json["state"] == "waiting"
    send()
    assert to(box) == ["pia"]
    assert lead.get("/mails").json["mails"][0]["state"] == "sent"


def test_who_has_no_address_is_named_in_the_log(client, lead, database, make, server, send, people):
    assert lead.patch(f"/people/{people['pia']}", email="").status_code == 200
    plan = make(tells=[{"account": people["pia"], "when": ["always"]}])["id"]
    played(client, database, plan, {})
    assert send() == 0
    (one,) = lead.get("/mails").json["mails"]
    assert (one["state"], one["said"]) == ("given up", "Pia Marlow has no mail address.")


def test_a_run_ends_though_nobody_could_be_told(
    client, database, make, server, monkeypatch, people
):
    plan = make(tells=[{"account": people["pia"], "when": ["always"]}])["id"]

    def broken(*_):
        raise ValueError("out of paper")

    monkeypatch.setattr(mails, "hear", broken)
    key = played(client, database, plan, {})
    assert client.get(f"/plan-runs/{key}").json["run"]["state"] == "passed"


def test_nothing_is_queued_where_no_server_is_said(client, lead, database, make, people):
    plan = make(tells=[{"account": people["pia"], "when": ["always"]}])["id"]
    key = played(client, database, plan, {})
    assert client.get(f"/plan-runs/{key}/mails").json == {"mails": [], "works": False}
    assert lead.post("/mail-server/try").status_code == 422


def test_a_password_is_sealed_never_told_and_not_said_to_another_server(lead, database, server):
    assert server(username="lantern", password="ember and ash").json["has_password"]
    assert "ember and ash" not in lead.get("/mail-server").text
    with database.session() as session:
        assert b"ember and ash" not in session.get_one(MailServer, 1).sealed
    moved = server(host="elsewhere.example", username="lantern")
    assert (moved.status_code, moved.json["where"]) == (422, "password")
    assert server(username="lantern").json["has_password"]


@pytest.mark.parametrize(
    ("part", "value"),
    [
        ("host", "no host"),
        ("port", 0),
        ("sender", "nobody"),
        ("digest_at", "25:00"),
        ("zone", "Ember/Hall"),
        ("security", "some"),
    ],
)
def test_what_is_wrong_of_a_server_is_said_and_nothing_is_changed(lead, server, part, value):
    before = lead.get("/mail-server").json
    assert server(**{part: value}).status_code == 422
    assert lead.get("/mail-server").json == before


def test_a_mail_on_trial_goes_to_who_asks_and_only_leads_see_any(client, lead, server, box, send):
    assert lead.post("/mail-server/try").status_code == 200
    send()
    assert to(box) == ["wren"]
    for refused in (
        client.get("/mails"),
        client.get("/mail-server"),
        client.post("/mail-server/try"),
    ):
        assert refused.status_code == 403


def test_people_say_their_own_address(client, lead):
    assert client.put("/me/email", email="odo@kilns.example").json["email"] == "odo@kilns.example"
    assert client.put("/me/email", email="odo").status_code == 422


def test_the_post_room_shows_mails_and_lets_them_do_nothing(
    client, database, make, server, box, send, people
):
    plan = make("<script>alert(1)</script>", tells=[{"account": people["pia"], "when": ["always"]}])
    played(client, database, plan["id"], {QUOTES: "failed"})
    send()
    pages = post_room(box).test_client()
    assert "&lt;script&gt;" in pages.get("/").text
    shown = pages.get("/mails/1/html")
    assert "<script>" not in shown.text
    assert "sandbox" in shown.headers["Content-Security-Policy"]
    assert pages.get("/mails/7").status_code == 404
    assert pages.post("/refusal", data={"answer": "nonsense"}).status_code == 400
    assert pages.get("/mails.json").json["mails"][0]["to"] == ["pia@emberhall.example"]


def test_a_mail_that_can_not_be_composed_is_given_up_and_holds_up_no_other(
    client, lead, database, make, server, box, send, people, monkeypatch
):
    plan = make(tells=[{"account": people[name], "when": ["always"]} for name in ("odo", "pia")])
    played(client, database, plan["id"], {})
    real = mailing.plan_record_of
    calls = []

    def odd(session, run):
        calls.append(run.id)
        if len(calls) % 2:
            raise KeyError("a part that is gone")
        return real(session, run)

    monkeypatch.setattr(mailing, "plan_record_of", odd)
    send()
    assert to(box) == ["pia"]
    monkeypatch.setattr(mailing, "plan_record_of", lambda *_: {}["gone"])
    for _ in range(MOST_TRIES):
        due(database)
        send()
    states = {one["person"]: one for one in lead.get("/mails").json["mails"]}
    assert states["Odo Fennick"]["state"] == "given up"
    assert "KeyError" in states["Odo Fennick"]["said"]
