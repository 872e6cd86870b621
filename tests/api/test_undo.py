"""Undo over the API: one's own acts, over tests, tables and elements."""

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.edits import Change, Insert
from lantern.core.steps.model import Step
from lantern.store import documents, elements, tests
from tests.api.conftest import Client


@pytest.fixture
def wren(app):
    return Client(app, "wren")


def text(test, place):
    return test["steps"][place]["inputs"]["text"]


def change(client, test, place, value):
    answer = client.edit(
        client.get(f"/tests/{test['id']}").json,
        do="change",
        step=test["steps"][place]["id"],
        fields={"inputs": {"text": value}},
    )
    assert answer.status_code == 200
    return answer.json


def test_undo_takes_back_my_own_act_although_somebody_acted_since(client, wren, quotes):
    change(client, quotes, 1, "mine")
    now = change(wren, quotes, 2, "theirs")
    assert now["undo"].endswith("→ Type “theirs” into Password")
    assert client.get(f"/tests/{quotes['id']}").json["undo"].startswith("Type “mara” into")
    back = client.post(f"/tests/{quotes['id']}/undo").json
    assert (text(back, 1), text(back, 2)) == ("mara", "theirs")
    assert (back["undo"], back["redo"][:11]) == ("", "Type “mara”")
    again = client.post(f"/tests/{quotes['id']}/redo").json
    assert (text(again, 1), text(again, 2)) == ("mine", "theirs")
    assert wren.post(f"/tests/{quotes['id']}/undo").json["steps"][2] == quotes["steps"][2]


def test_where_somebody_built_on_it_undo_asks(client, wren, quotes):
    change(client, quotes, 1, "mine")
    change(wren, quotes, 1, "theirs")
    path = f"/tests/{quotes['id']}"
    asked = client.post(f"{path}/undo")
    assert (asked.status_code, asked.json["code"]) == (409, "built_on")
    assert (
        asked.json["message"] == "Since then this was changed again: sentence 2 (by Wren Halloway)."
    )
    assert text(client.get(path).json, 1) == "theirs", "nothing was done"
    assert text(client.post(f"{path}/undo", force=True).json, 1) == "mara"


def test_what_is_typed_into_one_field_while_recording_is_one_version(client, database, quotes):
    def record(edit, fold="recorded s"):
        with database.session() as session:
            tests.edit(session, quotes["id"], edit, 2, fold=fold)

    record(Insert((Step("s", "type", quotes["steps"][1]["element"], {"text": "M"}),)))
    for end in range(2, 9):
        record(Change("s", {"inputs": {"text": "Moon jar"[:end]}}))
    path = f"/tests/{quotes['id']}"
    listed = client.get(f"{path}/versions").json["versions"]
    assert [one["summary"] for one in listed][:2] == [
        "added: Type “Moon jar” into Member name",
        "created",
    ]
    now = client.get(path).json
    assert now["version"] == listed[0]["number"] == 9
    late = client.post(f"{path}/edits", base=5, edit={"do": "remove", "steps": ["s"]})
    assert late.status_code == 409, "made on a version that went on since"
    assert client.post(f"{path}/undo").json["steps"] == quotes["steps"]


def test_a_marked_version_stays_whatever_is_typed_on(client, database, quotes):
    def record(edit):
        with database.session() as session:
            tests.edit(session, quotes["id"], edit, 2, fold="recorded s")

    record(Insert((Step("s", "press"),)))
    client.put(f"/tests/{quotes['id']}/baseline", version=2)
    record(Change("s", {"comment": "later"}))
    with database.session() as session:
        assert documents.document_of(session, quotes["id"], 2).step("s").comment == ""


