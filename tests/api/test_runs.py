"""Runs over the API and in the store: queueing, cancelling, interrupted stations, defects."""

from xml.etree import ElementTree as Xml

import pytest
from sqlalchemy import select, text

from lantern.core.elements.facts import Box
from lantern.core.engine.outcomes import StepResult
from lantern.core.runs.life import Ended
from lantern.store import casts, pictures, stations
from lantern.store.models import Cast, Run
from tests.api.casting import taken


def start(client, test, **body):
    answer = client.post(f"/tests/{test['id']}/runs", **body)
    assert answer.status_code == 200, answer.json
    return answer.json


def result(position, outcome, sentence="Press “x”", **more):
    return StepResult(f"demo{position:02}", position, sentence, outcome, limit=2, **more)


def play(database, run_id, station="st1", found="€ 7.00", kept=None):
    """Carry a run out as a station would, with a failed check in each row."""
    with database.session() as session:
        stations.beat(session, station, name="kiln", address="ws://x", engines=["chromium"])
        picture = pictures.keep(session, b"\xff\xd8 a picture")
        while cast := taken(session, run_id, station):
            casts.began(session, cast.id, cast.token, "Chromium 156")
            opened = result(0, "passed", "Open “/”", kept=kept or {})
            casts.keep_result(session, cast.id, cast.token, 1, opened, [], [], {})
            failed = result(
                1, "failed", "Check that the text of Price is “€ 9.95”", reason="check differed",
                message=f"The text of “Price” was “{found}”", expected="€ 9.95", found=found,
                picture=picture, box=Box(1, 2, 3, 4),
                lookups=[{"element": "Price", "kind": "text", "looked_at": 4, "found": 1,
                          "clues": [{"clue": "id is “price”", "held_by": 1}]}],
            )  # fmt: skip
            secrets = {"pin": "wheel-and-kiln"}
            noise = ["Error: wheel-and-kiln"]
            casts.keep_result(session, cast.id, cast.token, 2, failed, noise, ["500 /x"], secrets)
            casts.happen(session, run_id, Ended(cast.id, cast.token, "failed"))
        session.get_one(Run, run_id).release = "spring"


def failed_result(client, run_id):
    run = client.get(f"/runs/{run_id}").json
    results = client.get(f"/casts/{run['casts'][0]['id']}/results").json["results"]
    return next(r for r in results if r["outcome"] == "failed")


def test_a_run_is_queued_with_its_rows_in_one_transaction(client, quotes, database):
    run = start(client, quotes, rows="2-3")
    assert [row["number"] for row in run["casts"]] == [2, 3]
    assert run["run"]["state"] == "queued"
    assert run["run"]["author"] == "Odo Fennick"
    with database.session() as session:
        jobs = session.execute(text("SELECT queue_name, args FROM procrastinate_jobs")).all()
    first = run["casts"][0]["id"]  # the next is offered when a station is free for it
    assert [(job.queue_name, job.args) for job in jobs] == [("casts.chromium", {"cast_id": first})]


@pytest.mark.parametrize("rows", ["9", "x", "3-1"])
def test_a_choice_that_names_no_row_queues_nothing(client, quotes, rows, database):
    assert client.post(f"/tests/{quotes['id']}/runs", rows=rows).status_code == 422
    with database.session() as session:
        assert session.execute(text("SELECT count(*) FROM procrastinate_jobs")).scalar() == 0


def test_an_empty_test_can_not_run(client):
    test = client.post("/tests", name="Empty", environment=1).json
    answer = client.post(f"/tests/{test['id']}/runs")
    assert "no sentences yet" in answer.json["message"]


def test_a_queued_run_is_cancelled_at_once(client, quotes, database):
    run_id = start(client, quotes)["run"]["id"]
    cancelled = client.post(f"/runs/{run_id}/cancel").json
    assert cancelled["run"]["state"] == "cancelled"
    assert {row["outcome"] for row in cancelled["casts"]} == {"cancelled"}
    with database.session() as session:
        jobs = session.execute(text("SELECT status FROM procrastinate_jobs")).scalars().all()
        assert jobs == ["cancelled"]
        cast = cancelled["casts"][0]["id"]
        assert casts.take(session, cast, 1, "st1") is None


