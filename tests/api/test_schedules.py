"""Schedules over the API: plans that start by themselves, once; the calendar; moving."""

from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import pytest

from lantern.store import schedules
from lantern.store.models import Schedule
from lantern.store.reconciling import Reconciler
from tests.api.conftest import Client
from tests.api.planning import Worker, up

BOOKING = "Book a firing"


@pytest.fixture
def plan(client):
    test = client.test_named(BOOKING)["id"]
    made = client.post("/plans", name="Every night", plan={"picks": [{"test": test}]})
    return made.json["id"]


def make(client, plan, **body):
    answer = client.post(f"/plans/{plan}/schedules", **body)
    assert answer.status_code == 200, answer.json
    return answer.json


def runs_of(client, plan):
    return client.get("/plan-runs", plan=plan).json["runs"]


def overdue(database, key, hours):
    """As if nothing had run for some hours."""
    with database.session() as session:
        session.get_one(Schedule, key).next_at = datetime.now(UTC) - timedelta(hours=hours)


def test_the_next_times_are_told_while_it_is_typed(client):
    told = client.post("/schedules/preview", cron="0 3 * * 1-5", zone="Europe/Berlin").json
    assert (told["words"], len(told["next"])) == ("at 03:00 on Monday through Friday", 5)
    past = client.post("/schedules/preview", at="2020-01-01T03:00").json
    assert (past["next"], past["hint"]) == ([], "That has passed: it starts at once, once.")
    wrong = client.post("/schedules/preview", cron="0 25 * * *").json
    assert "no time that repeats" in wrong["trouble"]
    assert "Five fields" in wrong["hint"]


def test_one_set_to_a_past_time_starts_at_once_and_once(client, plan, database):
    up(database, "st1")
    made = make(client, plan, at="2020-01-01T03:00")
    Reconciler(database).look()
    Reconciler(database).look()
    (run,) = runs_of(client, plan)
    assert (run["cause"], run["author"]) == ("a schedule", "Odo Fennick")
    (told,) = client.get(f"/plans/{plan}/schedules").json["schedules"]
    assert (told["id"], told["next"], told["last_run"]) == (made["id"], [], run["id"])


def test_one_that_came_does_not_come_again_when_it_is_switched_off_and_on(client, plan, database):
    made = make(client, plan, at="2020-01-01T03:00", zone="Europe/Berlin")
    Reconciler(database).look()
    for base, enabled in ((1, False), (2, True)):
        (now,) = client.get(f"/plans/{plan}/schedules").json["schedules"]
        body = now["schedule"] | {"enabled": enabled}
        assert client.put(f"/schedules/{made['id']}", base=base, schedule=body).status_code == 200
        Reconciler(database).look()
    assert len(runs_of(client, plan)) == 1
    later = body | {"at": "2020-01-02T03:00"}
    answer = client.put(f"/schedules/{made['id']}", base=3, schedule=later)
    assert answer.status_code == 200, answer.json
    Reconciler(database).look()
    assert [one["cause"] for one in runs_of(client, plan)] == ["a schedule"] * 2, "another time is"


def test_what_is_overdue_starts_once_however_many_times_passed_and_whoever_looks(
    client, plan, database
):
    made = make(client, plan, cron="*/5 * * * *")
    overdue(database, made["id"], 9)
    with ThreadPoolExecutor(4) as pool:
        done = list(pool.map(lambda _: schedules.fire_due(database), range(4)))
    assert sum(done) == 1
    assert len(runs_of(client, plan)) == 1
    (told,) = client.get(f"/plans/{plan}/schedules").json["schedules"]
    assert datetime.fromisoformat(told["next"][0]) > datetime.now(UTC)


