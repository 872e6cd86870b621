"""Tables: types of columns, taking them out of sheets, edits of cells and columns."""

from itertools import count

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.data.matching import ALL_NEW, BY_PLACE, Match, key_of, pairs, propose
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


def counts(merged):
    return tuple(merged.count(what) for what in ("added", "changed", "removed"))


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
    columns = ("piece", "count", "price")
    match = propose(["count", "piece"], {}, rows, newer.rows)
    assert match == Match(("piece",))
    merged = merge(columns, rows, newer, match)
    assert counts(merged) == (1, 1, 1)
    assert merged.columns == ("count", "piece", "price")
    kept = next(row for row in merged.rows if row.id == "r1")
    assert kept.ticked
    assert kept.values["price"] == "€ 5"


def table_of(columns, *rows):
    return [Row(f"r{n}", dict(zip(columns, row, strict=True))) for n, row in enumerate(rows)]


def proposed(columns, rows, *taken, traits=None):
    values = [dict(zip(columns, one, strict=True)) for one in taken]
    return propose(columns, traits or {}, table_of(columns, *rows), values)


@pytest.mark.parametrize(
    ("ours", "theirs", "wanted"),
    [
        # What is called otherwise is another row, though its number agrees.
        ([("Bowl", "12")], [("Breakfast bowls", "12")], Match(("piece", "count"))),
        ([("Bowl", "1"), ("Mug", "2")], [("Mug", "9"), ("Bowl", "8")], Match(("piece",))),
        ([("Bowl", "1"), ("Bowl", "2")], [("Bowl", "2"), ("Bowl", "3")], Match(("piece", "count"))),
        ([("1", "2026-11-26")], [("1", "2026-11-26")], Match()),
        # The same clay does not make an ash tile of a moon jar.
        ([("Moon jar", "Raku")], [("Ash tile", "Raku")], Match(("piece", "count"))),
        ([("Moon jar", "Raku")], [("Moon jar", "Porcelain")], Match(("piece",))),
        (
            [("Moon jar", "K1"), ("Mug", "K2")],
            [("Moon jar", "K1"), ("Cup", "K2")],
            Match(("count",)),
        ),
    ],
)
def test_how_rows_are_told_to_be_the_same_is_proposed(ours, theirs, wanted):
    assert proposed(("piece", "count"), ours, *theirs) == wanted


def test_expected_values_are_never_what_tells_rows_apart():
    rows = [("1", "€ 5 each"), ("2", "€ 6 each")]
    expected = {"price": Trait(role="expected")}
    other = [("7", "€ 5 each"), ("8", "€ 6 each")]
    assert proposed(("count", "price"), rows, *other) == Match(("price",))
    assert proposed(("count", "price"), rows, *other, traits=expected) == Match()


def test_a_file_of_other_rows_changes_none():
    columns = ("piece", "count", "price")
    rows = [
        Row(f"r{n}", {"piece": f"Bowl {n}", "count": str(n % 40), "price": f"{n}.5"})
        for n in range(300)
    ]
    other = take([["piece", "count"], *([f"Tile {n}", str(n % 40)] for n in range(5000))])
    match = propose(["piece", "count"], {}, rows, other.rows)
    assert counts(merge(columns, rows, other, match)) == (5000, 0, 300)


def test_what_is_the_same_can_be_said_otherwise():
    assert Match.read("piece, count", ("piece", "count")) == Match(("piece", "count"))
    assert Match.read(BY_PLACE, ()) == Match(by_place=True)
    assert Match.read(ALL_NEW, ()) == Match()
    assert [str(Match.read(text, ("a", "b"))) for text in ("a, b", BY_PLACE, ALL_NEW)] == [
        "a, b", BY_PLACE, ALL_NEW,
    ]  # fmt: skip
    with pytest.raises(BadInput, match="no column in both tables named 'clay'"):
        Match.read("clay", ("piece",))