def test_the_rows_that_failed_in_an_earlier_run_are_run_again(client, database, quotes):
    """They are known by their values: a row above them may have gone meanwhile."""
    first = start(client, quotes, rows="1-3")["run"]["id"]
    with database.session() as session:
        session.get(Run, first).casts[2].outcome = "failed"
    rows = quotes["rows"][1:]
    columns = quotes["columns"]
    changed = client.edit(quotes, do="set table", columns=columns, rows=rows).json
    again = start(client, changed, rows=f"failed of {first}")
    assert [row["number"] for row in again["casts"]] == [2]
    assert again["casts"][0]["values"] == quotes["rows"][2]["values"]
    none = client.post(f"/tests/{quotes['id']}/runs", rows=f"failed of {again['run']['id']}")
    assert none.status_code == 422
    assert "No row that failed" in none.json["message"]


def test_rows_that_were_interrupted_count_among_those_that_failed(client, database, quotes):
    first = start(client, quotes, rows="1-3")["run"]["id"]
    with database.session() as session:
        passed, interrupted, failed = session.get(Run, first).casts
        passed.outcome, interrupted.outcome, failed.outcome = "passed", "interrupted", "failed"
    again = start(client, quotes, rows=f"failed of {first}")
    assert [row["number"] for row in again["casts"]] == [2, 3]


def test_the_data_is_checked_ahead_against_what_the_fields_offer(client, quotes):
    path = f"/tests/{quotes['id']}/data-check"
    assert client.get(path).json["problems"] == []
    rows = [row | {"values": row["values"] | {"clay": "Stonewear"}} for row in quotes["rows"][:2]]
    client.edit(quotes, do="set table", columns=quotes["columns"], rows=rows)
    found = client.get(path, rows="2").json
    assert found["rows"] == 1
    assert [(one["row"], one["column"]) for one in found["problems"]] == [(2, "clay")]
    assert found["problems"][0]["hint"] == "Did you mean “Stoneware”?"


def test_only_the_newest_try_of_an_author_is_kept(client, quotes, database):
    first = start(client, quotes, kind="try", rows="1")["run"]["id"]
    play(database, first)
    second = start(client, quotes, kind="try", rows="1")["run"]["id"]
    assert client.get(f"/runs/{first}").status_code == 404
    assert client.get(f"/runs/{second}").status_code == 200


def test_a_try_in_which_a_defect_was_seen_stays(client, quotes, database):
    first = start(client, quotes, kind="try", rows="1")["run"]["id"]
    play(database, first)
    seen = failed_result(client, first)["id"]
    fields = {
        "title": "Wrong price",
        "severity": "major",
        "steps": "1.",
        "expected": "",
        "found": "",
    }
    assert client.post("/defects", result_id=seen, **fields).status_code == 200
    start(client, quotes, kind="try", rows="1")
    assert client.get(f"/runs/{first}").status_code == 200


def test_a_run_reads_with_rows_results_and_evidence(client, quotes, database):
    run_id = start(client, quotes, rows="1")["run"]["id"]
    play(database, run_id)
    run = client.get(f"/runs/{run_id}").json
    assert run["casts"][0]["failed_at"].startswith("Check that")
    failed = failed_result(client, run_id)
    assert (failed["expected"], failed["found"], failed["requests"]) == (
        "€ 9.95",
        "€ 7.00",
        ["500 /x"],
    )
    assert failed["console"] == ["Error: ••••••"]
    assert failed["lookups"][0]["clues"][0]["held_by"] == 1
    assert client.get(f"/pictures/{failed['picture']}").data == b"\xff\xd8 a picture"
    assert client.get("/pictures/none").status_code == 404


def test_a_run_is_exported_for_machines_and_for_people(client, quotes, database):
    run_id = start(client, quotes, rows="1")["run"]["id"]
    play(database, run_id, found="<img src=x onerror=alert(1)>")
    suite = Xml.fromstring(client.get(f"/runs/{run_id}/junit.xml").text).find("testsuite")
    assert suite.get("failures") == "1"
    assert suite.find("testcase").get("name") == (
        "row 1 (piece=Moon jar, clay=Stoneware, cone=6, pieces=1, price=€ 5.40)"
    )
    answer = client.get(f"/runs/{run_id}/report.html")
    assert "<img src=x" not in answer.text
    assert "&lt;img src=x" in answer.text
    assert "script" not in answer.headers["Content-Security-Policy"].replace("script-src", "")


