"""Waiting for what is needed, keeping what is shown, making values up."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.problems import BadInput, Problem, UnknownName
from lantern.core.steps import edits
from lantern.core.steps.model import Document, Step
from lantern.core.steps.sentences import sentence
from lantern.core.values.made import FUNCTIONS
from lantern.core.values.sources import Names
from lantern.core.values.templates import literal, places, resolve, shown
from tests.core.samples import FakeStage, element, node, step

PRICE = element("Price", "text", id="price")
NOTE = element("Note", "text box", label="Note")
SAVE = element("Save")
price = node("output", "Price", 4, role="status", attributes={"id": "price"})
note = node("input", "Note", 5, label="Note")


def wait(limit=2.0, **inputs):
    inputs = {"property": "shown", "comparison": "is", "expected": "yes"} | inputs
    return step("wait until", PRICE, limit=limit, **inputs)


def test_a_wait_ends_as_soon_as_it_is_so_and_says_how_long_it_took():
    stage = FakeStage(price, appears={"Price": 6.1})
    assert stage.play(wait(limit=20), elements=[PRICE]) == "passed"
    assert 6.1 <= stage.results[0].used < 6.5
    assert stage.results[0].limit == 20


def test_a_wait_in_vain_says_what_was_there():
    stage = FakeStage(price, values={("Price", "text"): "working"})
    assert stage.play(wait(property="text", expected="done"), elements=[PRICE]) == "failed"
    result = stage.results[0]
    assert result.reason == "waited in vain"
    assert "was “working” after 2 s; waited until it is “done”" in result.message


@pytest.mark.parametrize(
    ("inputs", "wanted"),
    [
        ({}, "Wait until Price is shown"),
        ({"comparison": "is not"}, "Wait until Price is not shown"),
        ({"expected": "no"}, "Wait until the shown of Price is “no”"),
        ({"property": "text"}, "Wait until the text of Price is “yes”"),
    ],
)
def test_what_is_or_is_not_reads_plainly(inputs, wanted):
    assert sentence(wait(**inputs), {PRICE.id: PRICE}) == wanted


@pytest.mark.parametrize(("after", "outcome"), [(1.0, "passed"), (3.0, "failed")])
def test_waiting_for_a_quiet_page(after, outcome):
    stage = FakeStage()
    stage.quiet_after = after
    assert stage.play(step("quiet", milliseconds="500")) == outcome


def test_a_pause_takes_its_time():
    stage = FakeStage()
    assert stage.play(step("pause", seconds="3")) == "passed"
    assert 3 <= stage.results[0].used < 3.2
    for wrong in ("soon", "-1", "1e9"):
        assert FakeStage().play(step("pause", seconds=wrong)) == "failed"


def test_what_is_kept_is_used_later_and_stands_in_the_results():
    stage = FakeStage(price, note, values={("Price", "text"): "€ 26.25"})
    steps = [
        step("keep", PRICE, property="text", name="price"),
        step("type", NOTE, text="It is ${kept.price}"),
    ]
    assert stage.play(*steps, elements=[PRICE, NOTE]) == "passed"
    assert stage.results[0].kept == {"price": "€ 26.25"}
    assert stage.did == [("type", "It is € 26.25")]
    assert stage.results[0].sentence == "Keep the text of Price as “price”"


def test_keeping_under_a_bad_name_or_nothing_at_all_fails_clearly():
    stage = FakeStage(price)
    assert stage.play(step("keep", PRICE, property="text", name="9 lives"), elements=[PRICE]) == (
        "failed"
    )
    assert "letters, digits and underscores" in stage.results[0].message
    stage = FakeStage(price)
    assert stage.play(step("keep", PRICE, property="value", name="x"), elements=[PRICE]) == "failed"
    assert "has no value to keep" in stage.results[0].message
    stage = FakeStage(note)
    assert stage.play(step("type", NOTE, text="${kept.price}"), elements=[NOTE]) == "failed"
    assert "no kept value named 'price'" in stage.results[0].message


NAMES = Names(seed="s|1", today=date(2026, 1, 31))


@pytest.mark.parametrize(
    ("template", "wanted"),
    [
        ("${date()}", "2026-01-31"),
        ('${date("+3d")}', "2026-02-03"),
        ('${date("-2w")}', "2026-01-17"),
        ('${date("+1m")}', "2026-02-28"),
        ('${date("+1y", "%d.%m.%Y")}', "31.01.2027"),
        ('${pick("matt")}', "matt"),
        ("${integer(4, 4)}", "4"),
        ("${number(2, 2, 1)}", "2.0"),
        ('no. ${text("7")}', "no. 7"),
        ("$${integer(1, 2)}", "${integer(1, 2)}"),
    ],
)
def test_values_are_made_up(template, wanted):
    assert resolve(template, NAMES) == wanted


@given(st.integers(-1000, 1000), st.integers(0, 1000), st.text(max_size=8))
def test_what_is_made_up_keeps_to_its_bounds_and_comes_again(low, more, seed):
    names = Names(seed=seed)
    template = f"${{integer({low}, {low + more})}}"
    drawn = resolve(template, names, "step")
    assert low <= int(drawn) <= low + more
    assert drawn == resolve(template, names, "step") == shown(template, names, "step")


def test_rows_steps_and_places_draw_apart():
    template = "${uuid()} ${uuid()}"
    drawn = [resolve(template, Names(seed=f"s|{row}"), key) for row in (1, 2) for key in "ab"]
    assert len({one for pair in drawn for one in pair.split()}) == 8
    text = resolve('${text("??-####")}', NAMES)
    assert text[:2].isalpha()
    assert text[3:].isdigit()


@pytest.mark.parametrize(
    "template",
    [
        "${integer(2, 1)}", "${integer(1)}", "${integer(a, b)}", "${pick()}", "${date(\"soon\")}",
        "${text(7)}", "${uuid(1)}", "${number(1, 2, 99)}", "${integer(1, 2}", "${dice(6)}",
        "${date(\"+9999999y\")}",
    ],
)  # fmt: skip
def test_what_can_not_be_made_up_says_how_it_is_written(template):
    with pytest.raises(Problem) as said:
        places(template)
    if isinstance(said.value, UnknownName):
        assert all(name in said.value.message for name in FUNCTIONS)


def test_a_page_can_not_smuggle_a_call_in():
    assert resolve(literal("${uuid()}"), NAMES) == "${uuid()}"


def test_a_pause_becomes_the_wait_that_the_next_sentence_needs():
    pause = Step("p", "pause", "", {"seconds": "5"})
    press, off = Step("x", "press", "save"), Step("o", "press", "other", enabled=False)
    check = Step("c", "check", "price", {})
    doc = Document((pause, off, press, check))
    changed = edits.apply(doc, edits.ToWait("p"), str).steps[0]
    assert (changed.action, changed.element) == ("wait until", "save")
    assert changed.inputs == {"property": "enabled", "comparison": "is", "expected": "yes"}
    before_check = edits.apply(Document((pause, check)), edits.ToWait("p"), str).steps[0]
    assert before_check.inputs["property"] == "shown"
    alone = edits.apply(Document((pause,)), edits.ToWait("p"), str).steps[0]
    assert alone.action == "quiet"
    with pytest.raises(BadInput):
        edits.apply(doc, edits.ToWait("x"), str)
