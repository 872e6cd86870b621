"""Tables over the API: taken in from spreadsheets, given out, shared between tests."""

import base64
import io

import openpyxl
import pytest

from tests.api.conftest import Client


def workbook(*rows):
    book = openpyxl.Workbook()
    for row in rows:
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    return base64.b64encode(out.getvalue()).decode()


def take_in(client, test, **asked):
    asked = {"base": test["version"], "name": "rows.xlsx"} | asked
    return client.post(f"/tests/{test['id']}/take-in", **asked)


def test_a_spreadsheet_is_looked_at_taken_in_and_refreshed(client, quotes):
    """What it would change is told first; a refresh keeps ticks and columns of our own."""
    first = workbook(
        ["Firings", None], ["Piece", "Clay"], ["Moon jar", "Raku"], ["Tall vase", "Porcelain"]
    )
    seen = take_in(client, quotes, content=first).json
    assert (seen["header"], seen["count"]) == (2, 2)
    assert [column["name"] for column in seen["columns"]] == ["piece", "clay"]
    assert seen["test"] is None
    assert client.get(f"/tests/{quotes['id']}").json["rows"] == quotes["rows"]

    taken = take_in(client, quotes, content=first, write=True, attach=True).json["test"]
    assert [row["values"]["piece"] for row in taken["rows"]] == ["Moon jar", "Tall vase"]
    assert taken["columns"][:3] == ["piece", "clay", "cone"]
    table = client.get(f"/tests/{quotes['id']}/table").json
    assert table["source"]["name"] == "rows.xlsx"

    ticked = client.edit(taken, do="tick rows", rows=[taken["rows"][1]["id"]], on=True).json
    again = workbook(["Piece", "Clay"], ["Tall vase", "Stoneware"])
    fresh = take_in(client, ticked, content=again, write=True, attach=True).json
    assert (fresh["added"], fresh["changed"], fresh["removed"]) == (0, 1, 1)
    (row,) = fresh["test"]["rows"]
    assert row["ticked"]
    assert row["values"]["clay"] == "Stoneware"
    kept = take_in(client, fresh["test"], content="").json
    assert kept["count"] == 1
    source = client.get(f"/tests/{quotes['id']}/table").json["source"]
    assert (source["match"], fresh["match"]) == ("piece", "piece")


def test_how_rows_are_the_same_is_proposed_changed_and_kept(client, quotes):
    content = workbook(["Piece", "Clay"], ["Moon jar", "Raku"], ["Mug", "Raku"])
    taken = take_in(client, quotes, content=content, write=True).json["test"]
    newer = workbook(["Piece", "Clay"], ["Dish", "Raku"], ["Moon jar", "Porcelain"])

    def counts(**asked):
        seen = take_in(client, taken, content=newer, **asked).json
        return seen["match"], seen["added"], seen["changed"], seen["removed"]

    assert counts() == ("piece", 1, 1, 1)
    assert counts(match="by place") == ("by place", 0, 2, 0)
    assert counts(match="all new") == ("all new", 2, 0, 2)
    assert counts(match="piece, clay") == ("piece, clay", 2, 0, 2)
    refused = take_in(client, taken, content=newer, match="colour")
    assert refused.status_code == 422
    assert "Known: clay, piece" in refused.json["message"]
    seen = take_in(client, taken, content=newer, changes_from=1).json
    assert (len(seen["changes"]), seen["by_hand"]) == (2, 2)


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        ({"content": "!!"}, "base64"),
        ({"content": ""}, "keeps no file"),
        ({"content": "bm8="}, "not a file of the kind"),
        ({"name": "x.pdf", "content": "bm8="}, "none of"),
    ],
)
def test_a_file_that_is_no_table_changes_nothing(client, quotes, asked, words):
    answer = take_in(client, quotes, write=True, **asked)
    assert answer.status_code in (404, 422)
    assert words in answer.json["message"]
    assert client.get(f"/tests/{quotes['id']}").json["version"] == quotes["version"]


@pytest.mark.parametrize("ending", ["csv", "xlsx", "ods"])
def test_rows_are_given_out_in_every_format_and_come_back(client, quotes, ending):
    answer = client.get(f"/tests/{quotes['id']}/rows.{ending}")
    assert answer.status_code == 200
    content = base64.b64encode(answer.data).decode()
    seen = take_in(client, quotes, name=f"rows.{ending}", content=content).json
    assert (seen["count"], seen["added"], seen["changed"], seen["removed"]) == (7, 0, 0, 0)
    assert client.get(f"/tests/{quotes['id']}/rows.pdf").status_code == 404
    path = f"/tests/{quotes['id']}/rows.csv"
    assert client.get(path, formulas="maybe").status_code == 422
    assert client.get(path, formulas="escaped").status_code == 200


def test_a_lean_answer_leaves_the_rows_out(client, quotes):
    headers = {"Prefer": "return=lean"}
    lean = client.http.get(f"/api/tests/{quotes['id']}", headers=headers).json
    assert lean["rows"] is None
    assert (lean["row_count"], lean["ticked"]) == (7, 2)


def test_the_version_of_the_table_rises_only_with_the_table(client, quotes):
    cells = [{"row": quotes["rows"][0]["id"], "column": "clay", "value": "Raku"}]
    changed = client.edit(quotes, do="set cells", cells=cells).json
    assert changed["table_version"] == changed["version"]
    first = changed["steps"][0]["id"]
    again = client.edit(changed, do="change", step=first, fields={"title": "Come in"}).json
    assert again["table_version"] == changed["table_version"]


