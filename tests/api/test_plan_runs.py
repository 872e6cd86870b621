"""Runs of plans in a real PostgreSQL: how they go, what they come to, played again."""

import base64
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from lantern.core.plans.going import NOT_BEGUN, TIME_IS_UP
from lantern.core.runs.life import Ended
from lantern.store import casts, pictures, plan_runs
from lantern.store.models import PlanRun, Run
from lantern.store.reconciling import Reconciler
from lantern.store.records import plan_record_of
from tests.api.planning import BOOKING, QUOTES, Worker, failed, flow, matrix, start, up


def test_a_run_of_a_plan_is_one_page_with_one_verdict_and_compared_with_the_last(
    client, make, database
):
    up(database, "st1", places=3, engines=["chromium", "firefox"])
    plan = make(browsers=["chromium", "firefox"])
    run = start(client, plan)
    assert run["run"]["state"] == "queued"
    assert run["browsers"] == ["chromium", "firefox"]
    assert run["run"]["casts"] == {"waiting": 16}
    assert run["expected"]["usual"] > 0
    assert run["left"] > 0
    worker = Worker(database)
    taken = worker.take()
    now = client.get(f"/plan-runs/{run['run']['id']}").json
    assert now["run"]["state"] == "running"
    assert now["stations"][0]["plays"][0]["test"] == QUOTES
    assert matrix(now)[QUOTES, "chromium"] == "running"
    worker.end(taken)
    worker.play()
    over = client.get(f"/plan-runs/{run['run']['id']}").json
    assert (over["run"]["state"], over["run"]["casts"]) == ("passed", {"passed": 16})
    assert set(matrix(over).values()) == {"passed"}
    assert over["last"] is None

    second = start(client, plan)["run"]["id"]
    worker.play(lambda name, number, browser: "failed" if name == BOOKING else "passed")
    found = client.get(f"/plan-runs/{second}").json
    assert (found["run"]["state"], found["last"]["id"]) == ("failed", run["run"]["id"])
    assert found["changes"] == [
        {"test": BOOKING, "browser": name, "before": "passed", "now": "failed"}
        for name in ("chromium", "firefox")
    ]
    listed = client.get("/plans").json["plans"][0]
    assert (listed["last"]["id"], listed["last"]["state"]) == (second, "failed")

    # What failed is played again, alone; the comparison stays with whole runs.
    third = client.post(f"/plan-runs/{second}/again").json
    assert (third["run"]["again_of"], third["run"]["casts"]) == (second, {"waiting": 2})
    worker.play()
    assert client.get(f"/plan-runs/{third['run']['id']}").json["run"]["state"] == "passed"
    refused = client.post(f"/plan-runs/{run['run']['id']}/again")
    assert (refused.status_code, refused.json["message"]) == (422, "Nothing of it failed.")


def test_only_the_cells_that_failed_are_played_again(client, make, database):
    up(database, "st1", engines=["chromium", "firefox"])
    worker = Worker(database)
    run = start(client, make(browsers=["chromium", "firefox"]))["run"]["id"]
    bad = {(QUOTES, 2, "firefox"), (QUOTES, 5, "chromium")}
    worker.play(lambda *cell: "failed" if cell in bad else "passed")
    worker.played.clear()
    again = client.post(f"/plan-runs/{run}/again").json
    assert again["run"]["casts"] == {"waiting": 2}
    worker.play()
    assert set(worker.played) == bad


def test_what_was_never_played_is_not_what_failed(client, make, database):
    up(database, "st1", places=1)
    worker = Worker(database)
    run = start(client, make(on_failure="stop everything", at_once=1))["run"]["id"]
    worker.play(lambda *_: "failed")
    worker.played.clear()
    client.post(f"/plan-runs/{run}/again")
    worker.play()
    assert [(name, number) for name, number, _ in worker.played] == [(QUOTES, 1)]
    cancelled = start(client, make("Cancelled"))["run"]["id"]
    client.post(f"/plan-runs/{cancelled}/cancel")
    refused = client.post(f"/plan-runs/{cancelled}/again")
    assert (refused.status_code, refused.json["message"]) == (422, "Nothing of it failed.")


def test_a_plan_of_which_all_is_left_out_does_not_pass_but_does_not_start(client, make, ids):
    plan = make(tests=[BOOKING], left_out=[{"test": ids[BOOKING], "browser": "chromium"}])
    answer = client.post(f"/plans/{plan['id']}/runs")
    assert (answer.status_code, "left out" in answer.json["message"]) == (422, True)
    assert client.get("/plan-runs").json["runs"] == []


