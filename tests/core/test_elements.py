"""Recognising elements: clues, kinds, and the choice of clues."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.elements.clues import Clue, Element, matching
from lantern.core.elements.facts import LONGEST, Facts
from lantern.core.elements.generated import looks_generated
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.naming import propose_name
from lantern.core.elements.nearest import nearest_to
from lantern.core.elements.suggesting import suggest
from lantern.core.problems import BadInput, UnknownName
from tests.core.samples import element, node


def sentences(clues):
    return [clue.sentence() for clue in clues]


@pytest.mark.parametrize(
    ("tag", "role", "attributes", "kind"),
    [
        ("button", "button", {}, "button"),
        ("div", "button", {}, "button"),
        ("a", "link", {}, "link"),
        ("input", "textbox", {}, "text box"),
        ("input", "", {"type": "password"}, "password box"),
        ("input", "", {"type": "date"}, "text box"),
        ("input", "checkbox", {"type": "checkbox"}, "tick box"),
        ("input", "radio", {"type": "radio"}, "radio"),
        ("input", "", {"type": "file"}, "file box"),
        ("select", "combobox", {}, "choice list"),
        ("table", "table", {}, "table"),
        ("h2", "heading", {}, "heading"),
        ("span", "", {}, "text"),
    ],
)
def test_the_kind_follows_from_the_facts(tag, role, attributes, kind):
    assert kind_of(Facts(tag, role, attributes=attributes)) == kind


@pytest.mark.parametrize(
    ("value", "generated"),
    [
        ("price", False),
        ("quote-form", False),
        ("drop_off", False),
        ("member", False),
        ("ember1234", True),
        (":r1:", True),
        ("css-1x2y3z", True),
        ("row-7", True),
        ("0f8fad5b-d9cb-469f-a165-70867728950e", True),
        ("sc-bdVaJa", True),
        ("input_8a7f3c2e", True),
    ],
)
def test_generated_names_are_told_from_chosen_ones(value, generated):
    assert looks_generated(value) is generated


def test_what_people_see_is_preferred_over_an_id():
    target = node(name="Get a quote", attributes={"id": "ask"})
    found = suggest(target, [])
    assert sentences(found.clues) == ["name is “Get a quote”"]
    assert "id is “ask”" in sentences(found.spare)


def test_a_generated_id_is_never_preferred():
    target = node("input", "", attributes={"id": "ember1234", "placeholder": "Piece"})
    assert sentences(suggest(target, []).clues) == ["hint text is “Piece”"]


def test_the_smallest_set_that_tells_it_from_its_rivals():
    target = node(name="Menu", handle=1, row=("1", "Moon jar"))
    rivals = [node(name="Menu", handle=2, row=("2", "Tea caddy"))]
    assert sentences(suggest(target, rivals).clues) == [
        "name is “Menu”",
        "in the row of “Moon jar”",
    ]


def test_a_test_id_that_only_says_what_sort_of_thing_it_is_is_no_clue_where_words_are():
    thumb = node("button", "Larger picture", 1, attributes={"data-testid": "thumb"})
    told = node("button", "Larger picture", 1, attributes={"data-testid": "enlarge-bowl"})
    assert [clue.fact for clue in suggest(thumb, []).clues] == ["name"]
    assert [clue.fact for clue in suggest(told, []).clues] == ["test id"]


def test_a_row_is_known_by_a_name_before_a_date_before_a_number():
    cells = {"No.": "5", "Price": "€ 3.40", "Drop-off": "2026-11-27", "Piece": "Bowl 2"}
    for named in ("Piece", "Drop-off", "No."):
        rows = ({**cells, named: cells[named]}, {head: f"{cells[head]}9" for head in cells})
        target, rival = (
            node("button", "Menu", n, row=tuple(row.values()), cells=row)
            for n, row in enumerate(rows)
        )
        assert f"cell {named}" in {clue.fact for clue in suggest(target, [rival]).clues}
        del cells[named]


def test_a_position_is_the_last_resort():
    twins = [node(name="Menu", handle=n) for n in (1, 2, 3)]
    clues = suggest(twins[1], twins).clues
    assert sentences(clues)[-1] == "number 2 of those that match"
    assert matching("button", clues, twins) == [twins[1]]


def test_a_check_of_a_text_does_not_rely_on_that_text():
    price = node(
        "output", "", role="status", text="€ 5.40", attributes={"id": "price"}, label="Price"
    )
    clues = suggest(price, [], avoid=("text", "name")).clues
    assert all(clue.fact not in ("text", "name") for clue in clues)


words = st.sampled_from(["Menu", "Save", "Delete", "Quote", ""])
nodes = st.builds(
    lambda name, label, test_id, row, section: (name, label, test_id, row, section),
    words,
    words,
    st.sampled_from(["", "save", "menu"]),
    st.lists(st.sampled_from(["Moon jar", "Tea caddy", "7"]), max_size=2),
    st.sampled_from(["", "Quote", "Board"]),
)


@given(st.lists(nodes, min_size=1, max_size=12), st.integers(0, 11))
def test_suggested_clues_always_find_exactly_the_target(raw, pick):
    """Whatever the page holds: among all nodes, the suggested clues find the target alone."""
    page = [
        node(name=name, label=label, handle=n, row=tuple(row), section=section,
             attributes={"data-testid": test_id} if test_id else {})
        for n, (name, label, test_id, row, section) in enumerate(raw, 1)
    ]  # fmt: skip
    target = page[pick % len(page)]
    clues = suggest(target, page).clues
    assert matching("button", clues, page) == [target]


@given(st.text(max_size=30), st.sampled_from(["is", "contains", "starts with", "ends with"]))
def test_a_clue_made_from_a_fact_holds_for_it(text, operator):
    facts = Facts.read({"tag": "button", "role": "button", "name": text})
    clue = Clue.read({"fact": "name", "operator": operator, "value": text})
    assert clue.holds(facts) is bool(facts.name)


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        ({"fact": "name", "operator": "matches", "value": "("}, "does not compile"),
        ({"fact": "name", "operator": "resembles", "value": "x"}, "no operator"),
        ({"fact": "", "value": "x"}, "needs a fact"),
        ({"fact": "position", "value": "first"}, "not a position"),
    ],
)
def test_a_clue_that_can_never_hold_is_refused(raw, words):
    with pytest.raises(BadInput, match=words):
        Clue.read(raw)


def test_an_unknown_kind_is_refused_with_the_known_ones():
    with pytest.raises(UnknownName, match="button"):
        Element.read({"kind": "buton", "name": "x"})


def test_elements_survive_their_json():
    made = element("Price", "text", id="price", section="Quote")
    assert Element.read(made.as_json()) == made


def test_the_nearest_thing_says_what_differs():
    near = nearest_to(element("Get a quote"), [node(name="Sign out"), node(name="Get quotes")])
    assert near.facts.name == "Get quotes"
    assert near.differs == ("name is “Get a quote”, here “Get quotes”",)


def test_nothing_alike_is_nothing_near():
    assert nearest_to(element("Get a quote"), [node(name="Zzz", tag="table")]) is None


def test_huge_and_odd_facts_are_cut_and_tidied():
    facts = Facts.read({"tag": "P", "text": "a " * 100_000, "attributes": None, "box": None})
    assert facts.tag == "p"
    assert len(facts.text) <= LONGEST


@given(st.text(max_size=200), st.text(max_size=80))
def test_a_proposed_name_is_never_empty_or_long(text, label):
    name = propose_name(Facts.read({"tag": "span", "text": text, "label": label}))
    assert 0 < len(name) <= 60
