"""Checking the rows ahead of a run, against what is known of the fields."""

from dataclasses import replace

import pytest

from lantern.core.data.checking import check_data
from lantern.core.steps.model import Document, Row, Step, Trait
from tests.core.samples import element, node


def known(key, kind, facts):
    made = replace(element(facts.name, kind), id=key, seen=facts)
    return {key: made}


NUMBER = Trait("number")
CLAY = known("clay", "choice list", node("select", "Clay", options=("Stoneware", "Raku")))
CHOOSE = Step("s1", "choose", "clay", {"option": "${row.clay}"})


def rows(column, *values):
    return tuple(Row(f"r{n}", {column: value}) for n, value in enumerate(values))


def test_a_value_that_the_list_does_not_offer_is_named_with_the_nearest():
    document = Document((CHOOSE,), ("clay",), rows("clay", "Raku", "Stonewear"))
    (found,) = check_data(document, CLAY)
    assert (found.row, found.column, found.step) == (2, "clay", "s1")
    assert found.message == "“Stonewear” is not among the 2 options of Clay: Stoneware, Raku."
    assert found.hint == "Did you mean “Stoneware”?"


def test_a_column_that_is_missing_is_one_problem_for_all_rows():
    document = Document((CHOOSE,), ("clai",), rows("clai", "Raku", "Raku"))
    (found,) = check_data(document, CLAY)
    assert (found.row, found.hint) == (0, "Did you mean clai?")


@pytest.mark.parametrize(
    ("limits", "value", "words"),
    [
        ({"type": "number", "min": "1", "max": "24"}, "25", "at most 24"),
        ({"type": "number", "min": "1", "max": "24"}, "0", "at least 1"),
        ({"type": "number"}, "many", "is not a number"),
        ({"maxlength": "4"}, "Moon jar", "longer than the 4 characters"),
        ({"pattern": r"K-\d+"}, "K-x", "not of the form"),
    ],
    ids=["above", "below", "no number", "too long", "another form"],
)
def test_the_limits_of_a_field_are_told(limits, value, words):
    field = known("field", "text box", node("input", "Count", attributes=limits))
    typed = Step("s1", "type", "field", {"text": "${row.count}"})
    (found,) = check_data(Document((typed,), ("count",), rows("count", value)), field)
    assert words in found.message


def test_what_fits_is_no_problem():
    limits = {"type": "text", "pattern": r"K-\d+", "maxlength": "5"}
    field = known("field", "text box", node("input", "Code", attributes=limits))
    typed = Step("s1", "type", "field", {"text": "${row.code}"})
    assert check_data(Document((typed,), ("code",), rows("code", "K-12", "")), field) == []


def test_a_value_that_does_not_fit_the_type_of_its_column_is_named():
    document = Document((), ("count",), rows("count", "3", "many"), traits={"count": NUMBER})
    (found,) = check_data(document, {})
    assert (found.row, found.step, found.column) == (2, "", "count")


def test_what_depends_on_more_than_the_row_is_not_judged():
    steps = (
        replace(CHOOSE, inputs={"option": "${row.clay} ${kept.more}"}),
        replace(CHOOSE, inputs={"option": '${pick("a", "b")}'}),
        replace(CHOOSE, enabled=False),
    )
    assert check_data(Document(steps, ("clay",), rows("clay", "Stonewear")), CLAY) == []


def test_a_pattern_of_the_page_that_is_odd_says_nothing():
    field = known("field", "text box", node("input", "Code", attributes={"pattern": "*a"}))
    typed = Step("s1", "type", "field", {"text": "${row.code}"})
    assert check_data(Document((typed,), ("code",), rows("code", "x")), field) == []