def test_a_run_whose_plan_was_deleted_waits_for_no_other(client, make, database):
    up(database, "st1", places=4)
    plans = [make(f"P{n}", tests=[BOOKING]) for n in range(2)]
    runs = [start(client, plan)["run"]["id"] for plan in plans]
    for plan in plans:
        client.delete(f"/plans/{plan['id']}")
    Reconciler(database).look()
    Worker(database).play()
    states = {client.get(f"/plan-runs/{key}").json["run"]["state"] for key in runs}
    assert states == {"passed"}


def test_what_passes_at_the_second_try_is_unsteady_and_both_results_are_kept(
    client, make, database
):
    up(database, "st1")
    run = start(client, make(tests=[BOOKING], retries=1))
    came = iter(["failed", "passed"])
    Worker(database).play(lambda *_: next(came))
    found = client.get(f"/plan-runs/{run['run']['id']}").json
    assert (found["run"]["state"], matrix(found)) == (
        "unsteady",
        {(BOOKING, "chromium"): "unsteady"},
    )
    query = {"run": found["rows"][0]["run"], "browser": "chromium"}
    (cast,) = client.get(f"/plan-runs/{run['run']['id']}/cell", **query).json["casts"]
    assert (cast["outcome"], cast["takings"], cast["failures"]) == ("unsteady", 2, 1)
    first = client.get(f"/casts/{cast['id']}/results", taking=1).json["results"]
    last = client.get(f"/casts/{cast['id']}/results").json["results"]
    assert [one["outcome"] for one in first] == ["failed"]
    assert last == []
    assert "unsteady" in client.get("/runs", state="unsteady").json["runs"][0]["state"]


def test_a_failure_leads_to_what_the_plan_says(client, make, database):
    up(database, "st1", places=1)
    worker = Worker(database)

    def bad(name, number, browser):
        return "failed" if (name, number) == (QUOTES, 2) else "passed"

    run = start(client, make("On", on_failure="go on"))
    worker.play(bad)
    found = client.get(f"/plan-runs/{run['run']['id']}").json["run"]
    assert (found["state"], found["casts"]) == ("failed", {"passed": 7, "failed": 1})

    run = start(client, make("Test", on_failure="stop the test"))
    worker.play(bad)
    found = client.get(f"/plan-runs/{run['run']['id']}").json
    assert found["run"]["casts"] == {"passed": 2, "failed": 1, "skipped": 5}
    assert found["rows"][1]["state"] == "passed", "the other test is played all the same"

    run = start(client, make("All", on_failure="stop everything"))
    worker.play(bad)
    found = client.get(f"/plan-runs/{run['run']['id']}").json["run"]
    assert found["casts"] == {"passed": 1, "failed": 1, "skipped": 6}
    assert found["message"] == f"“{QUOTES}” failed, and the plan stops everything then."


def test_flows_are_played_once_before_and_after_all_of_it(client, make, database):
    up(database, "st1", places=4)
    parts = {"before": flow(database, "Warm up"), "after": flow(database, "Cool down")}
    worker = Worker(database)
    plan = make(**parts)
    run = start(client, plan)
    assert [row["phase"] for row in run["rows"]] == ["before", "main", "main", "after"]
    worker.play()
    assert worker.played[0][0] == "Warm up"
    assert worker.played[-1][0] == "Cool down"
    assert len(worker.played) == 10

    worker.played.clear()
    second = start(client, plan)["run"]["id"]
    worker.play(lambda name, *_: "failed" if name == "Warm up" else "passed")
    found = client.get(f"/plan-runs/{second}").json
    assert [row["state"] for row in found["rows"]] == ["failed", "failed", "failed", "passed"]
    assert [one[0] for one in worker.played] == ["Warm up", "Cool down"]
    with database.session() as session:
        assert session.get_one(Run, found["rows"][1]["run"]).message == NOT_BEGUN


def test_flows_around_rows_stand_in_for_those_of_the_project(client, make, database):
    around = flow(database, "Back to the start")
    start(client, make(tests=[BOOKING], before_row=around))
    with database.session() as session:
        body = session.query(Run).order_by(Run.id.desc()).first().body
    assert (body["steps"][0]["action"], body["steps"][0]["flow"]) == ("flow", around)


def test_cells_are_left_out_and_one_or_all_are_cancelled(client, make, ids, database):
    up(database, "st1", places=1, engines=["chromium", "firefox"])
    run = start(
        client,
        make(
            browsers=["chromium", "firefox"],
            left_out=[{"test": ids[QUOTES], "browser": "firefox"}],
            at_once=1,
        ),
    )["run"]
    assert run["casts"] == {"waiting": 9}
    worker = Worker(database)
    taken = worker.take()
    assert worker.take() is None, "one at once"
    assert client.post(f"/casts/{taken[1].id}/cancel").status_code == 200
    with database.session() as session:
        key = plan_runs.get(session, run["id"]).runs[0].casts[3].id
    assert client.post(f"/casts/{key}/cancel").status_code == 200
    worker.end(taken, "cancelled")
    assert client.get(f"/plan-runs/{run['id']}").json["run"]["casts"]["cancelled"] == 2
    worker.play(most=2)
    assert client.post(f"/plan-runs/{run['id']}/cancel").json["run"]["state"] == "cancelled"
    assert worker.take() is None
    assert client.post("/casts/99999/cancel").status_code == 404


