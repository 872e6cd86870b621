"""Tests over the API: editing, conflicts, undo, rows, secrets."""

import pytest
from openapi_spec_validator import validate

from lantern.core.steps.edits import EDITS
from lantern.store.models import Run, Secret
from tests.api.conftest import Client


def sentences(test):
    return [step["sentence"] for step in test["steps"]]


def test_the_openapi_document_is_valid(client):
    document = client.get("/openapi.json").json
    validate(document)
    operations = [op["operationId"] for path in document["paths"].values() for op in path.values()]
    assert len(set(operations)) == len(operations) > 30


def test_health_tells_each_part(client):
    answer = client.get("/health")
    assert answer.status_code == 503  # no station is up in these tests
    assert answer.json == {
        "status": "starting",
        "version": "0.2.0",
        "database": "ok",
        "stations": "none",
        "sample_application": "not configured",
        "troubles": [],
    }


def test_a_test_reads_as_sentences_in_scenes(quotes):
    assert sentences(quotes)[:3] == [
        "Open “/sign-in”",
        "Type “mara” into Member name",
        "Type “${secret.mara_password}” into Password",
    ]
    assert [scene["page"] for scene in quotes["scenes"]] == [
        "Sign in - Kiln Desk",
        "Quote - Kiln Desk",
    ]


def test_steps_are_edited_undone_and_redone(client, quotes):
    first = quotes["steps"][0]["id"]
    without = client.edit(quotes, do="remove", steps=[first]).json
    assert len(without["steps"]) == 10
    assert (bool(without["undo"]), without["redo"]) == (True, "")
    back = client.post(f"/tests/{quotes['id']}/undo").json
    assert back["steps"] == quotes["steps"]
    assert (back["undo"], back["redo"]) == ("", without["undo"])
    again = client.post(f"/tests/{quotes['id']}/redo").json
    assert again["steps"] == without["steps"]
    once_more = client.post(f"/tests/{quotes['id']}/undo").json
    assert once_more["steps"] == quotes["steps"]


def test_a_change_after_an_undo_ends_the_redo(client, quotes):
    ids = [step["id"] for step in quotes["steps"]]
    client.edit(quotes, do="remove", steps=[ids[0]])
    two = client.post(f"/tests/{quotes['id']}/undo").json
    three = client.edit(two, do="remove", steps=[ids[1]]).json
    assert not three["redo"]
    assert client.post(f"/tests/{quotes['id']}/redo").status_code == 422


def test_two_people_who_change_the_same_sentence_get_a_conflict(app, client, quotes):
    other = Client(app, "wren")
    step = quotes["steps"][1]["id"]
    change = {"do": "change", "step": step, "fields": {"inputs": {"text": "tobin"}}}
    assert client.edit(quotes, **change).status_code == 200
    answer = other.edit(quotes, **change | {"fields": {"inputs": {"text": "ines"}}})
    assert (answer.status_code, answer.json["code"]) == (409, "conflict")
    assert "someone else" in answer.json["message"]
    assert client.get(f"/tests/{quotes['id']}").json["steps"][1]["inputs"] == {"text": "tobin"}


def test_two_people_who_change_different_sentences_lose_nothing(app, client, quotes):
    other = Client(app, "wren")
    first, second = quotes["steps"][0]["id"], quotes["steps"][1]["id"]
    client.edit(quotes, do="change", step=first, fields={"enabled": False})
    both = other.edit(quotes, do="change", step=second, fields={"limit": 3}).json
    assert (both["steps"][0]["enabled"], both["steps"][1]["limit"]) == (False, 3)


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        ({"do": "burn"}, "no edit named"),
        ({"do": "remove", "steps": ["gone"]}, "no longer in the test"),
        ({"do": "set settings", "fields": {"limit": -1}}, "between"),
        ({"do": "to column", "step": "demo02", "input": "text", "column": "a b"}, "letters"),
        (
            {"do": "insert", "steps": [{"action": "press", "inputs": [1]}]},
            "valid dictionary",
        ),
    ],
    ids=str,
)
def test_a_bad_edit_says_why_and_changes_nothing(client, quotes, edit, words):
    answer = client.edit(quotes, **edit)
    assert answer.status_code in (404, 422)
    assert words in answer.json["message"]
    assert client.get(f"/tests/{quotes['id']}").json["version"] == quotes["version"]


