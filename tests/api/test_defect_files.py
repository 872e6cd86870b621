"""Files of defects, what a failure is likely to be, and filters that people save for themselves."""

import base64

import pytest

from lantern.core.elements.facts import Facts
from lantern.store import keeping, pages
from lantern.store.models import Cast, Picture, Result
from tests.api.conftest import Client
from tests.past import past

PNG = b"\x89PNG not really"
OVEN = "The oven controller does not answer."


def failed(client, database, test, said):
    """A run of a test that failed while its page said something; returns the result's number."""
    run = past(database, test, "f")[-1]
    with database.session() as session:
        cast = session.query(Cast).filter_by(run_id=run).first()
        result = session.query(Result).filter_by(cast_id=cast.id, outcome="failed").one()
        nodes = [
            Facts("h1", role="heading", text="Ask"),
            Facts("p", role="alert", text=said),
        ]
        pages.save(session, "Quote - Kiln Desk", nodes, test_id=test, run_id=run,
                   cast_id=cast.id, step_id=result.step_id)  # fmt: skip
        return result.id


def raised(client, result, title="The oven is silent"):
    draft = client.get(f"/results/{result}/defect").json
    texts = {name: draft[name] for name in ("severity", "steps", "expected", "found")}
    answer = client.post("/defects", result_id=result, title=title, **texts)
    assert answer.status_code == 200, answer.json
    return answer.json["defect"]["id"]


@pytest.fixture
def number(client, ids, database):
    return raised(client, failed(client, database, ids["Book a firing"], OVEN))


def test_a_failure_of_another_test_is_likely_the_same_by_what_the_page_said(
    client, ids, database, number
):
    other = failed(client, database, ids["Quotes by clay and cone"], OVEN)
    draft = client.get(f"/results/{other}/defect").json
    assert draft["same_as"] == [], "another test: not the same by what it is"
    [likely] = draft["alike"]
    assert likely["defect"]["id"] == number
    assert any(OVEN in why for why in likely["why"])
    answer = client.post(f"/defects/{number}/sightings", result_id=other)
    assert len(answer.json["sightings"]) == 2


def test_what_showed_something_else_is_not_offered(client, ids, database, number):
    other = failed(client, database, ids["Quotes by clay and cone"], "Raku can not be rushed.")
    draft = client.get(f"/results/{other}/defect").json
    assert draft["alike"] == []


def test_files_are_kept_with_a_defect_replaced_removed_and_in_its_history(client, number):
    def put(name, content):
        coded = base64.b64encode(content).decode()
        return client.post(f"/defects/{number}/files", name=name, content=coded)

    assert put("oven.log", b"first").status_code == 200
    put("oven.log", b"second, longer")
    put("C:\\pictures\\oven.png", PNG)
    told = client.get(f"/defects/{number}").json
    assert [(one["name"], one["size"], one["picture"]) for one in told["files"]] == [
        ("oven.log", 14, False),
        ("oven.png", len(PNG), True),
    ]
    content = client.get(f"/pictures/{told['files'][0]['digest']}")
    assert content.data == b"second, longer"
    assert content.headers["Content-Disposition"] == "attachment"
    assert client.delete(f"/defects/{number}/files/oven.log").status_code == 200
    told = client.get(f"/defects/{number}").json
    assert [one["name"] for one in told["files"]] == ["oven.png"]
    files = [(one["before"], one["after"]) for one in told["history"] if one["what"] == "file"]
    assert files[-1] == ("oven.log", "")
    assert client.delete(f"/defects/{number}/files/none").status_code == 404
    assert put("..", b"x").status_code == 422
    assert client.post("/defects/9999/files", name="a", content="").status_code == 404


def test_what_belongs_to_a_defect_is_not_tidied_away(client, number, database):
    coded = base64.b64encode(PNG).decode()
    client.post(f"/defects/{number}/files", name="oven.png", content=coded)
    digest = client.get(f"/defects/{number}").json["files"][0]["digest"]
    with database.session() as session:
        picture = session.get(Picture, digest)
        picture.at = picture.at.replace(year=2020)
    keeping.tidy(database, lambda: False)
    assert client.get(f"/pictures/{digest}").status_code == 200


def test_filters_are_saved_for_oneself_alone_and_viewers_may_too(client, app):
    body = {"state": "open", "severity": "critical"}
    made = client.post("/me/filters", view="defects", name="  Bad   ones ", body=body)
    assert made.json["name"] == "Bad ones"
    client.post("/me/filters", view="defects", name="Bad ones", body={"state": "fixed"})
    [kept] = client.get("/me/filters", view="defects").json["filters"]
    assert kept["body"] == {"state": "fixed"}
    viewer = Client(app, "pia")
    assert viewer.get("/me/filters", view="defects").json["filters"] == []
    assert viewer.delete(f"/me/filters/{kept['id']}").status_code == 404
    saved = viewer.post("/me/filters", view="defects", name="Mine", body={})
    assert saved.status_code == 200
    assert client.delete(f"/me/filters/{kept['id']}").status_code == 200


@pytest.mark.parametrize(
    "wrong",
    [{"name": " "}, {"view": "moods"}, {"body": {"q": "x" * 400}}, {"name": "x" * 80}],
    ids=["no name", "no list", "too long", "long name"],
)
def test_a_filter_that_can_not_be_is_refused(client, wrong):
    body = {"view": "defects", "name": "One", "body": {}} | wrong
    assert client.post("/me/filters", **body).status_code == 422
