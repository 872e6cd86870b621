"""Flows written in Python: what their source offers, and how they are played."""

import pytest

from lantern.core.engine import requests as ask
from lantern.core.engine.attempt import Flow
from lantern.core.engine.coding import trial
from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.code import BEGINNING, signature
from lantern.core.steps.edits import apply, read_edit
from lantern.core.steps.model import Document, Step
from lantern.core.text.names import Known
from lantern.core.text.reading import read_document
from lantern.core.text.writing import Head, document_text
from lantern.core.values.sources import Names
from tests.core.samples import FakeStage

TAX = '''
def _rounded(number):
    return round(number, 2)


def with_tax(price: float, rate: float = 0.19, day: date = "2026-11-25", gift: bool = False):
    """Work the price with tax out.

    Gives: gross, tax.
    """
    return {"gross": _rounded(price * (1 + rate)), "tax": _rounded(price * rate)}
'''


def coded(source=TAX):
    edit = read_edit({"do": "set code", "code": source})
    return apply(Document(), edit, lambda: "x")


def test_inputs_and_outputs_follow_from_the_source():
    document = coded()
    assert [(one.name, one.kind, one.default) for one in document.takes] == [
        ("price", "number", ""),
        ("rate", "number", "0.19"),
        ("day", "date", "2026-11-25"),
        ("gift", "yes/no", "no"),
    ]
    assert document.gives == ("gross", "tax")
    assert signature(TAX).function == "with_tax"
    assert signature(BEGINNING).gives == ("result",)


@pytest.mark.parametrize(
    ("source", "words", "where"),
    [
        ("def a(:\n", "can not be read", "line 1"),
        ("x = 1\n", "no function", "line 1"),
        ("\ndef a(*all):\n    pass\n", "by their names alone", "line 2"),
        ("def a(\n  b: list):\n    pass\n", "no type of the input b", "line 2"),
        ("def a(b=c()):\n    pass\n", "plain value", "line 1"),
        ("x" * 100_001, "more than 100000", "line 1"),
    ],
)
def test_code_that_is_wrong_is_told_at_its_line(source, words, where):
    with pytest.raises(BadInput, match=words) as said:
        signature(source)
    assert said.value.where == where


class CodeStage(FakeStage):
    """Answers what code gives without running it."""

    ran = ask.Ran({"gross": "11.9", "tax": "1.9"})

    def answer(self, request):
        if isinstance(request, ask.RunCode | ask.PageScript):
            self.did.append(request)
            return self.ran
        return super().answer(request)


def play(stage, *after, **inputs):
    flows = {"7": Flow("With tax", coded())}
    call = Step("c", "flow", flow="7", inputs=inputs)
    return stage.play(call, *after, flows=flows, names=Names(row={"price": "10"}))


def test_what_code_gives_is_kept_for_later_sentences_and_the_results():
    stage = CodeStage()
    use = Step("k", "key", inputs={"keys": "${kept.gross}"})
    assert play(stage, use, price="${row.price}") == "passed"
    asked = stage.did[0]
    assert dict(asked.inputs) == {
        "price": "10", "rate": "0.19", "day": "2026-11-25", "gift": "no",
    }  # fmt: skip
    assert asked.types["gift"] == "bool"
    assert stage.results[0].kept == {"gross": "11.9", "tax": "1.9"}
    assert ("key", "11.9") in stage.did


@pytest.mark.parametrize(
    ("ran", "words"),
    [
        (ask.Ran(error="ValueError: price is 'x'", line=7), "in line 7: ValueError"),
        (ask.Ran({"gross": "1"}), "gave no tax"),
    ],
)
def test_code_that_fails_says_the_message_and_the_line(ran, words):
    stage = CodeStage()
    stage.ran = ran
    assert play(stage, price="1") == "failed"
    assert stage.results[0].reason == "code failed"
    assert words in stage.results[0].message


def test_an_input_of_another_type_is_told_before_anything_runs():
    stage = CodeStage()
    assert play(stage, price="twelve") == "failed"
    assert "The input price of “With tax”: “twelve” is not a number" in stage.results[0].message
    assert stage.did == []


def test_a_page_script_keeps_what_it_returns_or_says_why_it_failed():
    stage = CodeStage()
    stage.ran = ask.Ran({"value": "5"})
    script = Step("p", "page script", inputs={"script": "return 5", "name": "five"})
    assert stage.play(script) == "passed"
    assert stage.results[0].kept == {"five": "5"}
    stage = CodeStage()
    stage.ran = ask.Ran(error="ReferenceError: x is not defined", line=1)
    assert stage.play(script) == "failed"
    assert "The script failed (line 1): ReferenceError" in stage.results[0].message


def test_code_comes_back_from_its_text_and_is_told_at_its_line_when_wrong():
    text = document_text(Head("flow", "With tax"), coded(), Known())
    assert "code: |" in text
    assert read_document(text, Known()).document == coded()
    wrong = text.replace("def with_tax(price: float", "def with_tax(price: list")
    (trouble,) = read_document(wrong, Known()).troubles
    assert "no type of the input price" in trouble.message
    assert "with_tax" in wrong.splitlines()[trouble.line - 1]


def test_a_trial_takes_defaults_for_what_is_not_given():
    source = "def fire(kiln: str, cone: int = 6, note: str = '${x}'):\n    return {}\n"
    asked = trial(source, {"kiln": "${env.kiln}"}, Names(env={"kiln": "Old Bess"}), 3)
    assert asked.inputs == {"kiln": "Old Bess", "cone": "6", "note": "${x}"}
    assert (asked.function, asked.types["cone"], asked.limit) == ("fire", "int", 3)
    with pytest.raises(UnknownName, match="cone"):
        trial(source, {"cne": "6"}, Names(), 3)
    with pytest.raises(BadInput, match="no function"):
        trial("x = 1", {}, Names(), 3)