def test_a_constant_becomes_a_column(client, quotes):
    step = next(s for s in quotes["steps"] if s["inputs"].get("option", "").startswith("Medium"))
    changed = client.edit(
        quotes, do="to column", step=step["id"], input="option", column="shelf"
    ).json
    assert changed["columns"][-1] == "shelf"
    assert {row["values"]["shelf"] for row in changed["rows"]} == {"Medium (9 litres)"}


def test_a_copy_may_be_the_first_part_only(client, quotes):
    until = quotes["steps"][3]["id"]
    path = f"/tests/{quotes['id']}/copy"
    copy = client.post(path, name="Signed in", until=until).json
    assert sentences(copy) == sentences(quotes)[:4]
    assert copy["rows"] == quotes["rows"]
    whole = client.post(path, name="The same again").json
    assert sentences(whole) == sentences(quotes)
    assert "already" in client.post(path, name="signed IN").json["message"]


def test_rows_go_out_and_come_in_as_csv(client, quotes):
    text = client.get(f"/tests/{quotes['id']}/rows.csv").text
    assert text.splitlines()[1] == "Moon jar,Stoneware,6,1,€ 5.40"
    path = f"/tests/{quotes['id']}/rows.csv"
    changed = client.post(
        path, base=quotes["version"], text=text + "Moon jar,Raku,06,1,€ 5.40\r\n"
    ).json
    assert len(changed["rows"]) == 8
    answer = client.post(path, base=changed["version"], text="piece\na,b")
    assert answer.json["where"] == "line 2"
    assert len(client.get(f"/tests/{quotes['id']}").json["rows"]) == 8


def test_secrets_can_be_replaced_but_never_read(client, database):
    environment = client.get("/environments").json["environments"][0]
    assert environment["secrets"] == ["mara_password", "tobin_password"]
    path = f"/environments/{environment['id']}/secrets"
    assert client.put(path, name="pin", value="raw-to-glaze").status_code == 200
    assert client.put(path, name="my pin", value="x").status_code == 422
    everything = [client.get(p).text for p in ("/environments", "/tests", "/tests/1", "/tests/2")]
    assert not any("raw-to-glaze" in text or "wheel-and-kiln" in text for text in everything)
    with database.session() as session:
        assert not any(b"raw-to-glaze" in one.sealed for one in session.query(Secret))


CLAYS = [
    {"name": "clay", "values": ["Raku", "Stoneware"], "invalid": ["Plaster"]},
    {"name": "cone", "values": ["06", "6", "10"]},
    {"name": "pieces", "values": ["1", "12"]},
    {"name": "price", "values": []},
]


def test_rows_are_designed_looked_at_and_written(client, quotes):
    path = f"/tests/{quotes['id']}/design"
    proposed = {one["name"]: one["values"] for one in client.get(path).json["design"]["inputs"]}
    assert "Raku" in proposed["clay"]
    assert proposed["price"] == []  # only a check uses it: expected values
    ask = {"inputs": CLAYS, "constraints": ["if clay = Raku then cone = 06"], "base": 1}
    seen = client.post(path, **ask).json
    assert seen["missing"] == 0
    assert [row["origin"] for row in seen["rows"]].count("invalid") == 1
    assert {"values": {"clay": "Raku", "cone": "10"}, "row": None, "forbidden": True} in (
        seen["combinations"]
    )
    assert len(client.get(f"/tests/{quotes['id']}").json["rows"]) == len(quotes["rows"])

    written = client.post(path, **ask, write=True).json["test"]
    by_hand = [row for row in written["rows"] if not row["designed"]]
    assert [row["values"] for row in by_hand] == [row["values"] for row in quotes["rows"]]
    assert any(row["values"]["clay"] == "Plaster" for row in written["rows"])
    assert client.get(path).json["design"]["constraints"] == ask["constraints"]
    undone = client.post(f"/tests/{quotes['id']}/undo").json
    assert undone["rows"] == quotes["rows"]

    clash = ask | {"constraints": ["clay = Raku", "clay != Raku"]}
    assert "clash" in client.post(path, **clash).json["message"]
    assert client.post(path, **ask | {"inputs": CLAYS[3:]}).status_code == 422
    assert client.post(path, **ask | {"how": "sometimes"}).status_code == 422


