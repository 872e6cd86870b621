"""Tables: types of columns, taking them out of sheets, edits of cells and columns."""

from itertools import count

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.data.table import Row, Trait, guess
from lantern.core.data.taking import fitted, merge, take
from lantern.core.problems import BadInput, Conflict, Problem
from lantern.core.steps.edits import apply, check_fresh, read_edit
from lantern.core.steps.model import Document, Step

SHEET = [
    ["Firings of the spring", "", ""],
    ["Piece name", "Clay", "Drop-off"],
    ["Moon jar", "Stoneware", "2026-11-26"],
    ["", "", ""],
    ["Tea caddy", "Raku", "2026-11-27"],
]
ROWS = (
    Row("r1", {"piece": "Moon jar", "count": "12"}),
    Row("r2", {"piece": "Tea caddy", "count": "3"}),
    Row("r3", {"piece": "Roof finial", "count": ""}),
)
TABLE = Document(columns=("piece", "count"), rows=ROWS)


def edited(document, **raw):
    numbers = count(1)
    return apply(document, read_edit(raw), lambda: f"new{next(numbers)}")


@pytest.mark.parametrize(
    ("values", "wanted"),
    [
        (["1", "2.5", ""], "number"),
        (["06", "04"], "text"),
        (["2026-11-26", "2026-01-01"], "date"),
        (["yes", "no"], "yes/no"),
        (["yes", "perhaps"], "text"),
        (["", ""], "text"),
    ],
)
def test_the_type_of_a_column_is_guessed_from_its_values(values, wanted):
    assert guess(values) == wanted


@pytest.mark.parametrize(
    ("trait", "value", "words"),
    [
        (Trait("number"), "twelve", "not a number"),
        (Trait("date"), "26.11.2026", "not a date"),
        (Trait("yes/no"), "true", "not yes or no"),
        (Trait("choice", choices=("Raku", "Stoneware")), "Stonewear", "not among the choices"),
        (Trait("number"), "12", ""),
        (Trait("number"), "", ""),
        (Trait("number"), "${integer(1, 5)}", ""),
        (Trait("number", "expected"), "refused", ""),
    ],
)
def test_what_does_not_fit_the_type_of_its_column_is_said(trait, value, words):
    message, _ = trait.problem(value)
    assert words in message if words else not message


def test_the_header_is_found_below_a_title_and_names_are_made_of_it():
    taken = take(SHEET)
    assert taken.columns == ("piece_name", "Clay", "drop_off")
    assert taken.headers == ("Piece name", "Clay", "Drop-off")
    assert taken.header_row == 2
    assert [row["piece_name"] for row in taken.rows] == ["Moon jar", "Tea caddy"]
    assert taken.types["drop_off"].type == "date"


def test_a_part_of_a_sheet_is_taken_by_its_range():
    assert take(SHEET, "B2:C3").rows == ({"Clay": "Stoneware", "drop_off": "2026-11-26"},)
    assert take(SHEET, "a2:a").columns == ("piece_name",)
    assert take(SHEET, header=3).columns == ("moon_jar", "Stoneware", "v_2026_11_26")


@pytest.mark.parametrize("area", ["x", "C3:B2", "Z90:Z99", "1:2"])
def test_a_range_that_is_none_is_refused(area):
    with pytest.raises(BadInput):
        take(SHEET, area)


def test_two_columns_of_one_name_get_different_ones():
    assert take([["clay", "clay", "Clay!"], ["a", "b", "c"]]).columns == (
        "clay", "clay_2", "clay_3",
    )  # fmt: skip


def test_what_a_newer_file_adds_changes_and_removes_is_counted_by_the_column_that_tells_apart():
    newer = take([["count", "piece"], ["4", "Tea caddy"], ["12", "Moon jar"], ["1", "Ash tile"]])
    rows = [Row("r1", {**ROWS[0].values, "price": "€ 5"}, ticked=True), *ROWS[1:]]
    merged = merge(("piece", "count", "price"), rows, newer)
    assert (merged.added, merged.changed, merged.removed) == (1, 1, 1)
    assert merged.columns == ("count", "piece", "price")
    kept = next(row for row in merged.rows if row.id == "r1")
    assert kept.ticked
    assert kept.values["price"] == "€ 5"