def test_what_becomes_of_each_row_is_told_with_what_a_person_made():
    traits = {"price": Trait(role="expected")}
    columns = ("piece", "count", "price")
    rows = [
        Row("r1", {"piece": "Bowl", "count": "1", "price": "5"}, designed=True),
        Row("r2", {"piece": "Mug", "count": "2", "price": ""}),
        Row("r3", {"piece": "Vase", "count": "3", "price": "7"}, ticked=True, designed=True),
    ]
    newer = take([["piece", "count"], ["Dish", "4"], ["Bowl", "9"], ["Mug", "2"]])
    merged = merge(columns, rows, newer, Match(("piece",)), traits)
    added, changed, removed = merged.changes
    assert (added.what, added.before, added.after) == ("added", None, 1)
    assert (changed.what, changed.before, changed.after) == ("changed", 1, 2)
    assert [(c.column, c.before, c.after, c.stays) for c in changed.cells] == [
        ("count", "1", "9", False),
        ("price", "5", "5", True),
    ]
    assert (changed.by_hand, changed.expected) == (False, True)
    assert (removed.what, removed.before, removed.by_hand, removed.expected) == (
        "removed", 3, True, True,
    )  # fmt: skip


CELL = st.sampled_from(["", "1", "2", "Bowl", "Mug", "2026-11-26"])
TABLES = st.integers(1, 3).flatmap(
    lambda width: st.tuples(
        st.just([f"c{n}" for n in range(width)]),
        st.lists(st.lists(CELL, min_size=width, max_size=width), max_size=8),
        st.lists(st.lists(CELL, min_size=width, max_size=width), min_size=1, max_size=8),
    )
)


@given(TABLES)
def test_no_row_ever_gets_what_another_knows(tables):
    """Whatever the tables: what a row knows goes only to a row that agrees in what was chosen."""
    columns, ours, theirs = tables
    rows = [
        Row(f"r{n}", {**dict(zip(columns, values, strict=True)), "expected": f"of {n}"})
        for n, values in enumerate(ours)
    ]
    taken = [dict(zip(columns, values, strict=True)) for values in theirs]
    match = propose(columns, {}, rows, taken)
    assert not match.by_place
    found = pairs(match, columns, rows, taken)
    assert len(set(found.values())) == len(found), "no row is two"
    every = [*taken, *(row.values for row in rows)]
    texts = [name for name in match.columns if guess([one[name] for one in every]) == "text"]
    assert texts or not found, "never by numbers and dates alone"
    for mine, other in found.items():
        key = key_of(taken[mine], match.columns)
        assert key == key_of(rows[other].values, match.columns)
        twins = [one for one in taken if key_of(one, match.columns) == key]
        if len(twins) > 1:
            assert key_of(taken[mine], columns) == key_of(rows[other].values, columns)


@given(TABLES)
def test_all_rows_of_the_file_are_there_and_every_change_is_told(tables):
    columns, ours, theirs = tables
    rows = [Row(f"r{n}", dict(zip(columns, one, strict=True))) for n, one in enumerate(ours)]
    taken = take([columns, *theirs])
    for match in (propose(columns, {}, rows, taken.rows), Match(by_place=True), Match()):
        merged = merge(columns, rows, taken, match)
        assert [row.values for row in merged.rows] == [dict(one) for one in taken.rows]
        kept = {row.id for row in merged.rows if row.id}
        told = {rows[one.before - 1].id: one.what for one in merged.changes if one.before}
        assert {key for key, what in told.items() if what == "removed"} == {
            row.id for row in rows
        } - kept
        for row in merged.rows:
            was = next((one for one in rows if one.id == row.id), None)
            if was and was.values != row.values:
                assert told[row.id] == "changed"
        assert merged.count("added") == sum(not row.id for row in merged.rows)


def test_columns_are_named_as_those_that_there_are():
    taken = fitted(take([["Piece", "COUNT"], ["Vase", "2"]]), ("piece", "clay"))
    assert taken.columns == ("piece", "COUNT")
    assert taken.rows == ({"piece": "Vase", "COUNT": "2"},)
    double = take([["Piece", "piece"], ["Vase", "2"]])
    assert fitted(double, ("piece",)) == double


@given(st.lists(st.text("ab", max_size=2), min_size=1, max_size=6))
def test_taking_the_same_table_again_changes_nothing(values):
    taken = take([["piece", "n"], *([value or "-", str(n)] for n, value in enumerate(values))])
    first = merge((), (), taken, Match())
    rows = [Row(f"r{n}", row.values) for n, row in enumerate(first.rows)]
    for match in (propose(first.columns, {}, rows, taken.rows), Match(by_place=True)):
        again = merge(first.columns, rows, taken, match)
        assert counts(again) == (0, 0, 0)
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
