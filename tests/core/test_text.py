"""The text form: nothing is lost on the way out and back, and errors stand at their lines."""

import string
from dataclasses import replace
from itertools import count

import jsonschema
import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st

from lantern.core.data.table import Row, Trait
from lantern.core.elements.clues import Clue, Element
from lantern.core.problems import BadInput
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.labels import read_labels
from lantern.core.steps.model import INHERITED, Document, Settings, Step, Taken
from lantern.core.steps.tree import settled
from lantern.core.text.carrying import carried_over
from lantern.core.text.names import Known, labels
from lantern.core.text.reading import read_document, read_elements
from lantern.core.text.schema import schema
from lantern.core.text.writing import Head, document_text, elements_text
from lantern.demo.data import ELEMENTS, quote_test
from tests.core.samples import node

HEAD = Head("test", "Quotes", "Kiln Desk")
KNOWN = Known(labels(ELEMENTS.values()), {"7": "Sign in"}, {"9": "Firings"})
VALUES = st.text(st.characters(blacklist_categories=("Cs",)), max_size=12).filter(
    lambda text: "${" not in text
)
LINES = VALUES.map(lambda text: " ".join(text.split()))
NAMES = st.text(string.ascii_lowercase, min_size=1, max_size=6)
MARKS = st.tuples(st.booleans(), st.booleans())
TRAITS = st.sampled_from([Trait("number"), Trait("choice", "expected", ("a", "1"))])
SETTINGS = st.sampled_from(
    [
        Settings(inherits=INHERITED),
        Settings(4.0, "go on", "none", 2),
        Settings(4.0, inherits=("on_failure", "pictures", "retries")),
    ]
)
TAKEN = st.builds(Taken, NAMES, st.just("number"), VALUES)


@st.composite
def steps(draw, number):
    action = draw(st.sampled_from(list(ACTIONS.values())))
    inputs = {
        entry.name: draw(st.sampled_from(entry.choices) if entry.choices else VALUES)
        for entry in action.inputs
        if not entry.optional or draw(st.booleans())
    }
    if "property" in inputs:
        inputs["property"] = "text"
    limit = draw(st.none() | st.integers(1, 60).map(float))
    return Step(
        f"s{number}",
        action.name,
        draw(st.sampled_from(list(ELEMENTS))) if action.kinds is not None else "",
        inputs,
        enabled=draw(st.booleans()),
        limit=limit,
        on_failure=draw(st.sampled_from([None, "stop", "go on"])),
        page=draw(LINES),
        picture=draw(st.sampled_from(["", "a" * 64])),
        title=draw(LINES),
        comment=draw(VALUES),
        depth=draw(st.integers(0, 3)),
        flow="7" if action.block == "flow" else "",
        retries=draw(st.none() | st.integers(0, 5)),
        pictures=draw(st.sampled_from([None, "none", "failures"])),
    )


LABELS = st.text("abcÄé #:-[]{}'", min_size=1, max_size=12).filter(str.strip)


@st.composite
def documents(draw):
    columns = draw(st.lists(NAMES, max_size=4, unique=True))
    rows = [
        Row(
            f"r{n}",
            {name: draw(VALUES) for name in columns},
            *draw(st.tuples(*[st.booleans()] * 2)),
        )
        for n in range(draw(st.integers(0, 4)) if columns else 0)
    ]
    story = [draw(steps(n)) for n in range(draw(st.integers(0, 6)))]
    traits = {
        name: draw(st.sampled_from([Trait("number"), Trait("choice", "expected", ("a", "1"))]))
        for name in columns
        if draw(st.booleans())
    }
    return Document(
        settled(story),
        tuple(columns),
        tuple(rows),
        draw(SETTINGS),
        takes=tuple(
            Taken(name, "number", draw(VALUES)) for name in draw(st.lists(NAMES, max_size=2))
        ),
        gives=tuple(draw(st.lists(NAMES, max_size=2))),
        traits=traits,
        design={"how": "pairs", "seed": 2} if draw(st.booleans()) else {},
        labels=read_labels(draw(st.lists(LABELS, max_size=3))),
        needs=read_labels(draw(st.lists(LABELS, max_size=2))),
    )


VALIDATOR = jsonschema.Draft202012Validator(schema())


def back(text, before=None):
    found = read_document(text, KNOWN)
    numbers = count(1)
    document = carried_over(before or Document(), found.document, lambda: f"new{next(numbers)}")
    return replace(found, document=document)


@settings(max_examples=150)
@given(documents())
def test_a_document_comes_back_from_its_text_as_it_was(document):
    found = back(document_text(HEAD, document, KNOWN), document)
    assert found.troubles == ()
    assert found.head == HEAD
    assert found.document == document


@settings(max_examples=40)
@given(documents())
def test_what_is_written_fits_the_schema(document):
    written = yaml.safe_load(document_text(HEAD, document, KNOWN))
    VALIDATOR.validate(written)


def test_the_schema_is_one_and_knows_every_action():
    jsonschema.Draft202012Validator.check_schema(schema())
    known = {one["properties"]["do"]["const"] for one in schema()["$defs"]["step"]["oneOf"]}
    assert known == set(ACTIONS)


