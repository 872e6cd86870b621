"""What Lantern shows of itself when it is run for real: figures, proxies, the first lead."""

import pytest
from prometheus_client.parser import text_string_to_metric_families
from sqlalchemy import delete, select

from lantern.store import first
from lantern.store.models import Account, SignIn
from lantern.web.app import create_app, trust_proxies
from tests.api.conftest import Client
from tests.api.planning import BOOKING, Worker, up


def figures(text):
    return {
        (one.name, *(value for _, value in sorted(one.labels.items()))): one.value
        for family in text_string_to_metric_families(text)
        for one in family.samples
    }


def test_figures_tell_what_waits_what_is_up_and_how_plans_went(client, database, make):
    up(database, "kiln room", places=3)
    plan = make("Every night", tests=(BOOKING,))["id"]
    client.post(f"/plans/{plan}/runs")
    before = figures(client.get("/metrics").text)
    assert before["lantern_casts", "waiting"] == 1
    assert before["lantern_plan_runs_open",] == 1
    assert before["lantern_station_places", "works", "kiln room"] == 3
    Worker(database).play(lambda *_: "failed")
    after = figures(client.get("/metrics").text)
    assert after["lantern_casts", "waiting"] == 0
    assert after["lantern_plan_last_run_passed", "Every night", "failed"] == 0
    pattern = "/api/plans/<int:id>/runs"
    assert after["lantern_requests_total", pattern, "2xx"] == 1


def test_figures_are_for_who_has_a_token_unless_they_are_open(app, client, monkeypatch):
    stranger = Client(app, None)
    assert stranger.get("/metrics").status_code == 401
    token = client.post("/me/tokens", name="monitoring", scope="read", days=30).json["token"]
    headers = {"Authorization": f"Bearer {token}"}
    assert stranger.http.get("/api/metrics", headers=headers).status_code == 200
    monkeypatch.setenv("LANTERN_METRICS", "open")
    assert stranger.get("/metrics").status_code == 200
    assert stranger.get("/tests").status_code == 401


@pytest.mark.parametrize(("proxies", "secure"), [(0, False), (1, True)])
def test_a_proxy_is_believed_only_where_one_is_said_to_be(app, proxies, secure):
    trust_proxies(app, proxies)
    headers = {"X-Forwarded-For": "203.0.113.9", "X-Forwarded-Proto": "https"}
    body = {"username": "wren", "password": "lantern-lead"}
    answer = app.test_client().post("/api/sign-in", json=body, headers=headers)
    assert answer.status_code == 200
    assert ("Secure" in answer.headers["Set-Cookie"]) == secure


@pytest.fixture
def nobody(database):
    """A Lantern without any account."""
    with database.session() as session:
        session.execute(delete(SignIn))
        for table in reversed(Account.metadata.sorted_tables):
            if table.name not in ("preferences", "alembic_version"):
                session.execute(delete(table))
    return Client(create_app(database.url), None)


ADA = {"username": "ada", "name": "Ada Brook", "password": "a kiln of one's own"}


def test_the_first_lead_is_let_in_by_the_newest_address_alone(nobody, database):
    with database.session() as session:
        old, token = first.invite(session), first.invite(session)
    assert nobody.post("/first", token=old, **ADA).status_code == 403
    assert nobody.post("/first", token="", **ADA).status_code == 403
    assert nobody.post("/first", token=token, **ADA | {"password": "short"}).status_code == 422
    made = nobody.post("/first", token=token, **ADA)
    assert (made.status_code, made.json["account"]["role"]) == (200, "lead")
    assert nobody.get("/people").status_code == 200
    assert nobody.post("/first", token=token, **ADA | {"username": "eve"}).status_code == 403
    with database.session() as session:
        assert first.invite(session) == ""
        assert len(session.scalars(select(Account)).all()) == 1