def test_columns_are_named_as_those_that_there_are():
    taken = fitted(take([["Piece", "COUNT"], ["Vase", "2"]]), ("piece", "clay"))
    assert taken.columns == ("piece", "COUNT")
    assert taken.rows == ({"piece": "Vase", "COUNT": "2"},)
    double = take([["Piece", "piece"], ["Vase", "2"]])
    assert fitted(double, ("piece",)) == double


@given(st.lists(st.text("ab", max_size=2), min_size=1, max_size=6))
def test_taking_the_same_table_again_changes_nothing(values):
    taken = take([["piece", "n"], *([value or "-", str(n)] for n, value in enumerate(values))])
    first = merge((), (), taken)
    rows = [Row(f"r{n}", row.values) for n, row in enumerate(first.rows)]
    again = merge(first.columns, rows, taken)
    assert (again.added, again.changed, again.removed) == (0, 0, 0)
    assert [row.id for row in again.rows] == [row.id for row in rows]


def test_cells_are_set_by_the_ids_of_their_rows():
    cells = [{"row": "r2", "column": "count", "value": "4"}]
    changed = edited(TABLE, do="set cells", cells=cells)
    assert changed.rows[1].values == {"piece": "Tea caddy", "count": "4"}
    with pytest.raises(Problem, match="no longer in the table"):
        edited(TABLE, do="set cells", cells=[{"row": "gone", "column": "count", "value": "4"}])
    with pytest.raises(Problem, match="Known: count, piece"):
        edited(TABLE, do="set cells", cells=[{"row": "r1", "column": "cuont", "value": "4"}])


def test_two_people_change_different_rows_at_once_but_not_the_same():
    mine = read_edit({"do": "set cells", "cells": [{"row": "r1", "column": "count", "value": "1"}]})
    other = edited(TABLE, do="set cells", cells=[{"row": "r2", "column": "count", "value": "9"}])
    check_fresh(mine, TABLE, other)
    check_fresh(mine, TABLE, edited(TABLE, do="tick rows", rows=["r1"]))
    same = edited(TABLE, do="set cells", cells=[{"row": "r1", "column": "count", "value": "9"}])
    with pytest.raises(Conflict, match="That row was changed by someone else"):
        check_fresh(mine, TABLE, same)


def test_rows_come_go_are_ticked_and_sorted():
    fresh = edited(TABLE, do="add rows", rows=[{"values": {"piece": "Vase"}}], after="r1")
    assert [row.id for row in fresh.rows] == ["r1", "new1", "r2", "r3"]
    assert fresh.rows[1].values == {"piece": "Vase", "count": ""}
    first = edited(TABLE, do="add rows", rows=[{"id": "x"}], after="")
    assert first.rows[0].id == "x"
    assert [row.id for row in edited(TABLE, do="remove rows", rows=["r2"]).rows] == ["r1", "r3"]
    assert [row.ticked for row in edited(TABLE, do="tick rows").rows] == [True] * 3
    by_count = edited(TABLE, do="sort rows", column="count")
    assert [row.id for row in by_count.rows] == ["r2", "r1", "r3"]
    down = edited(TABLE, do="sort rows", column="count", down=True)
    assert [row.id for row in down.rows] == ["r1", "r2", "r3"]


def test_columns_come_get_a_type_and_go_unless_sentences_use_them():
    with_clay = edited(TABLE, do="add column", column="clay")
    assert with_clay.rows[0].values["clay"] == ""
    choice = {"type": "choice", "choices": ["Raku", "Raku", "Porcelain"]}
    typed = edited(with_clay, do="set column", column="clay", role="input", **choice)
    assert typed.traits["clay"].choices == ("Raku", "Porcelain")
    renamed = edited(typed, do="rename column", column="clay", name="body")
    assert renamed.traits["body"].type == "choice"
    assert edited(renamed, do="remove column", column="body").traits == {}
    step = Step("s1", "type", inputs={"text": "${row.count}"})
    used = Document((step,), TABLE.columns, TABLE.rows)
    with pytest.raises(Conflict, match="A sentence uses the column “count”"):
        edited(used, do="remove column", column="count")
    browser = edited(TABLE, do="set column", column="count", role="browser")
    with pytest.raises(BadInput, match="names the browsers already"):
        edited(browser, do="set column", column="piece", role="browser")
