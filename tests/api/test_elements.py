"""Elements and saved pages over the API, on a real database."""

import base64

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.engine.outcomes import StepResult
from lantern.core.recording.proposals import propose as propose_element
from lantern.core.steps.model import Document, Step
from lantern.store import casts, elements, pages, runs, stations, tests
from lantern.store.models import Cast, Environment
from tests.api.casting import keep, taken
from tests.api.conftest import Client
from tests.core.samples import node

PAGE = "Quote - Kiln Desk"
NODES = [
    node("input", "Piece name", 1, label="Piece name", order=0),
    node("button", "Get a quote", 2, order=1),
    node("button", "Sign out", 3, order=2),
    node("table", "Firings", 4, order=3),
]


@pytest.fixture
def place(database):
    """A test that presses an element, and a saved page that shows it."""
    with database.session() as session:
        made = Element("ask-1", "Ask", "button", (Clue("name", "is", "Get a quote"),), page=PAGE)
        elements.save(session, made)
        environment = session.query(Environment).first()
        steps = (Step("s1", "press", "ask-1", page=PAGE),)
        test = tests.create(session, "Uses it", environment.id, None, Document(steps))
        saved = pages.save(session, PAGE, NODES, test_id=test.id)
        return test.id, saved.id


def test_pages_list_their_elements_with_who_uses_them(client, place):
    listed = client.get("/pages").json["pages"]
    page = next(one for one in listed if one["page"] == PAGE)
    here = client.get("/pages/elements", page=PAGE).json["elements"]
    assert page["elements"] == len(here)
    ask = next(one for one in here if one["id"] == "ask-1")
    assert ask["uses"] == [{"test": place[0], "name": "Uses it", "steps": [1]}]
    places = client.get(f"/saved-pages/{place[1]}/places").json["places"]
    assert "ask-1" in [one["element"] for one in places]


def test_pages_are_found_by_their_elements_and_by_what_nobody_uses(client, database, place):
    with database.session() as session:
        spare = Element("spare-1", "Ask nobody", "link", (Clue("name", "is", "Nobody"),), page=PAGE)
        elements.save(session, spare)

    def counted(**query):
        return {one["page"]: one["elements"] for one in client.get("/pages", **query).json["pages"]}

    def named(**query):
        found = client.get("/pages/elements", page=PAGE, **query).json["elements"]
        return [one["name"] for one in found]

    every = named()
    assert {"Ask", "Ask nobody"} <= set(every)
    assert named(q="ASK NO") == ["Ask nobody"]
    assert counted(q="ASK NO") == {PAGE: 1}
    assert "Ask nobody" in named(unused=True)
    assert "Ask" not in named(unused=True)
    assert counted(q="ask", unused=True) == {PAGE: 1}
    # A page that fits by its title shows all that it has.
    assert named(q=PAGE) == every
    assert counted(q=PAGE) == {PAGE: len(every)}
    assert counted(q="100% _") == {}

    links = client.get("/elements", kind="link", q="ask").json["elements"]
    assert [one["id"] for one in links] == ["spare-1"]


def test_a_changed_clue_is_tried_on_saved_pages_without_a_browser(client, place):
    def tried(*clues):
        body = {"kind": "button", "clues": [{"fact": one[0], "value": one[1]} for one in clues]}
        return client.post("/elements/ask-1/try", **body).json

    answer = tried(("name", "Get a quote"))
    assert [one["word"] for one in answer["pages"]] == ["finds it"]
    assert 0 < answer["strength"]["share"] <= 1
    assert tried(("name", "Sign out"))["pages"][0]["word"] == "finds another one"
    assert tried(("name", "Sell"))["pages"][0]["word"] == "finds nothing"
    assert tried(("role", "button"))["pages"][0]["word"] == "finds several"


def test_two_who_change_one_element_at_once(client, place):
    base = client.get("/elements/ask-1").json["version"]
    change = {"base": base, "clues": [{"fact": "id", "value": "ask"}]}
    assert client.put("/elements/ask-1", **change).status_code == 200
    late = client.put("/elements/ask-1", base=base, name="Other")
    assert late.status_code == 409
    assert "changed by someone else" in late.json["message"]
    assert client.get("/elements/ask-1").json["name"] == "Ask"


def test_a_clue_that_makes_no_sense_changes_nothing(client, place):
    change = {"base": 1, "clues": [{"fact": "name", "operator": "matches", "value": "("}]}
    answer = client.put("/elements/ask-1", **change)
    assert answer.status_code == 422
    assert "does not compile" in answer.json["message"]


