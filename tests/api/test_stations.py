"""Stations over the API: labelled, paused, drained; what needs a label goes where it is."""

from datetime import UTC, datetime, timedelta

from lantern.core.runs.places import queues_of
from lantern.store import casts, stations
from lantern.store.database import tell
from lantern.store.models import Station
from tests.api.conftest import Client
from tests.api.planning import Worker, up

QUOTES = "Quotes by clay and cone"


def offers(session):
    from sqlalchemy import text

    query = "SELECT queue_name FROM procrastinate_jobs WHERE status = 'todo' ORDER BY id"
    return list(session.scalars(text(query)))


def test_a_lead_labels_pauses_and_drains_stations_and_others_look(client, database):
    up(database, "st1", engines=["chromium", "firefox"])
    lead = Client(client.http.application, "wren")
    assert client.patch("/stations/st1", mode="paused").status_code == 403
    told = lead.patch("/stations/st1", mode="paused", labels=["with  VPN", "lab"]).json["station"]
    assert (told["mode"], told["labels"], told["up"]) == ("paused", ["lab", "with VPN"], True)
    assert lead.patch("/stations/st1", mode="asleep").status_code == 422
    assert lead.patch("/stations/none", mode="works").status_code == 404
    (listed,) = client.get("/stations").json["stations"]
    assert [one["title"] for one in listed["engines"]] == ["Chromium", "Firefox"]
    assert lead.delete("/stations/st1").status_code == 422, "it is up"
    with database.session() as session:
        stations.leave(session, "st1")
    (listed,) = client.get("/stations").json["stations"]
    assert (listed["up"], listed["labels"]) == (False, ["lab", "with VPN"])
    up(database, "st1")  # it is started again, and is what it was
    assert client.get("/stations/st1").json["station"]["mode"] == "paused"
    with database.session() as session:
        session.get_one(Station, "st1").beat_at = datetime.now(UTC) - timedelta(seconds=30)
    assert lead.delete("/stations/st1").status_code == 200
    assert client.get("/stations").json["stations"] == []


def test_browsers_are_offered_with_the_versions_that_stations_have(client, database):
    up(database, "st1")
    with database.session() as session:
        stations.beat(session, "st1", versions={"chromium": "Chromium 156.0"})
    offered = {one["name"]: one for one in client.get("/browsers").json["browsers"]}
    phone = offered["chromium phone"]
    assert (phone["stations"], phone["versions"]) == (1, ["Chromium 156.0"])
    assert (offered["firefox"]["stations"], offered["firefox"]["versions"]) == (0, [])
    with database.session() as session:
        stations.change(session, "st1", mode="paused")
    offered = {one["name"]: one for one in client.get("/browsers").json["browsers"]}
    assert offered["chromium"]["stations"] == 0, "who is paused offers nothing"


def test_what_a_station_plays_and_how_it_went_is_told(client, quotes, database):
    up(database, "st1")
    client.post(f"/tests/{quotes['id']}/runs", rows="1-3")
    worker = Worker(database)
    worker.end(worker.take(), "failed")
    worker.take()
    told = client.get("/stations/st1").json
    assert [(one["test"], one["number"]) for one in told["plays"]] == [(QUOTES, 2)]
    assert [one["casts"] for one in told["days"]] == [{"failed": 1}]
    assert [one["number"] for one in told["failures"]] == [1]


def test_what_needs_a_label_waits_for_a_station_that_has_it(client, quotes, database):
    needy = client.edit(quotes, do="set needs", needs=["Lab"]).json
    assert needy["needs"] == ["Lab"]
    up(database, "st1")
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1").json
    assert run["waits_for"] == ["Chromium labelled Lab"]
    with database.session() as session:
        assert offers(session) == ["casts.chromium,lab"]
    plan = {"picks": [{"test": quotes["id"]}], "needs": ["with VPN"]}
    told = client.post("/plans/outlook", **plan).json
    assert (told["missing"], told["stations"]) == (["Chromium labelled Lab, with VPN"], [])

    with database.session() as session:
        stations.change(session, "st1", labels=["LAB"])
        casts.happen(session, run["run"]["id"])
    assert client.get(f"/runs/{run['run']['id']}").json["waits_for"] == []
    with database.session() as session:
        stations.change(session, "st1", labels=["lab", "with vpn"])
        tell(session, "stations")
    told = client.post("/plans/outlook", **plan).json
    assert (told["missing"], told["stations"]) == ([], ["st1"])
    assert client.edit(needy, do="set needs", needs=["a,b"]).status_code == 422


def test_labels_may_be_long_and_many(client, quotes, database):
    up(database, "st1")
    labels = [f"a label of quite some length, no. {n}".replace(",", "") for n in range(6)]
    client.edit(quotes, do="set needs", needs=labels)
    with database.session() as session:
        stations.change(session, "st1", labels=labels)
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1")
    assert (run.status_code, run.json["waits_for"]) == (200, [])
    with database.session() as session:
        (queue,) = offers(session)
        assert queue in queues_of(["chromium"], labels)


def test_a_paused_station_gets_nothing_and_places_count_only_where_something_works(
    client, quotes, database
):
    up(database, "st1", "st2")
    with database.session() as session:
        stations.change(session, "st2", mode="paused")
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1-4").json["run"]["id"]
    with database.session() as session:
        assert len(offers(session)) == 1, "one lane, for the one station that works"
        stations.change(session, "st1", mode="draining")
    assert client.get(f"/runs/{run}").json["waits_for"] == ["Chromium"]
