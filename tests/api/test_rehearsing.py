"""Rehearsals over the API: breakpoints, what is done about failures, what was changed, settings."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.engine.outcomes import StepResult
from lantern.store import elements, pages, preferences, runs, tests
from lantern.store.models import Run, SavedPage
from lantern.store.rows import unpacked
from tests.api.casting import keep, taken
from tests.api.conftest import Client
from tests.core.samples import node

ask = node(name="Ask for a quote", handle=1, attributes={"id": "ask"})
leave = node(name="Sign out", handle=2)


@pytest.fixture
def lead(app):
    return Client(app, "wren")


@pytest.fixture
def viewer(app):
    return Client(app, "pia")


def points(client):
    return client.get("/breakpoints").json["breakpoints"]


def point_at(test, number, **more):
    return {"place": test["id"], "step": test["steps"][number - 1]["id"], **more}


def test_breakpoints_belong_to_a_person_and_tell_sentence_condition_and_scope(client, lead, quotes):
    when = {"value": "${row.clay}", "comparison": "is", "expected": "Raku", "times": 3, "row": 2}
    made = client.put("/breakpoints", **point_at(quotes, 5), condition=when, only_in=quotes["id"])
    [one] = made.json["breakpoints"]
    assert (one["number"], one["name"], one["only_in_name"]) == (5, quotes["name"], quotes["name"])
    assert one["told"] == "from time 3 on, in row 2, if ${row.clay} is Raku"
    assert "Piece name" in one["sentence"]
    assert points(lead) == []
    client.put("/breakpoints", **point_at(quotes, 5), enabled=False)
    [one] = points(client)
    assert (one["enabled"], one["told"]) == (False, "")

    assert client.put("/breakpoints/off", off=True).json["off"] is True
    assert client.get("/breakpoints").json["off"] is True
    assert lead.get("/breakpoints").json["off"] is False
    gone = {"place": quotes["id"], "steps": [one["step"]]}
    assert lead.post("/breakpoints/remove", **gone).json["breakpoints"] == []
    assert len(points(client)) == 1, "nobody takes out another's"
    assert client.post("/breakpoints/remove", **gone).json["breakpoints"] == []


@pytest.mark.parametrize(
    "wrong",
    [
        {"step": "none"},
        {"condition": {"comparison": "like"}},
        {"condition": {"value": "${clay}"}},
        {"condition": {"times": 0}},
        {"only_in": 999},
        {"place": 999},
    ],
)
def test_a_breakpoint_that_can_not_be_is_refused_and_changes_nothing(client, quotes, wrong):
    answer = client.put("/breakpoints", **{**point_at(quotes, 5), **wrong})
    assert answer.status_code in (400, 404, 422)
    assert answer.json["message"]
    assert points(client) == []


def test_a_breakpoint_of_a_sentence_that_was_deleted_says_so_and_goes_with_its_test(client, quotes):
    client.put("/breakpoints", **point_at(quotes, 5))
    client.edit(quotes, do="remove", steps=[quotes["steps"][4]["id"]])
    [one] = points(client)
    assert (one["number"], one["sentence"]) == (0, "The sentence was taken out.")
    client.delete(f"/tests/{quotes['id']}")
    assert points(client) == []


# -- what failed -----------------------------------------------------------------------------------


def failed(database, test, nodes, **more):
    """A run of a test whose press of “Get a quote” failed on a page of some nodes."""
    with database.session() as session:
        run = runs.create(session, tests.get(session, test["id"]), "run", "1", None).id
        session.flush()
        cast = taken(session, run)
        step = next(one for one in test["steps"] if one["element"] == "demo-ask")
        result = StepResult(
            step["id"], 9, "Press Get a quote", "failed", "not found", "It was not there.", **more
        )
        number = keep(session, cast, result)
        pages.save(
            session,
            "Quote - Kiln Desk",
            nodes,
            address="http://desk/quote",
            test_id=test["id"],
            run_id=run,
            cast_id=cast.id,
            step_id=step["id"],
        )
        return number, step["id"]


def test_a_failed_result_is_searched_on_its_saved_page_and_mended(client, quotes, database):
    number, step = failed(database, quotes, [ask, leave])
    found = client.get(f"/results/{number}/search").json
    assert (found["name"], found["place"]) == ("Get a quote", quotes["id"])
    best = next(one for one in found["answers"] if one["act"] == "use clues")
    assert best["boxes"][0]["x"] == ask.box.x
    mended = {"step": step, "act": "use clues", "given": best["given"], "key": "k1"}
    assert client.post(f"/tests/{quotes['id']}/mend", **mended).status_code == 200
    with database.session() as session:
        element = elements.load(session, ["demo-ask"])["demo-ask"]
    assert element.among([ask, leave]) == [ask]
    assert client.post(f"/tests/{quotes['id']}/mend", **mended).status_code == 200, "done once"
    assert client.post(f"/tests/{quotes['id']}/undo").status_code == 200
    with database.session() as session:
        element = elements.load(session, ["demo-ask"])["demo-ask"]
    assert element.among([ask, leave]) == []


def test_clues_that_a_search_found_leave_alone_what_was_changed_of_the_element_since(
    client, quotes, database
):
    number, step = failed(database, quotes, [ask, leave])
    found = client.get(f"/results/{number}/search").json
    best = next(one for one in found["answers"] if one["act"] == "use clues")
    with database.session() as session:
        element = elements.load(session, ["demo-ask"])["demo-ask"]
        elements.save(session, replace(element, name="Ask for a price", page="Quote *"))
    mended = {"step": step, "act": "use clues", "given": best["given"], "key": "k1"}
    assert client.post(f"/tests/{quotes['id']}/mend", **mended).status_code == 200
    with database.session() as session:
        element = elements.load(session, ["demo-ask"])["demo-ask"]
    assert element.among([ask, leave]) == [ask]
    assert (element.name, element.page) == ("Ask for a price", "Quote *")


def test_a_viewer_mends_nothing(viewer, quotes):
    step = next(one for one in quotes["steps"] if one["element"] == "demo-ask")["id"]
    body = {"step": step, "act": "raise limit", "given": {"limit": 18}}
    assert viewer.post(f"/tests/{quotes['id']}/mend", **body).status_code == 403


def test_a_result_without_an_element_or_a_page_says_why_it_is_not_searched(
    client, quotes, database
):
    assert client.get("/results/99/search").status_code == 404
    number, _ = failed(database, quotes, [])
    with database.session() as session:
        for one in session.query(SavedPage):
            session.delete(one)
    answer = client.get(f"/results/{number}/search")
    assert (answer.status_code, answer.json["hint"]) == (404, "Run it once more.")


@pytest.mark.parametrize(
    ("act", "given", "actions"),
    [
        ("go to window", {"window": "Ticket #"}, ["window", "press"]),
        ("answer dialog", {"answer": "OK"}, ["dialog", "press"]),
        ("close first", "closer", ["if", "press", "press"]),
        ("raise limit", {"limit": 18}, ["press"]),
    ],
)
def test_what_a_search_proposes_is_put_in_before_the_sentence(
    client, quotes, database, act, given, actions
):
    place = next(n for n, one in enumerate(quotes["steps"]) if one["element"] == "demo-ask")
    before, step = quotes["steps"][place - 1]["id"], quotes["steps"][place]["id"]
    if given == "closer":
        closer = Element("", "Understood", "button", (Clue("name", "is", "Understood"),))
        given = {"element": closer.as_json()}
    answer = client.post(f"/tests/{quotes['id']}/mend", step=step, act=act, given=given)
    assert answer.status_code == 200, answer.json
    with database.session() as session:
        steps = unpacked(tests.get(session, quotes["id"])).steps
    begin = next(n for n, one in enumerate(steps) if one.id == before) + 1
    assert [one.action for one in steps[begin : begin + len(actions)]] == actions
    assert steps[begin + len(actions) - 1].id == step
    if act == "raise limit":
        assert steps[begin].limit == 18


@pytest.mark.parametrize(
    ("act", "given", "status"),
    [
        ("raise defect", {}, 422),
        ("raise limit", {"limit": "soon"}, 422),
        ("use clues", {"element": {"id": "demo-price", "kind": "button", "name": "x"}}, 422),
        ("burn", {}, 422),
    ],
)
def test_what_can_not_be_done_about_it_is_refused(client, quotes, act, given, status):
    step = next(one for one in quotes["steps"] if one["element"] == "demo-ask")["id"]
    body = {"step": step, "act": act, "given": given}
    assert client.post(f"/tests/{quotes['id']}/mend", **body).status_code == status


def test_what_one_changed_since_a_time_is_listed_and_taken_back_one_by_one(client, lead, quotes):
    since = (datetime.now(UTC) - timedelta(seconds=5)).isoformat()
    step = quotes["steps"][4]["id"]
    client.edit(quotes, do="change", step=step, fields={"comment": "Look here"})
    newest = client.get(f"/tests/{quotes['id']}").json
    lead.edit(newest, do="change", step=step, fields={"title": "The piece"})
    path = f"/tests/{quotes['id']}/acts"
    [mine] = client.get(path, since=since).json["acts"]
    assert (mine["back"], mine["place"]) == (False, quotes["id"])
    assert client.post(f"/acts/{mine['id']}/undo").status_code == 200
    [mine] = client.get(path, since=since).json["acts"]
    assert mine["back"] is True
    assert client.get(f"/tests/{quotes['id']}").json["steps"][4]["title"] == "The piece"
    later = (datetime.now(UTC) + timedelta(hours=1)).isoformat()
    assert client.get(path, since=later).json["acts"] == []


def test_a_defect_is_raised_from_a_failure_that_is_on_no_record(client, quotes):
    failure = {
        "test": quotes["id"],
        "step": quotes["steps"][-1]["id"],
        "sentence": "Check that the text of Price is “€ 5”",
        "reason": "check differed",
        "message": "The text of “Price” was “€ 9” for 4 s.",
        "expected": "€ 5",
        "found": "€ 9",
        "before": ["Open “/quote”"],
    }
    draft = client.post("/defects/draft", **failure).json
    assert "was “€ 9”" in draft["title"]
    assert draft["steps"].splitlines()[0] == "1. Open “/quote”"
    body = {name: draft[name] for name in ("title", "severity", "steps", "expected", "found")}
    made = client.post("/defects", failure=failure, **body).json
    assert (made["defect"]["title"], made["sightings"]) == (draft["title"], [])
    same = client.post("/defects/draft", **failure).json["same_as"]
    assert [one["id"] for one in same] == [made["defect"]["id"]]
    assert client.post("/defects", **body).status_code == 422


def test_a_lead_sets_how_rehearsals_are(client, lead, database):
    assert client.get("/rehearsing").json == {"stages": 12, "offered": 15}
    assert client.put("/rehearsing", stages=3, offered=5).status_code == 403
    assert lead.put("/rehearsing", stages=3, offered=0).status_code == 200
    with database.session() as session:
        assert preferences.rehearsing(session) == preferences.Rehearsing(3, 0)
    for wrong in ({"stages": 0, "offered": 5}, {"stages": 3, "offered": 500}):
        assert lead.put("/rehearsing", **wrong).status_code == 422


def test_titles_and_contradictions_stand_in_results_report_and_junit(client, quotes, database):
    failed(
        database,
        quotes,
        [ask],
        title="Close the ticket",
        comment="At the end of the day",
        thing="Book this firing",
        contrary="It says “Close the ticket”, but what it acted on is “Book this firing”.",
    )
    with database.session() as session:
        run = session.query(Run).order_by(Run.id.desc()).first()
        cast, run = run.casts[0].id, run.id
    [result] = client.get(f"/casts/{cast}/results").json["results"]
    assert (result["title"], result["thing"]) == ("Close the ticket", "Book this firing")
    assert "Book this firing" in result["contrary"]
    for path in (f"/runs/{run}/junit.xml", f"/runs/{run}/report.html"):
        said = client.get(path).text
        for words in ("Close the ticket", "At the end of the day", "what it acted on is"):
            assert words in said, (path, words)


def test_what_was_there_in_the_last_green_run_is_said_to_be_gone(client, quotes, database):
    seen = node(name="Get a quote", handle=3, attributes={"id": "ask"})
    with database.session() as session:
        run = runs.create(session, tests.get(session, quotes["id"]), "run", "1", None).id
        session.flush()
        cast = taken(session, run)
        title = "Quote - Kiln Desk"
        more = {"test_id": quotes["id"], "run_id": run, "cast_id": cast.id}
        pages.save(session, title, [seen, leave], step_id="s", **more)
        cast.outcome = "passed"
    number, _ = failed(database, quotes, [leave])
    best = client.get(f"/results/{number}/search").json["answers"][0]
    assert (best["cause"], best["act"]) == ("gone", "raise defect")
    assert f"It was there in run {run}" in best["told"]


def test_what_was_there_is_looked_up_at_the_moment_before_the_sentence(client, quotes, database):
    """A page of a row is kept more than once: at its end the button may be gone, as it should."""
    title, at = "Quote - Kiln Desk", quotes["steps"][9]["id"]
    with database.session() as session:
        run = runs.create(session, tests.get(session, quotes["id"]), "run", "1", None).id
        session.flush()
        cast = taken(session, run)
        more = {"test_id": quotes["id"], "run_id": run, "cast_id": cast.id}
        for name, place in {"early": 7, "before": 8, "pressed": 9, "checked": 10}.items():
            step = quotes["steps"][place]["id"]
            told = StepResult(step, place, name, "passed")
            keep(session, cast, told, place + 1)
            pages.save(session, title, [node(name=name)], step_id=step, **more)
        pages.save(session, title, [node(name="end")], **more)
        cast.outcome = "passed"

        def seen(at):
            return pages.last_green(session, quotes["id"], title, at=at).nodes[-1].name

        assert seen(at) == "before", "what is kept at a press is what came of it"
        assert seen(quotes["steps"][10]["id"]) == "checked", "a check changes nothing"
        assert seen(quotes["steps"][7]["id"]) == "early", "none was kept before: the next one"
        assert (seen(""), seen("unknown")) == ("end", "end")
        assert pages.last_green(session, quotes["id"], title, at=at, before=cast.id).nodes == ()


def test_signing_in_again_is_offered_where_a_flow_types_a_secret(client, quotes, database):
    with database.session() as session:
        test = tests.get(session, quotes["id"])
        document = unpacked(test)
        flow = tests.create(session, "Come in", test.environment_id, None, document, kind="flow").id
    password = node("input", "Password", 5, role="", attributes={"type": "password"})
    number, step = failed(database, quotes, [password])
    with database.session() as session:
        page = session.query(SavedPage).order_by(SavedPage.id.desc()).first()
        page.page = "Sign in - Kiln Desk"
    answer = client.get(f"/results/{number}/search").json["answers"][0]
    assert (answer["cause"], answer["given"]) == ("sign in", {"flow": str(flow)})
    body = {"step": step, "act": "sign in", "given": answer["given"]}
    assert client.post(f"/tests/{quotes['id']}/mend", **body).status_code == 200
    steps = client.get(f"/tests/{quotes['id']}").json["steps"]
    place = next(n for n, one in enumerate(steps) if one["id"] == step)
    assert steps[place - 1]["flow"] == str(flow)
