"""Plans in a real PostgreSQL: kept, looked at ahead, run, compared, played again."""

from datetime import UTC, datetime, timedelta

import pytest

from lantern.core.plans.going import NOT_BEGUN, TIME_IS_UP
from lantern.core.steps.model import Document, Step, Taken
from lantern.store import plan_runs, projects, tests
from lantern.store.models import Environment, PlanRun, Run
from lantern.store.reconciling import Reconciler
from tests.api.conftest import Client
from tests.api.planning import Worker, up

QUOTES, BOOKING = "Quotes by clay and cone", "Book a firing"


@pytest.fixture
def ids(client):
    return {name: client.test_named(name)["id"] for name in (QUOTES, BOOKING)}


@pytest.fixture
def make(client, ids):
    """Make a plan of both tests; parts of it may be said otherwise."""

    def make(name="Every night", tests=(QUOTES, BOOKING), **more):
        picks = [{"test": ids[one]} for one in tests]
        answer = client.post("/plans", name=name, plan={"picks": picks, **more})
        assert answer.status_code == 200, answer.json
        return answer.json

    return make


def start(client, plan, **more):
    answer = client.post(f"/plans/{plan['id']}/runs", **more)
    assert answer.status_code == 200, answer.json
    return answer.json


def flow(database, name, *steps, takes=()):
    document = Document(steps or (Step("f", "open", inputs={"address": "/"}),), takes=takes)
    with database.session() as session:
        place = session.query(Environment).first().id
        return str(tests.create(session, name, place, None, document, kind="flow").id)


def matrix(run):
    return {
        (row["name"], cell["browser"]): cell["outcome"]
        for row in run["rows"]
        for cell in row["cells"]
    }


# -- kept -----------------------------------------------------------------------------------------


def test_a_plan_is_made_changed_restored_copied_and_deleted(client, make, ids):
    plan = make(browsers=["chromium", "firefox"], retries=1)
    assert plan["names"] == {str(ids[QUOTES]): QUOTES, str(ids[BOOKING]): BOOKING}
    body = plan["plan"] | {"retries": 2, "order": "longest first"}
    changed = client.put(f"/plans/{plan['id']}", base=1, plan=body, name="Nightly").json
    assert (changed["version"], changed["name"], changed["plan"]["retries"]) == (2, "Nightly", 2)
    same = client.put(f"/plans/{plan['id']}", base=2, plan=body).json
    assert same["version"] == 2, "what changes nothing is no version"
    late = client.put(f"/plans/{plan['id']}", base=1, plan=plan["plan"])
    assert (late.status_code, "changed by someone else" in late.json["message"]) == (409, True)
    said = client.get(f"/plans/{plan['id']}/versions").json["versions"]
    assert [one["summary"] for one in said] == ["name, order, retries changed", "made"]
    back = client.post(f"/plans/{plan['id']}/restore", base=2, number=1).json
    assert (back["version"], back["name"], back["plan"]) == (3, "Every night", plan["plan"])
    copied = client.post(f"/plans/{plan['id']}/copy").json
    assert (copied["name"], copied["plan"]) == ("Every night 2", plan["plan"])
    assert [one["name"] for one in client.get("/plans", q="2").json["plans"]] == ["Every night 2"]
    assert client.delete(f"/plans/{plan['id']}").status_code == 200
    assert client.get(f"/plans/{plan['id']}").status_code == 404


def test_what_a_plan_can_not_be_is_refused_and_viewers_change_none(client, make, ids, database):
    plan = make()
    again = client.post("/plans", name="every NIGHT", plan={})
    assert (again.status_code, "already" in again.json["message"]) == (422, True)
    needy = flow(database, "Needs a piece", takes=(Taken("piece"),))
    for wrong, said in (
        ({"before": needy}, "needs a value for piece"),
        ({"after_row": "999"}, "does not exist"),
        ({"environments": [999]}, "environment does not exist"),
        ({"browsers": ["netscape"]}, "browser"),
    ):
        answer = client.post("/plans", name="Wrong", plan=wrong)
        assert (answer.status_code, said in str(answer.json)) == (422, True), answer.json
    viewer = Client(client.http.application, "pia")
    assert viewer.post("/plans", name="Mine").status_code == 403
    assert viewer.post(f"/plans/{plan['id']}/runs").status_code == 403
    assert viewer.get(f"/plans/{plan['id']}").status_code == 200