def test_the_time_of_the_whole_ends_it_also_when_whoever_started_it_is_gone(client, make, database):
    up(database, "st1", places=1)
    after = flow(database, "Cool down")
    run = start(client, make(minutes=5, after=after))["run"]["id"]
    worker = Worker(database)
    taken = worker.take()
    with database.session() as session:
        session.get_one(PlanRun, run).deadline = datetime.now(UTC) - timedelta(seconds=1)
    Reconciler(database).look()
    worker.end(taken, "cancelled")
    worker.play()
    found = client.get(f"/plan-runs/{run}").json
    assert (found["run"]["state"], found["run"]["message"]) == ("failed", TIME_IS_UP)
    assert found["rows"][-1]["state"] == "passed", "what is to be played at the end is"


def test_two_runs_of_a_plan_at_the_same_time_follow_its_rule(client, make, database):
    up(database, "st1", places=4)
    worker = Worker(database)
    plan = make("Waits", tests=[BOOKING])
    first, second = (start(client, plan)["run"]["id"] for _ in range(2))
    taken = worker.take()
    assert taken[0].plan_run_id == first
    assert worker.take() is None, "the second waits for the first"
    worker.end(taken)
    Reconciler(database).look()
    assert worker.take()[0].plan_run_id == second

    plan = make("Skips", tests=[BOOKING], overlap="skip")
    first = start(client, plan)["run"]["id"]
    refused = client.post(f"/plans/{plan['id']}/runs")
    assert (refused.status_code, f"as run {first}" in refused.json["message"]) == (422, True)

    plan = make("Cancels", tests=[BOOKING], overlap="cancel the old")
    first, second = (start(client, plan)["run"]["id"] for _ in range(2))
    states = [client.get(f"/plan-runs/{key}").json["run"]["state"] for key in (first, second)]
    assert states == ["cancelled", "queued"]


def test_a_plan_that_lost_the_one_who_would_go_on_is_gone_on_with(client, make, database):
    up(database, "st1", places=1)
    run = start(client, make(tests=[BOOKING], at_once=1, browsers=["chromium", "firefox"]))["run"]
    up(database, "st2", engines=["firefox"])
    worker = Worker(database)
    taken = worker.take()
    with database.session() as session:  # the station dies between the end and going on
        casts.happen(session, taken[0].id, Ended(taken[1].id, taken[1].token, "passed"))
    assert worker.take() is None
    Reconciler(database).look()
    worker.play()
    assert client.get(f"/plan-runs/{run['id']}").json["run"]["state"] == "passed"


def test_a_plan_that_can_not_start_leaves_nothing_behind(client, make, ids, database):
    plan = make(tests=[BOOKING])
    wrong = client.put(
        f"/plans/{plan['id']}",
        base=1,
        plan={"picks": [{"test": ids[BOOKING]}, {"test": ids[QUOTES], "rows": "77"}]},
    ).json
    answer = client.post(f"/plans/{wrong['id']}/runs")
    assert (answer.status_code, QUOTES in answer.json["message"]) == (422, True)
    assert client.get("/plan-runs").json["runs"] == []
    assert client.get("/runs").json["runs"] == []
    empty = client.post("/plans", name="Empty", plan={"picks": [{"kind": "label", "words": "x"}]})
    answer = client.post(f"/plans/{empty.json['id']}/runs")
    assert (answer.status_code, answer.json["hint"]) == (422, "No test has the label “x”.")


def test_only_what_failed_the_last_time_is_played(client, make, ids, database):
    up(database, "st1")
    worker = Worker(database)
    start(client, make())
    worker.play(lambda name, number, _: "failed" if number == 4 else "passed")
    picks = [{"test": ids[name], "rows": "failed last"} for name in (QUOTES, BOOKING)]
    plan = client.post("/plans", name="Failed ones", plan={"picks": picks}).json
    worker.played.clear()
    start(client, plan)
    worker.play()
    assert [(name, number) for name, number, _ in worker.played] == [(QUOTES, 4)]
    answer = client.post(f"/plans/{plan['id']}/runs")
    assert answer.status_code == 422, "nothing failed the last time"