def test_kept_values_stand_beside_the_row_and_in_the_exports(client, quotes, database):
    run_id = start(client, quotes, rows="1", seed="clay")["run"]["id"]
    play(database, run_id, kept={"total": "€ 26.25"})
    run = client.get(f"/runs/{run_id}").json
    assert run["seed"] == "clay"
    assert run["casts"][0]["kept"] == {"total": "€ 26.25"}
    assert run["kept"] == ["total"]
    suite = Xml.fromstring(client.get(f"/runs/{run_id}/junit.xml").text).find("testsuite")
    kept = suite.find("testcase/properties/property")
    assert (kept.get("name"), kept.get("value")) == ("total", "€ 26.25")
    report = client.get(f"/runs/{run_id}/report.html").text
    assert "€ 26.25" in report
    assert "clay" in report
    assert start(client, quotes, rows="1")["seed"]


def test_runs_are_listed_filtered_and_paged(client, quotes, database):
    for _ in range(3):
        start(client, quotes, rows="1")
    with database.session() as session:
        first = session.scalars(select(Run).order_by(Run.id)).first()
        session.add_all(
            Run(
                kind="run", state="passed", test_name="Old", test_version=1, environment_name="x",
                address="http://x", body=first.body, elements={},
                casts=[Cast(position=0, number=1, values={})],
            )
            for _ in range(60)
        )  # fmt: skip
    page = client.get("/runs").json
    assert len(page["runs"]) == 50
    start(client, quotes, rows="1")  # what comes meanwhile moves nothing
    rest = client.get("/runs", after=page["next"]).json
    assert (len(rest["runs"]), rest["next"]) == (13, "")
    ids = [run["id"] for run in [*page["runs"], *rest["runs"]]]
    assert ids == sorted(set(ids), reverse=True)
    assert len(client.get("/runs", state="queued").json["runs"]) == 4
    assert len(client.get("/runs", q="quotes by").json["runs"]) == 4
    assert client.get("/runs", q="100%").json["runs"] == []


# -- defects -------------------------------------------------------------------------------------


def test_a_defect_is_drafted_raised_seen_again_and_opened_again(client, quotes, database):
    first = start(client, quotes, rows="1")["run"]["id"]
    play(database, first)
    failed = failed_result(client, first)
    draft = client.get(f"/results/{failed['id']}/defect").json
    assert draft["steps"] == "1. Open “/”\n2. Check that the text of Price is “€ 9.95”"
    assert (draft["release"], draft["browser"], draft["same_as"]) == ("spring", "Chromium 156", [])
    fields = {k: draft[k] for k in ("title", "severity", "steps", "expected", "found")}
    raised = client.post("/defects", result_id=failed["id"], notes="Seen twice.", **fields).json
    number = raised["defect"]["id"]
    assert raised["sightings"][0]["run_id"] == first
    assert client.get(f"/runs/{first}").json["defects"][0]["id"] == number

    closed = client.patch(f"/defects/{number}", version=raised["version"], state="closed").json
    assert closed["defect"]["state"] == "closed"
    second = start(client, quotes, rows="1")["run"]["id"]
    play(database, second, found="€ 8.15")
    again = failed_result(client, second)
    offered = client.get(f"/results/{again['id']}/defect").json["same_as"]
    assert [one["id"] for one in offered] == [number]
    seen = client.post(f"/defects/{number}/sightings", result_id=again["id"]).json
    assert (seen["defect"]["seen"], seen["defect"]["state"]) == (2, "open")


def test_defects_are_filtered_and_a_second_change_conflicts(client, quotes, database):
    run_id = start(client, quotes, rows="1")["run"]["id"]
    play(database, run_id)
    failed = failed_result(client, run_id)
    fields = {"title": "Wrong price", "severity": "minor", "steps": "", "expected": "", "found": ""}
    raised = client.post("/defects", result_id=failed["id"], **fields).json
    path = f"/defects/{raised['defect']['id']}"
    assert client.patch(path, version=raised["version"], severity="critical").status_code == 200
    answer = client.patch(path, version=raised["version"], notes="lost?")
    assert answer.status_code == 409
    assert client.patch(path, version=raised["version"] + 1, state="gone").status_code == 422
    assert len(client.get("/defects", severity="critical").json["defects"]) == 1
    assert client.get("/defects", state="closed").json["defects"] == []
    assert len(client.get("/defects", q="wrong").json["defects"]) == 1


def test_no_defect_without_a_failure(client, quotes, database):
    run_id = start(client, quotes, rows="1")["run"]["id"]
    play(database, run_id)
    run = client.get(f"/runs/{run_id}").json
    results = client.get(f"/casts/{run['casts'][0]['id']}/results").json["results"]
    passed = next(r for r in results if r["outcome"] == "passed")
    assert client.get(f"/results/{passed['id']}/defect").status_code == 422
    assert client.get("/results/99999/defect").status_code == 404