def test_designing_again_tells_which_rows_go_come_and_stay(client, quotes):
    path = f"/tests/{quotes['id']}/design"
    one = [{"name": "clay", "values": ["Raku"]}, {"name": "cone", "values": ["06", "10"]}]
    test = client.post(path, base=1, inputs=one, write=True).json["test"]
    by_hand = len(quotes["rows"])
    mine = test["rows"][by_hand]
    cells = [{"row": mine["id"], "column": "cone", "value": "6"}]
    edited = client.edit(test, do="set cells", cells=cells).json
    assert not edited["rows"][by_hand]["designed"], "a person's from now on"
    again = [{"name": "clay", "values": ["Raku"]}, {"name": "cone", "values": ["10", "04"]}]
    seen = client.post(path, base=edited["version"], inputs=again).json
    assert seen["stay"] == len(edited["rows"]) - len(seen["go"])
    comes = {row["values"]["cone"]: row["comes"] for row in seen["rows"]}
    assert comes["04"]
    assert mine["id"] in {
        row["id"]
        for row in client.post(path, base=edited["version"], inputs=again, write=True).json["test"][
            "rows"
        ]
    }


def test_columns_that_no_sentence_uses_are_not_combined(client, quotes):
    client.edit(quotes, do="add column", column="remark")
    offered = client.get(f"/tests/{quotes['id']}/design").json["design"]["inputs"]
    names = [one["name"] for one in offered]
    assert "clay" in names
    assert "remark" not in names


def test_some_columns_are_combined_more_closely_than_the_rest(client, quotes):
    inputs = [{"name": name, "values": ["a", "b"]} for name in ("piece", "clay", "cone", "pieces")]
    close = {"inputs": ["piece", "clay", "cone"], "strength": 3}
    asked = {"base": quotes["version"], "inputs": inputs, "groups": [close]}
    rows = client.post(f"/tests/{quotes['id']}/design", **asked).json["rows"]
    triples = {tuple(row["values"][name] for name in close["inputs"]) for row in rows}
    assert len(triples) == 8
    unknown = asked | {"groups": [{"inputs": ["piece", "clya"], "strength": 2}]}
    answer = client.post(f"/tests/{quotes['id']}/design", **unknown)
    assert "Did you mean clay?" in answer.json["hint"]


def test_variables_of_an_environment_go_into_its_runs(client, quotes, database):
    environment = client.get("/environments").json["environments"][0]
    path, body = f"/environments/{environment['id']}", {"name": "Desk", "address": "http://x"}
    assert client.put(path, **body, variables={"season": "spring"}).json["variables"] == {
        "season": "spring"
    }
    assert client.put(path, **body).json["variables"] == {"season": "spring"}
    for name, words in (("my var", "letters, digits"), ("base_url", "address itself")):
        refused = client.put(path, **body, variables={name: "x"})
        assert refused.status_code == 422
        assert words in refused.json["message"]
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1").json["run"]["id"]
    with database.session() as session:
        assert session.get(Run, run).variables == {"season": "spring"}


def test_names_and_addresses_are_checked(client):
    assert client.post("/tests", name=" ", environment=1).status_code == 422
    assert client.post("/tests", name="x", environment=99).status_code == 404
    assert client.post("/environments", name="a", address="file:///etc").status_code == 422
    assert client.post("/environments", name="Kiln Desk", address="http://x").status_code == 422
    assert client.get("/tests/99").status_code == 404


def test_strange_names_are_kept_as_they_are(client):
    name = "<script>alert('x')</script> “Ofen” \U0001f3fa %s {{7*7}}"
    made = client.post("/tests", name=name, environment=1).json
    assert made["name"] == name
    assert client.get("/search", q="<script>").json["found"][0]["title"] == name
    assert client.get("/search", q="100%_\\").json["found"] == []