def test_a_shared_table_changed_in_a_test_goes_back_there(client, quotes):
    path = f"/tests/{quotes['id']}"
    shared = client.post(f"{path}/share", base=quotes["version"], name="Pieces").json
    row, column = shared["rows"][0], shared["columns"][0]
    cells = [{"row": row["id"], "column": column, "value": "changed"}]
    changed = client.edit(shared, do="set cells", cells=cells).json
    assert changed["rows"][0]["values"][column] == "changed"
    assert "changed" in changed["undo"]
    assert client.post(f"{path}/undo").json["rows"][0] == row


@pytest.fixture
def ask(database):
    with database.session() as session:
        elements.save(session, Element("ask", "Ask", "button", (Clue("id", "is", "ask"),)))
        elements.save(session, Element("more", "More", "button", (Clue("id", "is", "more"),)))
        step = Step("a", "press", "ask")
        made = tests.create(session, "Asks", 1, None)
        tests.edit(session, made.id, Insert((step,)), None)
        return made.id


def known_by(client, key="ask"):
    return [row["value"] for row in client.get(f"/elements/{key}").json["clues"] if row["on"]]


def test_an_element_changed_in_a_test_is_taken_back_there(client, wren, ask):
    clues = [{"fact": "id", "operator": "is", "value": "wrong"}]
    changed = client.put("/elements/ask", base=1, place=ask, clues=clues)
    assert changed.status_code == 200
    wren.patch("/elements/ask", name="Ask them", was="Ask")
    assert client.get(f"/tests/{ask}").json["undo"] == "clues of element “Ask”"
    assert client.post(f"/tests/{ask}/undo").status_code == 200
    assert known_by(client) == ["ask"]
    assert client.get("/elements/ask").json["name"] == "Ask them", "theirs stays"
    client.post(f"/tests/{ask}/redo")
    assert known_by(client) == ["wrong"]


def test_an_element_has_a_history_with_who_and_can_be_restored(client, wren, ask):
    first = client.get("/elements/ask/versions").json["versions"]
    assert [one["summary"] for one in first] == ["element “Ask”"]
    clues = [{"fact": "id", "operator": "is", "value": "wrong"}]
    client.put("/elements/ask", base=1, clues=clues)
    wren.patch("/elements/ask", name="Ask them", was="Ask")
    newest, middle, oldest = client.get("/elements/ask/versions").json["versions"]
    assert (newest["author"], middle["author"]) == ("Wren Halloway", "Odo Fennick")
    assert newest["lines"] == ["name: “Ask” → “Ask them”"]
    assert [line.split(":")[0] for line in middle["lines"]] == ["clue added", "clue taken out"]
    assert len(oldest["now"]) == 3
    back = client.post("/elements/ask/restore", version=1, base=3).json
    assert (back["name"], known_by(client)) == ("Ask", ["ask"])
    assert client.post(f"/acts/{back['act']}/undo").status_code == 200
    assert known_by(client) == ["wrong"]
    assert client.post("/elements/ask/restore", version=77, base=5).status_code == 404
    assert client.post("/elements/ask/restore", version=1, base=1).status_code == 409


def test_a_merge_is_taken_back_wholly(client, wren, ask):
    merged = client.post("/elements/ask/merge", into="more").json
    assert client.get("/elements/ask").status_code == 404
    assert wren.post(f"/acts/{merged['act']}/undo").status_code == 422, "it was not hers"
    assert client.post(f"/acts/{merged['act']}/undo").status_code == 200
    assert known_by(client) == ["ask"]
    assert client.get(f"/tests/{ask}").json["steps"][0]["element"] == "ask"


def test_an_element_that_was_deleted_comes_back_with_its_history(client, ask):
    client.put("/elements/more", base=1, name="More of it")
    deleted = client.delete("/elements/more").json
    assert client.get("/elements/more/versions").status_code == 404
    assert client.post(f"/acts/{deleted['act']}/undo").status_code == 200
    assert client.get("/elements/more").json["name"] == "More of it"
    listed = client.get("/elements/more/versions").json["versions"]
    assert [one["there"] for one in listed] == [True, False, True, True]