def test_what_is_used_is_not_deleted_and_merging_moves_its_sentences(client, place, database):
    refused = client.delete("/elements/ask-1")
    assert refused.status_code == 409
    assert "Uses it" in refused.json["message"]
    taken = client.post(f"/saved-pages/{place[1]}/take", nodes=[{"node": 3}]).json
    other = taken["taken"][0]["element"]
    merged = client.post("/elements/ask-1/merge", into=other)
    assert [one["name"] for one in merged.json["tests"]] == ["Uses it"]
    assert client.get("/elements/ask-1").status_code == 404
    step = client.get(f"/tests/{place[0]}").json["steps"][0]
    assert step["element"] == other
    assert client.post(f"/acts/{merged.json['act']}/undo").status_code == 200


def test_taking_in_proposes_names_and_says_what_is_unique(client, place):
    look = {"nodes": [{"node": 1}, {"node": 3, "name": "Leave"}]}
    looked = client.post(f"/saved-pages/{place[1]}/look", **look).json["taken"]
    assert [(one["name"], one["matches"]) for one in looked] == [("Piece name", 1), ("Leave", 1)]
    missing = client.post(f"/saved-pages/{place[1]}/look", nodes=[{"node": 99}])
    assert missing.status_code == 422


def test_a_test_is_written_from_a_saved_page(client, place):
    steps = [
        {"node": 1, "action": "type", "inputs": {"text": "Moon jar"}},
        {"node": 2, "action": "press"},
    ]
    body = {"test": place[0], "steps": steps}
    assert client.post(f"/saved-pages/{place[1]}/steps", **body).status_code == 200
    story = [one["sentence"] for one in client.get(f"/tests/{place[0]}").json["steps"]]
    assert story == ["Press Ask", "Type “Moon jar” into Piece name", "Press Get a quote"]


def test_files_are_kept_replaced_and_never_shown_as_pages(client, place):
    def put(name, content):
        body = {"name": name, "content": base64.b64encode(content).decode()}
        return client.post(f"/tests/{place[0]}/files", **body)

    assert put("../../jar.html", b"<script>alert(1)</script>").json["name"] == "jar.html"
    second = put("jar.html", b"<b>jar</b>").json
    listed = client.get(f"/tests/{place[0]}/files").json["files"]
    assert listed == [second]
    shown = client.get(f"/pictures/{second['digest']}")
    assert shown.mimetype == "application/octet-stream"
    assert shown.headers["Content-Disposition"] == "attachment"
    assert client.post(
        f"/tests/{place[0]}/files", json={"name": "x", "content": "%%%"}
    ).status_code == 422  # fmt: skip
    assert client.delete(f"/tests/{place[0]}/files/jar.html").status_code == 200
    assert client.delete(f"/tests/{place[0]}/files/jar.html").status_code == 404


def test_a_viewer_reads_but_changes_nothing(app, place):
    pia = Client(app, "pia")
    assert pia.get("/pages").status_code == 200
    change = {"base": 1, "name": "Mine"}
    assert pia.put("/elements/ask-1", **change).status_code == 403


def test_each_row_gets_the_repairs_of_its_own_page(client, place, database):
    with database.session() as session:
        test = tests.get(session, place[0])
        run = runs.create(session, test, "run", "all", None)
        run.casts.append(Cast(position=1, number=2, values={}))
        stations.beat(session, "st1", name="a", address="ws://a", engines=["chromium"])
        stations.beat(session, "st2", name="b", address="ws://b", engines=["chromium"])
        session.flush()
        casts.happen(session, run.id)
        results = []
        for row, name in zip(run.casts, ("Get a quote now", "Get a fair quote"), strict=True):
            seen = [node("button", name, 1, order=0), node("button", "Sign out", 2, order=1)]
            pages.save(session, PAGE, seen, run_id=run.id, cast_id=row.id, step_id="s1")
            failed = StepResult("s1", 0, "Press Ask", "failed", "not found")
            results.append(keep(session, taken(session, run.id), failed))
    proposed = [
        client.get(f"/results/{one}/repairs").json["proposals"][0]["name"] for one in results
    ]
    assert proposed == ["Get a quote now", "Get a fair quote"]
    saved = client.get(f"/results/{results[1]}/repairs").json
    body = {"saved": saved["saved"], "node": saved["proposals"][0]["node"], "base": 1}
    touched = client.post("/elements/ask-1/repair", **body).json["tests"]
    assert touched == [{"test": place[0], "name": "Uses it", "steps": [1]}]
    assert client.post("/elements/ask-1/repair", **body).status_code == 409


