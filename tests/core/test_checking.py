"""Checking the rows ahead of a run, against what is known of the fields."""

from dataclasses import replace

import pytest

from lantern.core.data.checking import check_data, check_sentence, known_names
from lantern.core.steps.model import Document, Row, Step, Trait
from lantern.core.values.made import FUNCTIONS
from lantern.core.values.wording import in_words
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
    assert (found.near, found.row_id) == (("Stoneware",), "r1")


def test_a_column_that_is_missing_is_one_problem_for_all_rows():
    document = Document((CHOOSE,), ("clai",), rows("clai", "Raku", "Raku"))
    (found,) = check_data(document, CLAY)
    assert (found.row, found.hint) == (0, "Did you mean clai?")
    assert (found.input, found.near) == ("option", ("${row.clai}",))


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


def wrong(step, names=None, **columns):
    document = Document((step,), tuple(columns or {"message": ""}))
    known = known_names(document, ["season"], ["pin"], ["code"]) | (names or {})
    return [(one.input, one.message, one.near) for one in check_sentence(step, CLAY, known)]


def test_an_unknown_name_in_a_sentence_is_told_with_what_it_may_have_been():
    step = Step("s1", "type", "clay", {"text": "Dear ${row.mesage}, ${env.season}"})
    assert wrong(step) == [
        ("text", "There is no column “mesage”.", ("Dear ${row.message}, ${env.season}",))
    ]
    (one,) = wrong(Step("s1", "type", "clay", {"text": "${env.saison}"}))
    assert one[2] == ("${env.season}",)
    (one,) = wrong(Step("s1", "type", "clay", {"text": "${kept.cod}"}))
    assert one[1:] == ("There is no kept value “cod”.", ("${kept.code}",))
    (one,) = wrong(Step("s1", "type", "clay", {"text": "${raw.message}"}))
    assert "is not a value that Lantern knows" in one[1]


def test_names_that_are_known_are_no_problem():
    for text in ("${row.message}", "${secret.pin}", "${kept.code}", "${env.base_url}/x",
                 "${each.number}", "$${row.x}", "${integer(1, 3)}", "plain"):  # fmt: skip
        assert wrong(Step("s1", "type", "clay", {"text": text})) == [], text
    page = Step("s1", "page script", inputs={"script": "return 1", "name": "count"})
    use = Step("s2", "type", "clay", {"text": "${kept.count}"})
    known = known_names(Document((page, use)), [], [], [])
    assert list(check_sentence(use, CLAY, known)) == []


def test_a_constant_that_its_list_does_not_offer_is_told():
    (one,) = wrong(Step("s1", "choose", "clay", {"option": "Stonewear"}))
    assert one[2] == ("Stoneware",)


@pytest.mark.parametrize(
    ("template", "words"),
    [
        ("${integer(1, 24)}", "a number from 1 to 24"),
        ("${number(0, 1, 3)}", "a number from 0 to 1 with 3 decimals"),
        ('${pick("matt", "gloss", "raw")}', "matt, gloss or raw"),
        ('${pick("matt")}', "matt"),
        ('${text("K-##")}', "a text such as K-##"),
        ('${date("+3d")}', "in 3 days"),
        ('${date("-1w")}', "1 week ago"),
        ("${date()}", "today"),
        ("${uuid()}", "a unique id"),
        ("${fitting()}", "what the field takes"),
        ("K-${integer(1, 24)}", ""),
        ("${integer(9)}", ""),
        ("${row.clay}", ""),
        ("Moon jar", ""),
    ],
)
def test_a_made_up_value_reads_as_words(template, words):
    assert in_words(template) == words


def test_every_way_to_make_values_up_has_a_form_that_makes_one():
    """With what the form begins with, and a line for each list of values."""
    for name, made in FUNCTIONS.items():
        args = [one.default if one.kind == "number" else f'"{one.default or "x"}"'
                for one in made.parts if one.default or not one.optional]  # fmt: skip
        template = f"${{{name}({', '.join(args)})}}"
        assert in_words(template), template
