"""Trends and requirements over the API, on runs of days gone by."""

from tests.api.conftest import Client
from tests.past import past


def trends(client, **ask):
    answer = client.get("/trends", **ask)
    assert answer.status_code == 200, answer.json
    return answer.json


def test_tests_stand_as_their_runs_did(client, ids, database):
    book, quotes = ids["Book a firing"], ids["Quotes by clay and cone"]
    past(database, book, "pppff")
    runs = past(database, quotes, "ppupp", rows=2)
    told = trends(client, days=30)
    tests = {one["test"]: one for one in told["tests"]}
    assert (tests[book]["standing"], tests[book]["failed"]) == ("failing", 2)
    assert tests[quotes]["standing"] == "passing"
    assert tests[quotes]["unsteady"]["times"] == 1
    assert tests[quotes]["unsteady"]["of"] == 10
    assert [cell["run"] for cell in tests[quotes]["runs"]] == runs
    assert [cell["outcome"] for cell in tests[quotes]["runs"]][2] == "unsteady"
    assert len(told["days"]) in (5, 6)
    total = {
        name: sum(day["counts"].get(name, 0) for day in told["days"])
        for name in ("passed", "failed", "unsteady")
    }
    assert total == {"passed": 12, "failed": 2, "unsteady": 1}
    assert told["releases"][0]["name"] == "spring"


def test_only_the_days_that_are_asked_for_and_only_runs_on_record_count(client, ids, database):
    past(database, ids["Book a firing"], "p" * 20)
    assert sum(sum(day["counts"].values()) for day in trends(client, days=5)["days"]) == 5
    client.post(f"/tests/{ids['Book a firing']}/runs", kind="try", rows="all")
    assert trends(client, days=1)["tests"][0]["plays"] == 1


def test_a_failure_with_an_open_defect_is_known_and_a_fixed_one_is_not(client, ids, database):
    book = ids["Book a firing"]
    runs = past(database, book, "pf")
    cast = client.get(f"/runs/{runs[-1]}").json["casts"][0]
    [result] = client.get(f"/casts/{cast['id']}/results").json["results"]
    draft = client.get(f"/results/{result['id']}/defect").json
    texts = {name: draft[name] for name in ("title", "severity", "steps", "expected", "found")}
    made = client.post("/defects", result_id=result["id"], **texts).json
    past(database, book, "f")
    test = next(one for one in trends(client, days=9)["tests"] if one["test"] == book)
    assert test["known"] == made["defect"]["id"]
    client.patch(f"/defects/{made['defect']['id']}", version=made["version"], state="fixed")
    test = next(one for one in trends(client, days=9)["tests"] if one["test"] == book)
    assert test["known"] == 0


def test_a_sentence_that_got_slower_is_told_with_its_past(client, ids, database):
    past(database, ids["Book a firing"], "pppppppppsssss")
    [slow] = trends(client, days=30)["slow"]
    assert slow["slower"]
    assert (slow["usual"], slow["now"], slow["times"]) == (0.4, 2.4, 14)


def test_a_zone_that_is_none_is_told(client):
    assert client.get("/trends", zone="Mars/Base").status_code == 422
    assert client.get("/trends", days=0).status_code == 422


def test_requirements_stand_as_the_rows_that_cover_them(client, ids, database):
    book = ids["Book a firing"]
    test = client.get(f"/tests/{book}").json
    client.edit(test, do="set labels", add=["EMB-12", "nightly"])
    past(database, book, "pf", releases={0: "spring", 1: "summer"})
    csv = "id,title\nEMB-9,Quotes are right\nEMB-12,Firings are booked\n"
    assert client.put("/requirements/known", csv=csv).json["known"] == 2
    told = client.get("/requirements").json
    assert [one["id"] for one in told["requirements"]] == ["EMB-9", "EMB-12"]
    bare, covered = told["requirements"]
    assert bare["tests"] == []
    assert [one["name"] for one in covered["tests"]] == [test["name"]]
    assert told["releases"] == ["summer", "spring"]
    assert {one["release"]: one["outcome"] for one in covered["releases"]} == {
        "spring": "passed",
        "summer": "failed",
    }


def test_how_requirements_are_named_is_for_leads_and_checked(client, app):
    scheme = {"form": "R\\d+", "column": "needs", "address": "https://wiki.example/{id}"}
    assert client.put("/requirements/scheme", **scheme).status_code == 403
    lead = Client(app, "wren")
    assert lead.put("/requirements/scheme", **scheme).json["scheme"] == scheme
    for wrong in ({"form": "("}, {"address": "https://wiki.example/"}, {"address": "x{id}"}):
        assert lead.put("/requirements/scheme", **{**scheme, **wrong}).status_code == 422
    assert client.put("/requirements/known", csv='a\n"').status_code == 422
    assert client.put("/requirements/known", csv="id\n" + "x" * 100).status_code == 422