def test_a_check_that_differed_is_never_repaired(client, place, database):
    with database.session() as session:
        run = runs.create(session, tests.get(session, place[0]), "run", "all", None)
        row = run.casts[0]
        pages.save(session, PAGE, NODES, run_id=run.id, cast_id=row.id, step_id="s1")
        differed = StepResult("s1", 0, "Check", "failed", "check differed")
        kept = keep(session, taken(session, run.id), differed)
    assert client.get(f"/results/{kept}/repairs").json["proposals"] == []


def test_search_leads_to_the_element_on_its_page(client, place):
    [found] = [
        one for one in client.get("/search", q="Ask").json["found"] if "element" in one["kind"]
    ]
    assert found["link"].startswith("/pages?page=Quote")
    assert found["link"].endswith("element=ask-1")


STOCK = "Glaze stock - Kiln Desk"


def button_known_by(database, key, clue, page=STOCK):
    """Keep an element of the stock page's button under some clue; returns it."""
    with database.session() as session:
        made = Element(key, f"Button {key}", "button", (clue,), page=page)
        elements.save(session, made)
    return made


@pytest.fixture
def stock(database):
    """A page that only these tests know, saved once."""
    with database.session() as session:
        pages.save(session, STOCK, NODES)
    button_known_by(database, "ask-1", Clue("name", "is", "Get a quote"))


def test_elements_that_are_one_thing_are_offered_for_merging_with_what_shows_it(
    client, stock, database
):
    """A second element of the button goes by a sturdier clue; merging keeps that one."""
    button_known_by(database, "ask-2", Clue("name", "is", "Pack it"))
    assert not equal_on(client, STOCK)
    button_known_by(database, "ask-2", Clue("name", "is", "Get a quote", loose=True))
    [found] = equal_on(client, STOCK)
    assert {one["id"] for one in found["elements"]} == {"ask-1", "ask-2"}
    assert found["thing"] == "Get a quote"
    merged = client.post("/elements/ask-2/merge", into="ask-1").json
    assert merged["kept"] == "Button ask-2"
    assert merged["share"] > merged["other_share"]
    assert client.get("/elements/ask-1").json["clues"][0]["loose"] is True
    assert not equal_on(client, STOCK)


def equal_on(client, page):
    return [one for one in client.get("/elements-equal").json["equal"] if one["page"] == page]


def test_a_page_from_before_an_element_was_known_says_nothing_against_it(client, place, database):
    with database.session() as session:
        late = Element("late-1", "Late", "button", (Clue("name", "is", "Pack it"),), page=PAGE)
        elements.save(session, late)
    body = {"kind": "button", "clues": [{"fact": "name", "value": "Pack it"}]}
    words = [one["word"] for one in client.post("/elements/late-1/try", **body).json["pages"]]
    assert words == ["was not there yet"]


def test_a_condition_from_a_still_takes_in_what_is_added_next(client, place):
    def add(action, **inputs):
        steps = [{"node": 2, "action": action, "inputs": inputs}]
        body = {"test": place[0], "steps": steps}
        assert client.post(f"/saved-pages/{place[1]}/steps", **body).status_code == 200

    add("if", property="shown", comparison="is", expected="yes")
    add("press")
    story = client.get(f"/tests/{place[0]}").json["steps"]
    assert [(one["action"], one["depth"]) for one in story] == [
        ("press", 0),
        ("if", 0),
        ("press", 1),
    ]


def test_a_still_tells_what_things_show_and_how_strong_their_clues_are(client, place):
    nodes = client.get(f"/saved-pages/{place[1]}").json["nodes"]
    assert nodes[1]["shows"] == {
        "text": nodes[1]["text"], "name": "Get a quote", "shown": "yes", "enabled": "yes",
    }  # fmt: skip
    looked = client.post(f"/saved-pages/{place[1]}/look", nodes=[{"node": 2}]).json["taken"]
    assert 0 < looked[0]["strength"] <= 1


def test_recording_uses_elements_that_are_there_by_likeness(stock, database):
    """The one that was written by hand goes by other clues than a recording would choose."""
    with database.session() as session:
        made = propose_element(NODES[1], tuple(NODES), STOCK)
        assert elements.take(session, made).id == "ask-1"
        other = propose_element(NODES[0], tuple(NODES), STOCK)
        assert elements.take(session, other).id != "ask-1"
