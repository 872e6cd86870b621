"""Casts in a real PostgreSQL: offered, taken, lost, taken away, and always brought to an end."""

import json
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import Engine, event, func, select, text, update
from sqlalchemy.exc import OperationalError

from lantern.core.engine.outcomes import StepResult
from lantern.core.review.records import plain
from lantern.core.runs.life import Ended, TooLate
from lantern.station.worker import lost_of
from lantern.store import casts, runs, stations, tests
from lantern.store.database import Database
from lantern.store.models import Cast, Result, Run
from lantern.store.reconciling import OBEYS, SURE, Reconciler, give_up
from lantern.store.records import record_of
from tests.api.casting import taken
from tests.api.test_runs import result


@pytest.fixture
def clock():
    class Clock:
        now = 100.0

        def __call__(self):
            return self.now

    return Clock()


@pytest.fixture
def look(database, clock):
    """Let the reconciler look, as often as it takes to be sure."""
    reconciler = Reconciler(database, clock)

    def look():
        reconciler.look()
        clock.now += SURE
        reconciler.look()

    return look


def station(session, name):
    stations.beat(session, name, name=name, address="ws://x", engines=["chromium"])


def queued(database, choice="1-3", up=("st1",), **settings):
    """A run of the demo's test; returns its id."""
    with database.session() as session:
        for name in up:
            station(session, name)
        test = tests.named(session, "Quotes by clay and cone")
        run = runs.create(session, test, "run", choice, None)
        for name, value in settings.items():
            setattr(run, name, value)
        return run.id


def state(database, run_id):
    with database.session() as session:
        run = session.get_one(Run, run_id)
        return run.state, [cast.outcome for cast in run.casts]


def offers(database):
    """The casts for which a job waits or is under way, in the order of the queue."""
    with database.session() as session:
        return list(
            session.scalars(
                text(
                    "SELECT (args ->> 'cast_id')::int FROM procrastinate_jobs "
                    "WHERE status IN ('todo', 'doing') ORDER BY id"
                )
            )
        )


def fetched(session, silent=0):
    """The first job, fetched by a worker of the queue that was last heard `silent` seconds ago."""
    worker = session.scalar(
        text(
            "INSERT INTO procrastinate_workers (last_heartbeat) "
            "VALUES (now() - make_interval(secs => :silent)) RETURNING id"
        ),
        {"silent": silent},
    )
    return session.execute(
        text("SELECT id, args FROM procrastinate_fetch_job_v2(NULL, :worker)"), {"worker": worker}
    ).one()


def test_one_station_gets_the_rows_one_by_one_and_two_get_two_at_once(database):
    run_id = queued(database)
    assert len(offers(database)) == 1
    with database.session() as session:
        cast = taken(session, run_id)
    assert cast.position == 0
    assert len(offers(database)) == 1  # its own job is under way, and no further one waits
    second = queued(database, up=("st1", "st2"))
    assert len(offers(database)) == 3
    with database.session() as session:
        assert [taken(session, second).position, taken(session, second).position] == [0, 1]
        assert taken(session, second) is None


def test_a_second_station_takes_part_in_a_run_that_is_under_way(database, look):
    run_id = queued(database)
    with database.session() as session:
        assert taken(session, run_id).position == 0
        station(session, "st2")
    look()
    with database.session() as session:
        assert taken(session, run_id, "st2").position == 1


def test_without_a_station_the_first_row_waits_in_the_queue(database):
    queued(database, up=())
    assert len(offers(database)) == 1


def test_a_station_killed_between_taking_a_job_and_claiming_the_cast_leaves_it_to_others(
    database, look
):
    run_id = queued(database, "1")
    with database.session() as session:
        fetched(session, silent=60)
    look()
    assert state(database, run_id) == ("queued", ["waiting"])
    with database.session() as session:
        assert taken(session, run_id, "st2")