def test_the_demo_reads_like_this():
    text = document_text(HEAD, quote_test(), KNOWN)
    assert text.startswith("lantern: 1\ntest: Quotes\nenvironment: Kiln Desk\nlimits:\n")
    assert "- do: type\n  element: Piece name on Quote - Kiln Desk\n" in text
    assert "  with: {text: '${row.piece}'}\n" in text
    assert "  - [Tea caddy, Earthenware, '04', '6', € 6.10]\n" in text
    assert "  ticked: [1, 3]\n" in text


TROUBLES = {
    "an unknown action": ("- do: tpye\n", 4, "There is no action “tpye”.", "Did you mean type?"),
    "an unknown part": ("- do: press\n  elment: x\n", 5, "“elment” is not known", "element"),
    "an unknown element": (
        "- do: press\n  element: Get a qoute on Quote - Kiln Desk\n", 5,
        "There is no element “Get a qoute", "Get a quote on Quote",
    ),
    "a missing value": ("- do: type\n", 4, "needs a value for text", ""),
    "an odd value": ("- do: type\n  with: {text: '${rwo.x}'}\n", 5, "not a value that", "row"),
    "a limit that is none": ("- do: press\n  seconds: soon\n", 4, "number of seconds", ""),
    "something twice": ("- do: press\n  do: type\n", 5, "there twice", ""),
    "a block that is none": ("- do: press\n  steps:\n  - do: press\n", 6, "Nothing can be", ""),
    "a list that is none": ("- press\n", 4, "Names with values are wanted", "name: value"),
}  # fmt: skip


@pytest.mark.parametrize(("lines", "line", "words", "hint"), TROUBLES.values(), ids=TROUBLES)
def test_what_is_wrong_is_told_at_its_line(lines, line, words, hint):
    found = read_document(f"lantern: 1\ntest: T\nsteps:\n{lines}", KNOWN)
    told = next(one for one in found.troubles if words in one.message)
    assert told.line == line
    assert hint in told.hint


@pytest.mark.parametrize(
    ("text", "words", "where"),
    [
        ("lantern: 1\ntest: [\n", "can not be read", "line 3"),
        ("", "is empty", "line 1"),
        ("a: &x [1]\nb: *x", "References", "line 2"),
        ("[" * 100, "nested more than", "line 1"),
        ("\tx: 1", "can not be read", "line 1"),
    ],
    ids=["open", "empty", "reference", "deep", "tab"],
)
def test_what_is_no_text_of_ours_is_refused_with_the_line(text, words, where):
    with pytest.raises(BadInput, match=words) as said:
        read_document(text, KNOWN)
    assert said.value.where == where


def test_a_text_that_says_not_what_it_is_or_is_of_another_format():
    told = [one.message for one in read_document("steps: []", KNOWN).troubles]
    assert told == ["This is not a text of format 1.", "The text does not say what it is."]


def test_a_changed_text_keeps_ids_and_pictures_of_what_stayed():
    before = quote_test()
    pictured = tuple(replace(step, picture=f"p{n}") for n, step in enumerate(before.steps))
    before = replace(before, steps=pictured)
    text = document_text(HEAD, before, KNOWN)
    text = text.replace("text: mara", "text: tobin").replace(
        "- do: open\n", "- do: reload\n- do: open\n"
    )
    found = back(text, before).document
    assert [step.id for step in found.steps] == ["new1", *(step.id for step in before.steps)]
    assert found.steps[2].picture == "p1"
    assert found.steps[2].inputs == {"text": "tobin"}


def test_elements_of_a_page_come_back_with_all_that_is_remembered():
    seen = node("input", "Piece", 3, label="Piece: yes", attributes={"id": "06", "title": "# x"})
    element = Element(
        "e1", "Piece: name", "text box",
        (Clue("label", "starts with", "Piece", loose=True), Clue("position", "is", "2")),
        (Clue("id", "is", "06"),), "Quote - Kiln Desk", seen, (seen,),
    )  # fmt: skip
    found, troubles = read_elements(elements_text("Quote - Kiln Desk", [element]))
    assert troubles == ()
    assert found[0].as_json() == element.as_json()


@pytest.mark.parametrize(
    ("clue", "words"),
    [
        ("{fact: label}", "compares in one way"),
        ("{fact: label, is: a, contains: b}", "compares in one way"),
        ("{fact: label, matches: '('}", "does not compile"),
        ("{fact: label, equals: a}", "“equals” is not known"),
    ],
)
def test_a_clue_that_makes_no_sense_is_told(clue, words):
    top = "lantern: 1\npage: P\nelements:\n- id: a\n  name: A\n  kind: button\n"
    text = f"{top}  clues:\n  - {clue}\n"
    _, troubles = read_elements(text)
    assert words in troubles[0].message
    assert troubles[0].line == 8


@pytest.mark.parametrize(
    "odd",
    ["seen: 5", "seen: {box: x}", "seen: {order: many}", "lookalikes: [1]", "seen: !!set x",
     "seen: !odd {a: 1}"],
)  # fmt: skip
def test_what_is_remembered_oddly_is_told_and_nothing_breaks(odd):
    top = "lantern: 1\npage: P\nelements:\n- id: a\n  name: A\n  kind: button\n"
    _, troubles = read_elements(f"{top}  clues:\n  - {{fact: name, is: A}}\n  {odd}\n")
    assert troubles


@pytest.mark.parametrize("odd", ["design: [1]", "design: 5", "table: {source: 5, columns: [a]}"])
def test_odd_parts_of_a_test_are_told_and_nothing_breaks(odd):
    assert read_document(f"lantern: 1\ntest: T\n{odd}\n", KNOWN).troubles
