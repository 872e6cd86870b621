"""The queue in a real PostgreSQL: its order, and who moves it."""

from lantern.store import sharing
from lantern.store.models import Share
from tests.api.conftest import Client
from tests.api.planning import QUOTES, Worker, start, up


def test_tries_go_before_plans_which_share_by_weight_and_a_lead_moves_them(client, make, database):
    up(database, "st1", places=2)
    heavy = start(client, make("Heavy", tests=[QUOTES], weight=3))["run"]["id"]
    light = start(client, make("Light", tests=[QUOTES]))["run"]["id"]
    worker = Worker(database)
    runs = []
    for _ in range(8):
        taken = worker.take()
        runs.append(taken[0].plan_run_id)
        worker.end(taken)
    assert runs.count(heavy) >= 5
    assert runs.count(light) >= 2

    quotes = client.test_named(QUOTES)
    client.post(f"/tests/{quotes['id']}/runs", kind="try", rows="1")
    waiting = client.get("/queue").json["waiting"]
    assert waiting[0]["kind"] == "try"
    shares = {one["plan"]: one["share"] for one in waiting}
    assert client.post(f"/queue/{shares['Light']}/move", boost=1).status_code == 403
    lead = Client(client.http.application, "wren")
    assert lead.post(f"/queue/{shares['Light']}/move", boost=1).status_code == 200
    waiting = client.get("/queue").json["waiting"]
    assert (waiting[0]["plan"], waiting[0]["boost"]) == ("Light", 1)
    assert lead.post(f"/queue/{shares['Light']}/move", boost=0).status_code == 200
    assert client.get("/queue").json["waiting"][0]["kind"] == "try"
    assert lead.post("/queue/99999/move", boost=1).status_code == 404


def test_moving_what_is_being_begun_leaves_the_order_of_all_others(client, make, database):
    up(database, "st1", places=2)
    start(client, make("First", tests=[QUOTES]))
    lead = Client(client.http.application, "wren")
    worker = Worker(database)
    job = worker.fetch()  # fetched, and not begun yet
    share = client.get("/queue").json["waiting"][0]["share"]
    assert lead.post(f"/queue/{share}/move", boost=1).status_code == 200
    worker.begin(job)
    with database.session() as session:
        assert session.get_one(Share, share).served == 0
    assert lead.post(f"/queue/{share}/move", boost=0).status_code == 200
    start(client, make("Second", tests=[QUOTES]))
    waiting = [one["plan"] for one in client.get("/queue").json["waiting"]]
    assert set(waiting[:2]) == {"First", "Second"}, "they take turns"


def test_the_virtual_time_begins_anew_when_nothing_goes_on(client, make, database):
    up(database, "st1")
    with database.session() as session:
        session.query(Share).filter(Share.tries).one().served = sharing.LATE + 1
    run = start(client, make(tests=[QUOTES]))["run"]["id"]
    with database.session() as session:
        sharing.forget_idle(session)
        assert session.query(Share).filter(Share.tries).one().served > sharing.LATE
    Worker(database).play()
    with database.session() as session:
        sharing.forget_idle(session)
        assert {one.served for one in session.query(Share)} == {0.0}
    assert client.get(f"/plan-runs/{run}").json["run"]["state"] == "passed"