def test_silence_counts_only_while_the_database_answers(database, clock):
    run_id = queued(database, "1")
    with database.session() as session:
        fetched(session, silent=60)
        taken(session, run_id)
    reconciler = Reconciler(database, clock)
    reconciler.look()
    clock.now += SURE
    reconciler._suspects.clear()  # what a failed look does
    reconciler.look()
    assert state(database, run_id) == ("running", ["running"])
    clock.now += SURE
    reconciler.look()
    assert state(database, run_id) == ("interrupted", ["interrupted"])


def test_reconcilers_that_look_at_once_do_not_get_into_each_others_way(database, clock):
    run_id = queued(database, "1")
    with database.session() as session:
        fetched(session, silent=60)
        taken(session, run_id)
    many = [Reconciler(database, clock) for _ in range(6)]
    for one in many:
        one.look()
    clock.now += SURE
    with ThreadPoolExecutor(6) as pool:
        assert list(pool.map(lambda one: one.look(), many)) == [None] * 6
    assert state(database, run_id) == ("interrupted", ["interrupted"])


def test_a_run_that_can_not_be_mended_keeps_no_other_from_its_end(
    database, clock, look, monkeypatch
):
    broken, other = queued(database, "1"), queued(database, "1")
    with database.session() as session:
        for _ in range(2):
            fetched(session, silent=60)
        taken(session, broken), taken(session, other)
    happen = casts.happen

    def odd(session, run_id, *events):
        if run_id == broken:
            raise KeyError("odd")
        return happen(session, run_id, *events)

    monkeypatch.setattr(casts, "happen", odd)
    look()
    assert state(database, other) == ("interrupted", ["interrupted"])


def test_a_dead_station_leaves_its_row_interrupted_with_its_evidence_and_the_rest_goes_on(
    client, database, look
):
    run_id = queued(database)
    with database.session() as session:
        fetched(session, silent=60)
        cast = taken(session, run_id)
        casts.keep_result(session, cast.id, cast.token, 1, result(0, "passed"), [], [], {})
    look()
    assert state(database, run_id) == ("running", ["interrupted", "waiting", "waiting"])
    with pytest.raises(TooLate), database.session() as session:
        casts.keep_result(session, cast.id, cast.token, 2, result(1, "passed"), [], [], {})
    with pytest.raises(TooLate), database.session() as session:
        casts.happen(session, run_id, Ended(cast.id, cast.token, "passed"))
    with database.session() as session:
        while rest := taken(session, run_id, "st2"):
            casts.happen(session, run_id, Ended(rest.id, rest.token, "passed"))
    run = client.get(f"/runs/{run_id}").json
    assert run["run"]["state"] == "interrupted"
    assert [row["outcome"] for row in run["casts"]] == ["interrupted", "passed", "passed"]
    assert run["casts"][0]["steps_done"] == 1
    assert "stopped" in run["casts"][0]["message"]
    assert "The station that played it stopped." in client.get(f"/runs/{run_id}/junit.xml").text
    assert "stopped" in run["message"]


def test_an_interrupted_row_is_played_again_where_the_run_allows_it(client, database, look):
    run_id = queued(database, "1", again=True)
    with database.session() as session:
        fetched(session, silent=60)
        first = taken(session, run_id)
        casts.keep_result(session, first.id, first.token, 1, result(0, "passed"), [], [], {})
    look()
    assert state(database, run_id) == ("running", ["waiting"])
    with database.session() as session:
        second = taken(session, run_id, "st2")
        for place in (1, 2):
            step = replace(result(place - 1, "passed"), step_id=f"s{place}")
            casts.keep_result(session, second.id, second.token, place, step, [], [], {})
        casts.happen(session, run_id, Ended(second.id, second.token, "passed"))
    run = client.get(f"/runs/{run_id}").json
    assert (run["run"]["state"], run["casts"][0]["takings"]) == ("passed", 2)
    assert run["casts"][0]["steps_done"] == 2  # those of the taking that counts
    with database.session() as session:
        assert session.scalar(select(func.count()).select_from(Result)) == 3


