"""Stations that join over the network: what they may, what they are given, what they tell."""

import hashlib
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import text

from lantern import __version__
from lantern.core.engine.outcomes import StepResult
from lantern.core.runs.work import Work
from lantern.core.steps.model import Document, Step
from lantern.store import reconciling, stations, tests
from lantern.store.models import Environment, Invitation, Picture, Result, SavedPage, Station
from lantern.store.vault import Vault
from lantern.web.stations import NoStation, address_of, any_address
from tests.api.conftest import Client


class Joined:
    """A station that joined, as far as the server can tell: by what it sends."""

    def __init__(self, app, token, name="Kiln room", **more):
        self.http = app.test_client()
        asked = {"token": token, "name": name, **more}
        self.answer = self.http.post("/api/joining", json=asked)
        told = self.answer.json
        self.id, self.secret = told.get("station"), told.get("secret")
        self.plays = {}

    def send(self, path, body=None, method="POST", **more):
        headers = {"Authorization": f"Bearer {self.secret}"}
        more = more or {"json": body or {}}
        return self.http.open(f"/api/joined{path}", method=method, headers=headers, **more)

    def beat(self, **more):
        said = {
            "version": __version__,
            "engines": ["chromium"],
            "versions": {"chromium": "Chromium 156"},
            **more,
        }
        return self.send("/beat", {"plays": self.plays, **said})

    def take(self):
        raw = self.send("/take", {"plays": list(self.plays)}).json["work"]
        if raw is None:
            return None
        work = Work.read(raw)
        self.plays[work.cast] = work.token
        return work

    def note(self, work, *notes):
        return self.send(f"/casts/{work.cast}/notes", {"token": work.token, "notes": notes})

    def begin(self, work):
        assert self.note(work, {"kind": "began", "version": "Chromium 156"}).status_code == 200

    def end(self, work, **ended):
        self.plays.pop(work.cast, None)
        body = {"token": work.token, "job": work.job, "ended": ended}
        return self.send(f"/casts/{work.cast}/end", body)


@pytest.fixture
def lead(app):
    return Client(app, "wren")


@pytest.fixture
def token(lead):
    return lead.post("/stations/invitations").json["token"]


@pytest.fixture
def station(app, token):
    made = Joined(app, token)
    assert made.beat().status_code == 200
    return made


def jobs(database, status):
    query = text("SELECT count(*) FROM procrastinate_jobs WHERE status = :status")
    with database.session() as session:
        return session.scalar(query, {"status": status})


def test_a_token_lets_one_station_join_once_and_within_an_hour(app, lead, client, token, database):
    assert client.post("/stations/invitations").status_code == 403, "only a lead invites"
    assert Joined(app, token, name="").answer.status_code == 422
    assert Joined(app, token, places=900).answer.status_code == 422
    made = Joined(app, token, name="Kiln  room", places=3)
    assert made.beat().json == {"mode": "works", "stop": []}
    (listed,) = client.get("/stations").json["stations"]
    told = listed["name"], listed["up"], listed["joined"], listed["places"]
    assert told == ("Kiln room", True, True, 3)
    assert Joined(app, token).answer.status_code == 403, "it is used up"

    late = lead.post("/stations/invitations").json["token"]
    with database.session() as session:
        session.query(Invitation).one().ends_at = datetime.now(UTC) - timedelta(seconds=1)
    assert Joined(app, late).answer.json["code"] == "not_invited"
    noted = [one["what"] for one in lead.get("/security-events").json["events"]]
    assert {"station invited", "station joined", "token refused"} <= set(noted)


def test_its_secret_is_good_for_its_own_work_and_nothing_else(app, station, client):
    headers = {"Authorization": f"Bearer {station.secret}"}
    assert station.http.get("/api/tests", headers=headers).status_code == 401
    assert client.post("/joined/beat").status_code == 401, "who is signed in is no station"
    cookie = station.http.post("/api/joined/beat", json={})
    assert cookie.status_code == 401


def test_it_plays_a_run_and_what_it_tells_is_kept(station, client, quotes, database):
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1-2").json["run"]["id"]
    work = station.take()
    assert (work.number, work.test, work.run, work.first) == (1, quotes["id"], run, True)
    assert work.script().names.row
    assert station.take() is None, "the next row is offered once there is a place for it"
    picture = b"\xff\xd8 a picture"
    digest = hashlib.sha256(picture).hexdigest()
    kept = station.send(
        f"/casts/{work.cast}/contents?token={work.token}&mime=image/jpeg", data=picture
    )
    assert kept.status_code == 200
    secret = work.secrets["mara_password"]
    said = {"sentence": f"Type {secret}", "step": "s3"}
    result = StepResult("s3", 3, f"Type {secret}", "passed", picture=digest, kept={"x": secret})
    nodes = [{"tag": "p", "text": f"It is {secret}"}]
    page = {"title": f"Quote {secret}", "address": "/quote", "nodes": nodes, "step": "s3"}
    notes = (
        {"kind": "began", "version": "Chromium 156"},
        {"kind": "at", **said},
        {"kind": "ends", "place": 1, "result": result.as_json(), "console": [], "requests": []},
        {"kind": "saw", "picture": digest, **page},
    )
    assert station.note(work, *notes).status_code == 200
    assert station.note(work, *notes[2:]).status_code == 200, "told twice, it is there once"
    assert station.end(work, outcome="passed").status_code == 200
    second = station.take()
    assert second.number == 2
    station.end(second, outcome="failed")
    whole = client.get(f"/runs/{run}").json
    assert [one["outcome"] for one in whole["casts"]] == ["passed", "failed"]
    with database.session() as session:
        (row,) = session.query(Result).filter_by(cast_id=work.cast)
        saved = session.query(SavedPage).filter_by(cast_id=work.cast).one()
        assert session.get(Picture, digest) is not None
        assert secret not in str((row.sentence, row.details, saved.page, saved.nodes))
    assert jobs(database, "doing") == 0