def test_what_can_not_start_says_why_and_the_others_start_all_the_same(client, plan, database):
    empty = client.post("/plans", name="Empty", plan={"picks": []}).json["id"]
    make(client, empty, at="2020-01-01T03:00")
    make(client, plan, at="2020-01-01T03:01")
    Reconciler(database).look()
    assert len(runs_of(client, plan)) == 1
    (told,) = client.get(f"/plans/{empty}/schedules").json["schedules"]
    assert "comes to no test" in told["trouble"]
    shown = {"begin": "2019-12-31T00:00:00+00:00", "end": "2020-01-02T00:00:00+00:00"}
    (missed,) = client.get("/calendar", **shown).json["entries"]
    assert (missed["kind"], missed["plan"]) == ("missed", "Empty")


def test_two_at_the_same_time_follow_the_rule_of_the_plan(client, plan, database):
    now = client.get(f"/plans/{plan}").json
    body = now["plan"] | {"overlap": "skip"}
    client.put(f"/plans/{plan}", base=now["version"], plan=body)
    for minute in (1, 2):
        make(client, plan, at=f"2020-01-01T03:0{minute}")
    Reconciler(database).look()
    assert len(runs_of(client, plan)) == 1
    told = client.get(f"/plans/{plan}/schedules").json["schedules"]
    assert ["is still running" in one["trouble"] for one in told] == [False, True]


def test_schedules_are_changed_switched_off_and_deleted_and_conflicts_are_told(client, plan):
    made = make(client, plan, cron="0 3 * * *")
    other = Client(client.http.application, "wren")
    body = made["schedule"] | {"enabled": False}
    off = other.put(f"/schedules/{made['id']}", base=1, schedule=body).json
    assert (off["version"], off["next"]) == (2, [])
    late = client.put(f"/schedules/{made['id']}", base=1, schedule=made["schedule"])
    assert late.status_code == 409
    viewer = Client(client.http.application, "pia")
    assert viewer.delete(f"/schedules/{made['id']}").status_code == 403
    assert client.delete(f"/schedules/{made['id']}").status_code == 200
    assert client.delete(f"/schedules/{made['id']}").status_code == 404
    wrong = client.post(f"/plans/{plan}/schedules", cron="never")
    assert wrong.status_code == 422


def test_the_calendar_shows_what_ran_runs_and_will_run_and_marks_what_is_too_much(
    client, plan, database
):
    up(database, "st1", places=2)
    client.post(f"/plans/{plan}/runs")
    Worker(database).play()
    client.post(f"/plans/{plan}/runs")
    tomorrow = (datetime.now(UTC) + timedelta(days=1)).replace(hour=3, minute=0, second=0)
    for _ in range(2):
        make(client, plan, at=tomorrow.isoformat())
    make(client, plan, at=(tomorrow + timedelta(hours=5)).isoformat())
    begin, end = tomorrow - timedelta(days=3), tomorrow + timedelta(days=3)
    shown = {"begin": begin.isoformat(), "end": end.isoformat()}
    told = client.get("/calendar", **shown).json
    assert told["places"] == 2
    found = [(one["kind"], one["state"], one["crowded"]) for one in told["entries"]]
    assert found == [
        ("run", "passed", False),
        ("run", "queued", False),
        ("planned", "planned", True),
        ("planned", "planned", True),
        ("planned", "planned", False),
    ]
    assert (
        client.get("/calendar", begin=begin.isoformat(), end="2030-01-01T00:00Z").status_code == 422
    )


def test_a_time_is_moved_alone_or_every_one_of_it(client, plan, database):
    made = make(client, plan, cron="0 3 * * *")
    first, second = made["next"][:2]
    to = (datetime.fromisoformat(first) + timedelta(hours=7)).isoformat()
    assert client.post(f"/schedules/{made['id']}/move", was=first, to=to).status_code == 200
    rest, alone = client.get(f"/plans/{plan}/schedules").json["schedules"]
    assert rest["next"][0] == second
    assert datetime.fromisoformat(alone["next"][0]) == datetime.fromisoformat(to)
    moved = client.post(f"/schedules/{made['id']}/move", was=second, to=to, every=True)
    assert moved.status_code == 200
    rest, _ = client.get(f"/plans/{plan}/schedules").json["schedules"]
    assert rest["schedule"]["cron"] == "0 10 * * *"