def test_two_people_fill_cells_of_one_table_at_once(app, client, quotes):
    other = Client(app, "wren")

    def set_cell(who, row, value):
        cells = [{"row": quotes["rows"][row]["id"], "column": "clay", "value": value}]
        return who.edit(quotes, do="set cells", cells=cells)

    assert set_cell(client, 0, "Raku").status_code == 200
    assert set_cell(other, 1, "Porcelain").status_code == 200
    assert set_cell(other, 0, "Porcelain").status_code == 409
    rows = client.get(f"/tests/{quotes['id']}").json["rows"]
    assert [row["values"]["clay"] for row in rows[:2]] == ["Raku", "Porcelain"]


def test_a_shared_table_serves_two_tests_and_follows_its_columns_names(client, quotes):
    shared = client.post(
        f"/tests/{quotes['id']}/share", base=quotes["version"], name="Firings"
    ).json
    table = shared["shared"]["id"]
    assert (shared["row_count"], shared["shared"]["name"]) == (7, "Firings")

    other = client.post("/tests", name="Other", environment=quotes["environment"]["id"]).json
    steps = [{"action": "key", "inputs": {"keys": "${row.clay}"}}]
    other = client.edit(other, do="insert", steps=steps).json
    used = client.put(f"/tests/{other['id']}/shared", base=other["version"], table=table).json
    assert used["columns"] == shared["columns"]

    # A column that one test makes or renames is there for the other as well.
    renamed = client.edit(used, do="rename column", column="clay", name="body").json
    assert renamed["steps"][0]["inputs"]["keys"] == "${row.body}"
    first = client.get(f"/tests/{quotes['id']}").json
    assert "${row.body}" in {v for step in first["steps"] for v in step["inputs"].values()}
    run = client.post(f"/tests/{other['id']}/runs", rows="1").json
    assert run["casts"][0]["values"]["body"] == "Stoneware"

    listed = client.get("/tables").json["tables"]
    assert listed[0]["used_by"] == ["Other", "Quotes by clay and cone"]
    answer = client.delete(f"/tables/{table}")
    assert answer.status_code == 409
    assert "is used by “Other”" in answer.json["message"]
    for test in (first, renamed):
        path = f"/tests/{test['id']}/shared"
        assert client.put(path, base=test["version"], table=None).json["shared"] is None
    assert client.delete(f"/tables/{table}").status_code == 200
    assert client.get(f"/tests/{quotes['id']}").json["row_count"] == 7


def typed(client, test, value, **where):
    answer = client.post(f"/tests/{test['id']}/typed", value=value, **where)
    assert answer.status_code == 200
    return [(one["message"], one["near"]) for one in answer.json["problems"]]


def test_a_value_is_looked_at_while_it_is_typed(client, quotes):
    row = quotes["rows"][0]["id"]
    (found,) = typed(client, quotes, "Stonewear", row=row, column="clay")
    assert "not among the" in found[0]
    assert found[1][0] == "Stoneware"
    assert typed(client, quotes, "Raku", row=row, column="clay") == []
    assert typed(client, quotes, "Raku", row="a row that is new", column="clay") == []
    step = next(s["id"] for s in quotes["steps"] if s["inputs"].get("text") == "mara")
    (found,) = typed(client, quotes, "${row.peice}", step=step, input="text")
    assert found[1][0] == "${row.piece}"
    table = client.get(f"/tests/{quotes['id']}/table").json
    clay = next(one for one in table["columns"] if one["name"] == "clay")
    assert "Stoneware" in clay["offers"], "what the list offers"


def test_the_choice_of_rows_is_looked_at_while_it_is_typed(client, quotes):
    for well in ("where clay = Stoneware", "2-3", "where pieces > 5"):
        assert typed(client, quotes, well, choice=True) == []
    (found,) = typed(client, quotes, "where clai = Stoneware and clay = Raku", choice=True)
    assert found[1] == ["where clay = Stoneware and clay = Raku"]
    assert "no column named 'clai'" in found[0]
    (found,) = typed(client, quotes, "where clay = Stonewear", choice=True)
    assert "in the condition “clay = Stonewear” is not a value of clay" in found[0]
    assert found[1] == ["where clay = Stoneware"]
    assert "rows 1 to 7" in typed(client, quotes, "8", choice=True)[0][0]


def test_a_shared_table_is_held_against_the_tests_that_use_it(client, quotes):
    shared = client.post(
        f"/tests/{quotes['id']}/share", base=quotes["version"], name="Pieces"
    ).json["shared"]["id"]
    table = client.get(f"/tests/{shared}").json
    row = client.get(f"/tests/{shared}/table").json["rows"][0]["id"]
    (found,) = typed(client, table, "Stonewear", row=row, column="clay")
    assert found[1][0] == "Stoneware"


def test_what_is_wrong_in_a_sentence_stands_with_it_and_in_its_text(client, quotes):
    step = next(s["id"] for s in quotes["steps"] if s["inputs"].get("text") == "mara")
    change = {"do": "change", "step": step, "fields": {"inputs": {"text": "${row.peice}"}}}
    test = client.edit(quotes, **change).json
    said = next(one for one in test["steps"] if one["id"] == step)
    assert said["problems"][0]["near"][0] == "${row.piece}"
    assert not any(one["problems"] for one in test["steps"] if one["id"] != step)
    path = f"/tests/{quotes['id']}/text"
    text = client.get(path).json
    looked = client.post(path, base=text["version"], text=text["text"], write=False).json
    (trouble,) = looked["troubles"]
    assert "${row.peice}" in text["text"].splitlines()[trouble["line"] - 1]
    assert not trouble["blocks"]
    put = client.post(path, base=text["version"], text=text["text"] + "\n", write=True)
    assert put.json["test"], "nobody is kept from it"