def test_it_is_given_the_secrets_that_the_cast_names_and_no_others(station, client, database):
    with database.session() as session:
        home = session.query(Environment).filter_by(name="Kiln Desk").one().id
        Vault().put(session, home, "unneeded", "stays-at-home")
        steps = (Step("o", "open", inputs={"address": "/x?${secret.mara_password}"}),)
        made = tests.create(session, "Names one", home, None, Document(steps)).id
    client.post(f"/tests/{made}/runs")
    assert set(station.take().secrets) == {"mara_password"}


def test_nobody_notes_anything_about_what_is_not_theirs(app, lead, station, client, quotes):
    other = Joined(app, lead.post("/stations/invitations").json["token"], name="Elsewhere")
    client.post(f"/tests/{quotes['id']}/runs", rows="1")
    work = station.take()
    begun = {"kind": "began", "version": "x"}
    assert other.note(work, begun).status_code == 410
    assert other.end(work, outcome="passed").status_code == 410
    asked = f"/casts/{work.cast}/file?token={work.token}&name=x"
    assert other.send(asked, method="GET").status_code == 410
    assert station.send(asked, method="GET").status_code == 404, "the test has no such file"
    assert station.note(work, {"kind": "shouted"}).status_code == 422
    assert station.note(work, {"kind": "ends", "place": 1}).status_code == 422
    assert station.note(work, begun).status_code == 200


def test_a_cancelled_run_stops_there_and_a_paused_station_takes_nothing(
    station, lead, client, quotes, database
):
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1").json["run"]["id"]
    work = station.take()
    client.post(f"/runs/{run}/cancel")
    assert station.beat().json["stop"] == [work.cast]
    station.end(work, outcome="cancelled")
    assert client.get(f"/runs/{run}").json["run"]["state"] == "cancelled"
    lead.patch(f"/stations/{station.id}", mode="draining")
    client.post(f"/tests/{quotes['id']}/runs", rows="1")
    assert station.beat().json["mode"] == "draining"
    assert station.take() is None


def test_what_it_lost_is_given_up_and_its_job_with_it(station, client, quotes, database):
    """It was started again, and knows nothing of what it had taken."""
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1").json["run"]["id"]
    work = station.take()
    station.begin(work)
    station.plays = {}
    station.beat()
    assert client.get(f"/runs/{run}").json["run"]["state"] == "interrupted"
    assert jobs(database, "doing") == 0
    assert station.end(work, outcome="passed").status_code == 410, "too late to be green"


def test_what_got_lost_on_the_way_to_it_is_given_to_it_again(station, client, quotes, database):
    """The answer never came: nothing of the row was done, so it is no loss."""
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1").json["run"]["id"]
    first = station.take()
    station.plays = {}
    station.beat()
    again = station.take()
    assert again == first
    assert station.take() is None, "it plays that now"
    station.begin(again)
    station.end(again, outcome="passed")
    assert client.get(f"/runs/{run}").json["run"]["state"] == "passed"
    assert jobs(database, "doing") == 0


def test_one_of_another_release_is_told_to_be_brought_to_this_one(station):
    answer = station.beat(version="0.0.1")
    assert (answer.status_code, answer.json["code"]) == (409, "conflict")
    assert "0.0.1" in answer.json["message"]


def test_one_that_dies_is_missed_like_any_other(station, client, quotes, database):
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1").json["run"]["id"]
    station.take()
    with database.session() as session:
        row = session.get_one(Station, station.id)
        row.beat_at = datetime.now(UTC) - timedelta(seconds=30)
        silent = "UPDATE procrastinate_workers SET last_heartbeat = now() - interval '1 minute'"
        session.execute(text(silent))
    now = [0.0]
    reconciler = reconciling.Reconciler(database, lambda: now[0])
    for now[0] in (0.0, reconciling.SURE):
        reconciler.look()
    assert client.get(f"/runs/{run}").json["run"]["state"] == "interrupted"


def test_one_that_is_retired_is_no_station_any_more(station, lead, client, quotes, database):
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1").json["run"]["id"]
    work = station.take()
    assert client.post(f"/stations/{station.id}/retire").status_code == 403
    assert lead.post(f"/stations/{station.id}/retire").status_code == 200
    assert client.get(f"/runs/{run}").json["run"]["state"] == "interrupted"
    for answer in (station.beat(), station.send("/take"), station.end(work, outcome="passed")):
        assert answer.status_code == 401
    assert client.get("/stations").json["stations"] == []
    with database.session() as session:
        stations.beat(session, "st1", name="beside", address="ws://x")
    assert lead.post("/stations/st1/retire").status_code == 422, "it did not join"


def test_nobody_waits_for_a_stage_of_a_station_that_can_not_be_reached(app, station, database):
    """Stages and what people try are for stations beside the server alone."""
    with app.app_context(), pytest.raises(NoStation):
        any_address()
    with app.app_context(), pytest.raises(NoStation, match="can not be watched"):
        address_of(station.id)
    with database.session() as session:
        stations.beat(session, "st1", name="beside", address="ws://x")
    with app.app_context():
        assert any_address() == "ws://x"