def test_a_cell_is_cancelled_and_the_command_box_finds_plans(client, make, database):
    up(database, "st1", engines=["chromium", "firefox"])
    run = start(client, make(browsers=["chromium", "firefox"]))
    row = run["rows"][0]["run"]
    key = run["run"]["id"]
    asked = {"run": row, "browser": "firefox"}
    assert client.post(f"/plan-runs/{key}/cell/cancel", **asked).status_code == 200
    assert client.post("/plan-runs/99/cell/cancel", **asked).status_code == 404
    Worker(database).play()
    found = client.get(f"/plan-runs/{key}").json
    assert matrix(found)[QUOTES, "firefox"] == "cancelled"
    assert found["run"]["casts"] == {"passed": 9, "cancelled": 7}
    assert found["run"]["state"] == "cancelled"
    told = client.get("/search", q="every night").json["found"]
    assert [(one["kind"], one["title"]) for one in told] == [("plan", "Every night")]


def test_a_test_without_rows_is_played_again_only_where_it_failed_itself(client, make, database):
    # Two tests whose rows can not be told apart by their values: they have none.
    up(database, "st1", engines=["chromium", "firefox"])
    booking = client.test_named(BOOKING)
    copied = client.post(f"/tests/{booking['id']}/copy", name="Book another").json["id"]
    picks = [{"test": booking["id"]}, {"test": copied}]
    plan = client.post(
        "/plans", name="Both", plan={"picks": picks, "browsers": ["chromium", "firefox"]}
    ).json
    run = start(client, plan)["run"]["id"]
    bad = {(BOOKING, 0, "chromium"), ("Book another", 0, "firefox")}
    worker = Worker(database)
    worker.play(lambda *cell: "failed" if cell in bad else "passed")
    worker.played.clear()
    assert client.post(f"/plan-runs/{run}/again").status_code == 200
    worker.play()
    assert set(worker.played) == bad


def test_a_report_of_a_plan_shows_failures_with_their_pictures_and_no_others(
    client, make, database
):
    up(database, "st1")
    run = start(client, make(tests=[BOOKING]))["run"]["id"]
    worker = Worker(database)
    taken = worker.take()
    with database.session() as session:
        shots = [pictures.keep(session, content, "image/jpeg") for content in (b"good", b"bad")]
        for place, (digest, state) in enumerate(zip(shots, ("passed", "failed"), strict=True), 1):
            result = replace(failed("<b>It is hostile</b>"), outcome=state, picture=digest)
            casts.keep_result(session, taken[1].id, taken[1].token, place, result, [], [], {})
    worker.end(taken, "failed")
    html = client.get(f"/plan-runs/{run}/report.html").text
    assert base64.b64encode(b"bad").decode() in html
    assert base64.b64encode(b"good").decode() not in html
    assert "&lt;b&gt;It is hostile" in html
    assert "<script" not in html
    with database.session() as session:
        whole = plan_record_of(session, plan_runs.get(session, run), pictured="none")
    assert not any(step.picture for row in whole.runs[0].rows for step in row.steps)


def test_a_plan_passes_with_known_defects_only_if_it_says_so(client, make, database):
    """And no longer when something fails that no open defect is known for."""
    up(database, "st1")
    worker = Worker(database)

    def run(plan, *bad):
        key = start(client, plan)["run"]["id"]
        worker.play(lambda name, number, _: "failed" if (name, number) in bad else "passed")
        told = client.get(f"/plan-runs/{key}").json
        return told["run"]["state"], told["run"]["message"], told["rows"][-1]["run"]

    strict, lenient = make(), make(name="With known ones", known="passes")
    state, _, first = run(lenient, (BOOKING, 0))
    assert state == "failed", "nothing is known yet"
    [cast] = client.get(f"/runs/{first}").json["casts"]
    [result] = client.get(f"/casts/{cast['id']}/results").json["results"]
    texts = dict.fromkeys(("title", "steps", "expected", "found"), "x")
    made = client.post("/defects", result_id=result["id"], severity="minor", **texts).json
    number = made["defect"]["id"]

    assert run(lenient, (BOOKING, 0))[:2] == (
        "passed",
        f"All that failed is known: defect {number}.",
    )
    assert run(strict, (BOOKING, 0))[0] == "failed"
    assert run(lenient, (BOOKING, 0), (QUOTES, 2))[0] == "failed"
    # On the page of the run it is told, and it can still be raised as another one.
    _, _, again = run(lenient, (BOOKING, 0))
    [link] = client.get(f"/runs/{again}").json["defects"]
    assert (link["id"], link["known"]) == (number, True)

    client.patch(f"/defects/{number}", version=made["version"], state="closed")
    assert run(lenient, (BOOKING, 0))[0] == "failed"