def test_a_result_that_is_written_twice_is_there_once(client, database):
    run_id = queued(database, "1")
    with database.session() as session:
        cast = taken(session, run_id)
        for _ in range(2):
            kept = result(0, "passed", kept={"total": "€ 26.25"})
            casts.keep_result(session, cast.id, cast.token, 1, kept, [], [], {})
    row = client.get(f"/runs/{run_id}").json["casts"][0]
    assert (row["steps_done"], row["kept"]) == (1, {"total": "€ 26.25"})


def test_cancelling_asks_the_queue_to_abort_and_a_cast_that_does_not_obey_is_left(
    client, database, look
):
    run_id = queued(database)
    with database.session() as session:
        fetched(session)
        cast = taken(session, run_id)
    client.post(f"/runs/{run_id}/cancel")
    assert state(database, run_id) == ("running", ["running", "cancelled", "cancelled"])
    with database.session() as session:
        asked = text("SELECT abort_requested FROM procrastinate_jobs WHERE id = :job")
        assert session.scalar(asked, {"job": cast.job})
        assert casts.to_stop(session, [cast.id]) == [cast.id]
    look()
    assert state(database, run_id)[0] == "running"
    with database.session() as session:
        long_ago = datetime.now(UTC) - OBEYS - timedelta(seconds=1)
        session.execute(update(Run).values(cancel_asked_at=long_ago))
    look()
    assert state(database, run_id) == ("cancelled", ["cancelled"] * 3)


def test_what_a_station_took_and_does_not_play_is_ended_by_itself(database):
    """As when its end could not be written, since the database was away for too long."""
    run_id = queued(database, "1")
    with database.session() as session:
        cast = taken(session, run_id)
    with database.session() as session:
        assert casts.played_by(session, "st1") == {cast.id: cast.token}
        give_up(session, cast.id, cast.token)
        assert casts.played_by(session, "st1") == {}
    assert state(database, run_id) == ("interrupted", ["interrupted"])


def test_what_a_station_is_just_taking_is_not_lost():
    """Its token is known to the database a moment before the station has it."""
    assert lost_of({1: "a", 2: "b", 3: "c", 4: "d"}, {1: "a", 2: "", 3: "earlier"}) == {
        3: "c",
        4: "d",
    }


def test_rows_are_played_in_each_browser_that_was_asked_for(client, quotes, database):
    asked = ["chromium", "chromium phone"]
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1-2", browsers=asked).json
    assert [(one["number"], one["browser"]) for one in run["casts"]] == [
        (row, browser) for row in (1, 2) for browser in asked
    ]
    suite = client.get(f"/runs/{run['run']['id']}/junit.xml").text
    assert suite.count(" in chromium phone") == 2
    assert "in chromium phone" in client.get(f"/runs/{run['run']['id']}/report.html").text
    answer = client.post(f"/tests/{quotes['id']}/runs", browsers=["chromiun"])
    assert answer.status_code == 422
    assert "chromium" in answer.json["hint"]


def test_a_run_says_which_browser_it_waits_for_that_no_station_has(client, quotes, database):
    with database.session() as session:
        stations.beat(session, "st1", name="st1", address="ws://x", engines=["chromium"])
    [listed] = client.get("/stations").json["stations"]
    assert ([one["title"] for one in listed["engines"]], listed["browser"]) == (["Chromium"], "")
    offered = {one["name"]: one["stations"] for one in client.get("/browsers").json["browsers"]}
    assert (offered["chromium phone"], offered["firefox"]) == (1, 0)
    asked = {"kind": "run", "rows": "1", "browsers": ["firefox", "chromium"]}
    run = client.post(f"/tests/{quotes['id']}/runs", **asked).json
    assert run["waits_for"] == ["Firefox"]
    with database.session() as session:
        stations.beat(session, "st1", engines=["chromium", "firefox"])
    assert client.get(f"/runs/{run['run']['id']}").json["waits_for"] == []


