"""What a station is given over the network is what it would have found in the database."""

import json
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.elements.facts import Box
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import BadInput
from lantern.core.runs.work import Work
from lantern.core.steps.model import Document, Row, Settings, Step

texts = st.text(st.characters(exclude_categories=["Cs"]), max_size=20)


def work(**more):
    steps = (
        Step("a", "type", "piece", {"text": "${row.piece} ${secret.key}"}),
        Step("b", "press", "ask"),
        Step("c", "pause", inputs={"seconds": "1"}),
    )
    document = Document(steps, ("piece",), (Row("r1", {"piece": "Moon jar"}, True),), Settings(3))
    elements = {"piece": {"seen": {"tag": "input"}}, "ask": {"seen": None}}
    told = {
        "cast": 7, "token": "t", "job": 9, "run": 3, "number": 1, "browser": "webkit",
        "values": {"piece": "Moon jar"}, "kind": "run", "address": "http://desk.example",
        "body": document.as_json(), "elements": elements, "flows": {}, "files": {},
        "variables": {"clay": "Raku"}, "secrets": {"key": "k"}, "seed": "s",
        "day": date(2026, 11, 28),
    }  # fmt: skip
    return Work(**told | more)


@given(st.dictionaries(texts, texts), st.dictionaries(texts, texts), st.booleans())
def test_it_comes_out_of_json_as_it_went_in(values, secrets, first):
    given_out = work(values=values, secrets=secrets, first=first)
    assert Work.read(json.loads(json.dumps(given_out.as_json()))) == given_out


def test_what_is_no_work_is_refused():
    for raw in ({}, {"day": "soon"}, work().as_json() | {"more": 1}):
        with pytest.raises(BadInput):
            Work.read(raw)


def test_it_knows_the_elements_that_nobody_has_seen_yet():
    assert work().unseen() == {"b": "ask"}


@given(texts, texts, st.sampled_from([None, Box(1, 2, 30, 40)]), st.lists(texts, max_size=3))
def test_a_result_comes_out_of_json_as_it_went_in(sentence, message, box, within):
    result = StepResult("s", 2, sentence, "failed", "not found", message, box=box,
                        within=tuple(within), kept={"price": "7"}, files=[{"name": "x"}],
                        lookups=[{"clue": "id"}])  # fmt: skip
    assert StepResult.read(json.loads(json.dumps(result.as_json()))) == result


def test_what_is_no_result_is_refused():
    for raw in ({}, {"box": 3}, {"box": {"left": 1}}, {"step_id": "s", "unknown": 1}):
        with pytest.raises(BadInput):
            StepResult.read(raw)