def test_a_deleted_test_is_gone(client, quotes):
    assert client.delete(f"/tests/{quotes['id']}").status_code == 200
    assert client.get(f"/tests/{quotes['id']}").status_code == 404


def test_broken_requests_get_the_one_shape_of_errors(client):
    headers = {"X-CSRF-Token": client.csrf, "Content-Type": "application/json"}
    answer = client.http.post("/api/tests", data="{", headers=headers)
    assert (answer.status_code, answer.json["code"]) == (400, "bad_json")
    for answer in (client.post("/tests", name=7), client.get("/nowhere"), client.get("/runs/0")):
        assert set(answer.json) == {"code", "message", "where", "hint"}
        assert answer.json["message"]


def test_renaming_an_element_changes_every_sentence_with_it(client, quotes):
    element = next(e for e in quotes["elements"] if e["name"] == "Sign in")
    assert client.patch(f"/elements/{element['id']}", name="Enter the studio").status_code == 200
    other = client.test_named("Book a firing")
    assert "Press Enter the studio" in sentences(other)


def test_what_no_database_keeps_is_kept_as_unreadable(client, quotes):
    """A cut emoji and NUL in any text of a request; in an address they are refused."""
    step = quotes["steps"][1]["id"]
    title = {"title": "Name \ud83d\x00 of it"}
    answer = client.edit(quotes, do="change", step=step, fields=title)
    assert answer.status_code == 200, answer.json
    assert answer.json["steps"][1]["title"] == "Name \ufffd\ufffd of it"
    answer = client.get("/search", q="moon\x00jar")
    assert (answer.status_code, answer.json["code"]) == (400, "bad_text")
    assert client.get("/elements/moon\x00jar").status_code == 400


def test_a_body_of_a_hundred_thousand_lists_is_no_json(client):
    headers = {"X-CSRF-Token": client.csrf, "Content-Type": "application/json"}
    answer = client.http.post("/api/tests", data="[" * 100_000, headers=headers)
    assert (answer.status_code, answer.json["code"]) == (400, "bad_json")


HUGE = 2**40


@pytest.mark.parametrize(
    "ask",
    [
        lambda client: client.get(f"/tests/{HUGE}"),
        lambda client: client.get(f"/runs/{HUGE}"),
        lambda client: client.delete(f"/tests/{HUGE}"),
        lambda client: client.post("/tests", name="Far away", environment=HUGE),
        lambda client: client.post("/tests", name="Nowhere", environment="\u00b2"),
        lambda client: client.post("/environments", name="odd", address="http://[::1"),
        lambda client: client.get("/saved-pages/" + "9" * 300),
    ],
)
def test_what_can_not_be_is_refused_in_words(client, ask):
    answer = ask(client)
    assert 400 <= answer.status_code < 500, answer.json
    assert answer.json["message"]


def test_a_search_for_an_odd_number_finds_nothing(client):
    assert client.get("/search", q="\u00b2").json["found"] == []


def test_every_edit_that_there_is_can_be_asked_for_and_is_typed(client, quotes):
    """The document tells each edit apart by what it does; a new edit needs no entry here."""
    document = client.get("/openapi.json").json["components"]["schemas"]
    kinds = document["EditAsk"]["properties"]["edit"]["discriminator"]["mapping"]
    assert set(kinds) == set(EDITS)
    answer = client.edit(quotes, do="burn")
    assert answer.status_code == 422
    assert answer.json["message"] == "There is no edit named “burn”."
    assert "'set cells'" in answer.json["hint"]
    answer = client.edit(quotes, do="sort rows", column="piece", down="sideways")
    assert answer.json["where"] == "edit.sort rows.down"


def test_a_test_tells_the_names_that_values_can_be_taken_from(client, quotes):
    client.put("/environments/1/secrets", name="pin", value="kiln-4711")
    found = client.get(f"/tests/{quotes['id']}").json["names"]
    offered = client.get("/catalogue").json["sources"]
    assert set(found) == {one["name"] for one in offered}
    assert found["row"] == quotes["columns"]
    assert "pin" in found["secret"]
    assert found["each"] == []
