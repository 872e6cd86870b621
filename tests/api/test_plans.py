"""Plans in a real PostgreSQL: kept, looked at ahead."""

from lantern.core.steps.model import Taken
from lantern.store import projects
from tests.api.conftest import Client
from tests.api.planning import BOOKING, QUOTES, flow, up


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


def test_a_viewer_sees_what_a_plan_comes_to_and_when_it_starts(client, make, ids):
    plan = make()
    viewer = Client(client.http.application, "pia")
    told = viewer.post("/plans/outlook", **plan["plan"])
    assert (told.status_code, told.json["casts"]) == (200, 8)
    assert viewer.post("/schedules/preview", cron="0 3 * * *").status_code == 200
    assert viewer.put(f"/plans/{plan['id']}", base=1, plan=plan["plan"]).status_code == 403