# -- ahead ----------------------------------------------------------------------------------------


def test_before_it_starts_it_tells_what_it_comes_to(client, ids, database):
    quotes = client.test_named(QUOTES)
    client.edit(quotes, do="set labels", add=["nightly"])
    plan = {
        "picks": [
            {"kind": "label", "words": "nightly", "rows": "1-3"},
            {"kind": "search", "words": "kiln ghosts"},
            {"kind": "search", "words": "firing"},
        ],
        "browsers": ["chromium", "firefox"],
        "left_out": [{"test": ids[BOOKING], "browser": "firefox"}],
    }
    told = client.post("/plans/outlook", **plan).json
    assert [one["name"] for one in told["tests"]] == [QUOTES, BOOKING]
    assert (told["casts"], told["whole"], told["trouble"]) == (7, None, "")
    assert told["empty"] == ["No test has “kiln ghosts” in its name."]
    assert sorted(told["missing"]) == ["Chromium", "Firefox"]

    up(database, "st1", engines=["chromium", "firefox"])
    told = client.post("/plans/outlook", **plan).json
    assert (told["missing"], told["stations"]) == ([], ["st1"])
    assert told["whole"]["least"] < told["whole"]["usual"] < told["whole"]["most"]
    nothing = client.post("/plans/outlook", picks=[]).json
    assert nothing["trouble"] == "It comes to no test yet."
    wrong = client.post("/plans/outlook", picks=[{"test": ids[QUOTES], "rows": "99"}]).json
    assert "99" in str(wrong["problems"][QUOTES])


def test_what_the_check_of_data_refuses_is_told_ahead(client, ids):
    quotes = client.test_named(QUOTES)
    piece = next(step for step in quotes["steps"] if step["inputs"].get("text") == "${row.piece}")
    client.edit(quotes, do="change", step=piece["id"], fields={"inputs": {"text": "${row.colour}"}})
    told = client.post("/plans/outlook", picks=[{"test": ids[QUOTES]}]).json
    assert told["problems"] == {QUOTES: ["The table has no column colour."]}


# -- run ------------------------------------------------------------------------------------------


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
        from lantern.core.runs.life import Ended
        from lantern.store import casts

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


def test_a_plan_goes_out_and_comes_in_with_the_project(client, make, ids, database):
    warm = flow(database, "Warm up")
    make(
        before=warm,
        retries=2,
        browsers=["chromium", "firefox"],
        left_out=[{"test": ids[BOOKING], "browser": "firefox"}],
    )
    with database.session() as session:
        project = projects.export(session)
    text = project["plans/every-night.yaml"].decode()
    assert "before: Warm up" in text
    with database.session() as session:
        again = projects.Import(session, None)
        again.take(project)
        assert (again.changes, again.troubles) == ([], [])
    changed = project | {
        "plans/every-night.yaml": text.replace("retries: 2", "retries: 1").encode()
    }
    changed["plans/new.yaml"] = b"lantern: 1\nplan: Smoke\ntests:\n  - {label: smoke}\n"
    with database.session() as session:
        again = projects.Import(session, None)
        again.take(changed)
        told = [(one.what, one.words) for one in again.changes]
    assert told == [("changed", "plan “Every night”"), ("added", "plan “Smoke”")]
    wrong = b"lantern: 1\nplan: Odd\ntests:\n  - {test: Book a fring}\norder: by moonlight\n"
    with database.session() as session:
        again = projects.Import(session, None)
        again.take(project | {"plans/odd.yaml": wrong})
        troubles = [(path, one.line, one.hint) for path, one in again.troubles]
    assert ("plans/odd.yaml", 4, "Did you mean Book a firing?") in troubles
    assert len(troubles) == 2


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


# -- the queue ------------------------------------------------------------------------------------


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