def test_a_run_of_too_much_is_refused_whole(client, quotes, database, monkeypatch):
    monkeypatch.setattr(runs, "MOST_CASTS", 5)
    asked = ["chromium", "chromium phone"]
    answer = client.post(f"/tests/{quotes['id']}/runs", rows="1-3", browsers=asked)
    assert (answer.status_code, "at most 5" in answer.json["message"]) == (422, True)
    with database.session() as session:
        assert session.scalar(select(func.count()).select_from(Run)) == 0


def test_work_is_done_again_while_the_database_fails_and_no_longer(database):
    tries = []

    def fails(session):
        tries.append(session)
        if len(tries) < 3:
            session.execute(text("SELECT pg_terminate_backend(pg_backend_pid())"))
        return session.scalar(text("SELECT 7"))

    assert database.insist(fails, 5, lambda _: None) == 7
    start = time.monotonic()
    with pytest.raises(OperationalError):
        database.insist(
            lambda session: session.execute(text("SELECT pg_terminate_backend(pg_backend_pid())")),
            0.3,
        )
    assert time.monotonic() - start < 5


def test_a_process_that_is_to_end_waits_no_longer_for_a_database_that_is_away():
    away = Database("postgresql+psycopg://nobody@127.0.0.1:9/nothing")
    start = time.monotonic()
    with pytest.raises(OperationalError):
        away.insist(
            lambda session: session.execute(text("SELECT 1")),
            600,
            ending=lambda: time.monotonic() - start > 1,
        )
    assert time.monotonic() - start < 20
    away.close()


def test_a_job_of_a_cast_that_is_gone_does_nothing(database):
    with database.session() as session:
        assert casts.take(session, 999_999, 1, "st1") is None


def test_a_cast_is_had_by_one_station_alone(database):
    run_id = queued(database, "1")
    with database.session() as session:
        cast = session.scalars(select(Cast).filter_by(run_id=run_id)).one()
        assert casts.take(session, cast.id, cast.job, "st1")
        assert casts.take(session, cast.id, cast.job, "st2") is None


def test_a_row_that_stopped_says_how_far_it_came_and_is_given_out_as_tables(client, database):
    """Sentences that were passed over do not count; few statements, however many results."""
    run_id = queued(database, "1")
    with database.session() as session:
        cast = taken(session, run_id)
        steps = session.get(Run, run_id).body["steps"]
        for place, step in enumerate(steps, 1):
            outcome = "passed" if place < 6 else "failed" if place == 6 else "skipped"
            one = StepResult(step["id"], place - 1, f"sentence {place}", outcome, found="=1+1")
            casts.keep_result(session, cast.id, cast.token, place, one, [], [], {})
        casts.happen(session, run_id, Ended(cast.id, cast.token, "failed"))
    run = client.get(f"/runs/{run_id}").json
    assert (run["casts"][0]["steps_done"], run["steps"]) == (6, len(steps))
    text = client.get(f"/runs/{run_id}/rows.csv").text
    assert f"6 of {len(steps)}" in text
    assert "'=1+1" in text
    with database.session() as session:
        record = record_of(session, runs.get(session, run_id), pictured="none")
    assert json.loads(json.dumps(plain(record)))["rows"][0]["started_at"].startswith("20")
    for ending in ("xlsx", "ods"):
        assert client.get(f"/runs/{run_id}/rows.{ending}").status_code == 200
    assert client.get(f"/runs/{run_id}/rows.pdf").status_code == 404
    said = []

    def listen(*given):
        said.append(given[2])

    event.listen(Engine, "before_cursor_execute", listen)
    assert "sentence 6" in client.get(f"/runs/{run_id}/junit.xml").text
    event.remove(Engine, "before_cursor_execute", listen)
    assert len(said) < 20, said
