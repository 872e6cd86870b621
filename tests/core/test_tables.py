"""Tables of pages as things, titles of steps, and what is checked of them."""

import json

import pytest

from lantern.core.elements.clues import Element
from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.model import Step
from lantern.core.steps.properties import check_property, offered
from lantern.core.steps.tables import Table, aspect
from lantern.core.steps.titles import warning
from tests.core.samples import FakeStage, element, node, step

FIRINGS = {
    "headers": ["No.", "Piece", "Price"],
    "rows": [["1", "Moon jar", "€ 10.80"], ["2", "Tea caddy", "€ 5.40"], ["3", "Vase", "€ 1,000"]],
}
TEXT = json.dumps(FIRINGS)


def worked_out(name):
    work, of_what = aspect(name)
    return work(Table.read(TEXT), of_what)


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("sum of Price", "1016.2"), ("order of No.", "ascending"), ("order of Price", "unsorted"),
        ("order of piece", "ascending"), ("cells of Piece", "Moon jar, Tea caddy, Vase"),
        ("rows with Piece is Moon jar", "1"), ("rows with Piece is Vase and No. is 1", "0"),
        ("cell Price where Piece is Tea caddy", "€ 5.40"),
    ],
)  # fmt: skip
def test_what_can_be_checked_of_a_table(name, value):
    assert check_property(name) == name
    assert worked_out(name) == value


def test_an_unknown_column_names_those_that_there_are():
    with pytest.raises(UnknownName, match="Piece"):
        worked_out("sum of Cost")


@pytest.mark.parametrize("name", ["cell Price", "rows with Moon jar"])
def test_a_property_that_does_not_say_which_row(name):
    with pytest.raises(BadInput, match="does not say which row"):
        worked_out(name)


def test_a_table_offers_its_columns_as_checks():
    names = [one["name"] for one in offered("table", {"number of rows": "3", "table": TEXT})]
    assert names[0] == "number of rows"
    assert "sum of Price" in names
    assert "table" not in names


def test_a_check_of_a_cell_plays():
    table = node("table", "Firings", 1)
    stage = FakeStage(table, values={("Firings", "table"): TEXT})
    it = element("Firings", "table")
    right = step(
        "check", it, property="cell Price where Piece is Vase", comparison="is", expected="€ 1,000"
    )
    assert stage.play(right, elements=[it]) == "passed"
    missing = step(
        "check", it, property="cell Price where Piece is Bowl", comparison="is", expected="1",
        limit=0.3,
    )  # fmt: skip
    assert stage.play(missing, elements=[it]) == "failed"
    assert "0 rows have Piece is Bowl" in stage.results[-1].found


BOOK = {"e": Element("e", "Book this firing", "button", ())}


@pytest.mark.parametrize(
    ("title", "warned"),
    [
        ("Close the ticket", True), ("The member leaves", True), ("Book it", False),
        ("Booking the firing", False), ("Press the button", False), ("", False), ("Firings", False),
    ],
)  # fmt: skip
def test_a_title_that_speaks_of_something_else_is_warned_about(title, warned):
    said = warning(Step("1", "press", "e", title=title), BOOK)
    assert bool(said) is warned
    if warned:
        assert title in said
        assert "Book this firing" in said
