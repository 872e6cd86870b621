"""Made-up values within what a field takes."""

import random
from dataclasses import replace
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.problems import BadInput
from lantern.core.values.fitting import Limits, fitting, limits_of
from lantern.core.values.sources import Names
from tests.core.samples import FakeStage, element, node, step

TODAY = date(2026, 11, 25)
FIELDS = {
    "options": Limits(options=("Raku", "Stoneware")),
    "range": Limits("number", low="1", high="24"),
    "half a range": Limits("number", high="3"),
    "days": Limits("date", low="2026-11-26", high="2026-11-28"),
    "pattern": Limits(pattern=r"K-\\d{3}[ab]"),
    "length": Limits(longest=6),
    "anything": Limits(),
}


@pytest.mark.parametrize("limits", FIELDS.values(), ids=FIELDS)
@given(seed=st.integers())
def test_what_is_made_up_for_a_field_fits_it(limits, seed):
    made = fitting(limits, random.Random(seed), TODAY)
    assert limits.fits(made)
    assert made == fitting(limits, random.Random(seed), TODAY)


def test_the_limits_are_those_that_the_field_had():
    facts = node("input", "Count", attributes={"type": "number", "min": "1", "max": "x"})
    assert limits_of(facts) == Limits("number", low="1")
    assert limits_of(node("select", "Clay", options=("Raku",))).options == ("Raku",)
    assert not limits_of(node("input", "Piece")).known
    assert limits_of(node("input", attributes={"pattern": "*"})).pattern == ""


def test_a_range_that_never_meets_is_an_error_in_words():
    with pytest.raises(BadInput, match="No value was found that is at least 5 and at most 2"):
        fitting(Limits("number", low="5", high="2"), random.Random(1), TODAY)


def count_field(**limits):
    attributes = {"type": "number", **limits}
    facts = node("input", "Count", 3, label="Count", attributes=attributes)
    return facts, replace(element("Count", "text box", label="Count"), seen=facts)


def typed(template, seed="s|1", **limits):
    facts, it = count_field(**limits)
    stage = FakeStage(facts)
    outcome = stage.play(step("type", it, text=template), elements=[it], names=Names(seed=seed))
    return outcome, stage


def test_a_made_up_number_is_drawn_until_the_field_takes_it_and_shown_as_it_was_typed():
    for seed in range(12):
        outcome, stage = typed("${integer(1, 1000)}", f"s|{seed}", min="1", max="24")
        if outcome == "passed":
            value = dict(stage.did[-1:])["type"]
            assert 1 <= int(value) <= 24
            assert f"Type “{value}” into Count" == stage.results[0].sentence
    assert typed("${fitting()}", min="7", max="7")[1].did[-1] == ("type", "7")


def test_one_that_never_fits_says_what_the_field_takes():
    outcome, stage = typed("${integer(100, 200)}", max="24")
    assert outcome == "failed"
    assert "never was at most 24, which the field takes" in stage.results[0].message


@pytest.mark.parametrize("pattern", ["(((a{99}){99}){99}){99}", "(?<=a)b(?R)", "(a*)*b+"])
def test_a_hostile_pattern_is_an_error_in_words_not_an_endless_text(pattern):
    with pytest.raises(BadInput):
        fitting(Limits(pattern=pattern), random.Random(1), TODAY)
