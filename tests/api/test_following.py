"""Following a run closely: what changes in it is read once and told to all who follow it."""

import json

import pytest

from lantern.core.runs.life import Ended
from lantern.store import casts, runs, tests
from lantern.store.channel import RECONNECTED
from lantern.store.models import Cast
from lantern.web.following import Changed
from lantern.web.hub import Hub
from lantern.web.views.runs import delta_of
from lantern.web.watching import MOST_WAITING, Watching
from tests.api.casting import keep, taken
from tests.api.test_casts import station
from tests.api.test_runs import result


@pytest.fixture
def hub(database):
    return Hub(database, delta_of)


@pytest.fixture
def run(database):
    with database.session() as session:
        station(session, "st1")
        test = tests.named(session, "Quotes by clay and cone")
        return runs.create(session, test, "run", "1-3", None).id


def told(watching):
    """All that a page was told, with what is due read at once."""
    found = []
    while (notice := watching.next(0.01)) is not None:
        found.append(json.loads(notice))
    return found


def delta(hub, run, **changed):
    return json.loads(hub.following.notice(run, Changed(**changed)))["delta"]


def test_a_step_is_told_to_who_follows_the_run_and_to_nobody_else(hub, run):
    near, far = Watching(), Watching()
    near.follow([run])
    hub._streams = {near, far}
    hub._hand_out(json.dumps({"about": "run", "id": run, "casts": [1], "small": True}))
    assert told(far) == []
    assert hub.following._waiting[run].casts == {1}
    hub._hand_out(json.dumps({"about": "run", "id": run, "casts": [1, 2], "results": [5]}))
    assert [one["about"] for one in told(far)] == ["run"]
    assert told(near) == []  # it is told once it is read
    assert hub.following._waiting[run] == Changed({1, 2}, {5})
    hub._hand_out(json.dumps({"about": "run", "id": run}))  # more than a notice can name
    assert [one["about"] for one in told(near)] == ["run"]


def test_what_nobody_follows_is_not_read(hub, run):
    hub._streams = {Watching()}
    hub._hand_out(json.dumps({"about": "run", "id": run, "casts": [1], "small": True}))
    assert hub.following._waiting == {}


def test_the_change_is_the_cast_its_new_results_and_where_the_run_is(database, hub, run):
    with database.session() as session:
        cast = taken(session, run)
        casts.set_current(session, cast.id, cast.token, "Press Sign in", "s1")
        first = keep(session, cast, result(0, "passed"), 1)
        second = keep(session, cast, result(1, "failed"), 2)
        casts.happen(session, run, Ended(cast.id, cast.token, "failed"))
    now = delta(hub, run, casts={cast.id}, results={second})
    assert [one["id"] for one in now["casts"]] == [cast.id]
    assert (now["casts"][0]["outcome"], now["run"]["rows"]["failed"]) == ("failed", 1)
    assert [one["id"] for one in now["results"][str(cast.id)]] == [second] != [first]
    with database.session() as session:  # the same as reading the whole run
        others = {one.id: one for one in session.get_one(runs.Run, run).casts}
        assert set(others) > {cast.id}


def test_who_comes_while_a_row_plays_is_told_what_may_have_been_missed(database, hub, run):
    near = Watching(hub.following.begun)
    with database.session() as session:
        cast = taken(session, run)
    near.follow([run])
    near.follow([run])  # said again: nothing new
    changed = hub.following._waiting.pop(run)
    assert changed.lately
    told_now = delta(hub, run, lately=True)
    assert [one["id"] for one in told_now["casts"]] == [cast.id]
    assert told_now["again"]
    assert hub.following._waiting == {}


def test_a_result_of_an_earlier_taking_is_not_told_as_one_of_the_last(database, hub, run):
    with database.session() as session:
        cast = taken(session, run)
        old = keep(session, cast, result(0, "passed"), 1)
        session.get_one(Cast, cast.id).takings = 2
    assert delta(hub, run, casts={cast.id}, results={old})["results"] == {}


def test_a_page_that_is_too_slow_is_told_to_read_everything_anew():
    slow = Watching()
    for n in range(MOST_WAITING + 1):
        slow.put(json.dumps({"about": "test", "id": n}))
    assert slow.next(0.01) == RECONNECTED
    assert slow.next(0.01) is None


def test_a_change_that_can_not_be_read_stops_nobody_from_being_told(hub, run, monkeypatch):
    def breaks(*_given, **_named):
        raise ValueError("no shape for that")

    monkeypatch.setattr(hub.following, "_reads", breaks)
    assert hub.following._told(run, Changed({1})) == RECONNECTED
    monkeypatch.setattr(hub.following, "_reads", delta_of)
    gone = json.loads(hub.following._told(10**6, Changed({1})))
    assert gone == {"about": "run", "id": 10**6}
    assert hub.following._told(10**12, Changed()) == RECONNECTED  # no number of a run
    assert "delta" in hub.following._told(run, Changed({1}))
