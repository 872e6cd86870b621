"""Telling a thing from its likes: patterns, likeness, proposals, strength, verdicts."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lantern.core.elements.clues import Clue, Element, loosened, matching
from lantern.core.elements.facts import Box, Facts
from lantern.core.elements.generated import how_made, pattern_of
from lantern.core.elements.repair import (
    contradicts,
    doubted,
    found_by,
    propose,
    repaired,
    verdict,
)
from lantern.core.elements.strength import MUTATIONS, Worlds, strength, stronger
from lantern.core.elements.suggesting import suggest
from lantern.core.problems import BadInput
from tests.core.samples import node


@pytest.mark.parametrize(
    ("name", "made"),
    [
        ("piece_name", ""), ("quote-form", ""), ("row-7", "counted"), ("line2", "counted"),
        ("css-1x2y3z", "noise"), (":r1:", "noise"), ("f-1", "noise"), ("a1b2c3d4", "noise"),
        ("3f2504e0-4f89-11d3", "noise"), ("x-20270531", "noise"), ("sc-bdVaJa", "noise"),
    ],
)  # fmt: skip
def test_names_that_programs_make_are_told_from_chosen_ones(name, made):
    assert how_made(name) == made


@pytest.mark.parametrize(
    ("text", "pattern"),
    [
        ("Firing no. 5", r"^Firing no\. \d+$"), ("€ 5.40", r"^€ \d+\.\d+$"),
        ("Inbox (3)", r"^Inbox \(\d+\)$"), ("12", ""), ("Save", ""), ("5" * 90 + "aa", ""),
    ],
)  # fmt: skip
def test_a_text_with_a_number_gets_a_pattern_in_which_it_is_open(text, pattern):
    assert pattern_of(text) == pattern


def test_a_numbered_title_is_recognised_by_its_pattern():
    title = node("h1", "Firing no. 5", 1, role="heading")
    other = node("h1", "Recipes", 2, role="heading")
    [clue] = suggest(title, [other]).clues
    assert clue.operator == "matches"
    assert clue.holds(replace(title, name="Firing no. 12"))


@given(st.text("abcXYZ 12-_", min_size=1).filter(lambda text: any(map(str.isalnum, text))))
def test_a_text_is_the_same_in_capitals_with_spaces_and_closing_marks(text):
    assert loosened(f"  {text.upper()} : ") == loosened(text)


@pytest.mark.parametrize("words", ["Piece name:", "PIECE NAME", "piece-name", " Piece  name *"])
def test_case_spacing_and_closing_marks_do_not_matter_when_loose(words):
    assert Clue("label", "is", "Piece name", loose=True).holds(Facts("input", label=words))


ROW = [
    replace(node("button", "Menu", n), box=Box(x, y, 40, 20), order=n)
    for n, (x, y) in enumerate([(0, 500), (700, 10), (300, 200)])
]


@pytest.mark.parametrize(
    ("place", "handles"),
    [
        ("1", [0]), ("2 from the end", [1]), ("1 from the top", [1]), ("2 from the left", [2]),
        ("in the top right", [1]), ("in the left", [0, 2]), ("9", []),
    ],
)  # fmt: skip
def test_positions(place, handles):
    found = matching("button", [Clue("position", "is", place)], ROW)
    assert [facts.handle for facts in found] == handles


@pytest.mark.parametrize("place", ["", "0", "first", "in the", "2 from the moon"])
def test_a_position_that_makes_no_sense_is_refused(place):
    with pytest.raises(BadInput, match="not a position"):
        Clue.read({"fact": "position", "value": place})


def test_a_wrapper_that_repeats_a_text_is_no_second_thing():
    outer = node("td", "€ 5.40", 1, role="cell", path="tr > td")
    inner = node("b", "", 2, role="", text="€ 5.40", path="tr > td > b")
    clues = [Clue("text", "is", "€ 5.40")]
    assert matching("text", clues, [outer, inner]) == [outer]
    assert matching("text", clues, [outer, inner], prefer="b") == [inner]


def page():
    """A small page: a form, a menu in each of four rows."""
    words = ("Piece name", "Clay", "Cone", "Number of pieces")
    fields = [
        node("input", label, n, label=label, section="Ask for a firing",
             attributes={"id": label.split()[0].lower(), "name": f"f_{n}", "type": "text"})
        for n, label in enumerate(words, 1)
    ]  # fmt: skip
    pieces = ("Moon jar", "Tea caddy", "Garden lantern", "Roof finial")
    menus = [
        node("button", "Menu", n, row=(piece,), cells={"Piece": piece}, section="Firing board")
        for n, piece in enumerate(pieces, 10)
    ]
    return [*fields, *menus, node("button", "Get a quote", 20, attributes={"id": "ask"})]


def learned(handle):
    nodes = page()
    target = next(facts for facts in nodes if facts.handle == handle)
    suggestion = suggest(target, nodes)
    return Element(
        "e", "It", "text box" if target.tag == "input" else "button", suggestion.clues,
        suggestion.spare, "Quote", target, suggestion.lookalikes,
    )  # fmt: skip


def redesigned():
    """The page after a redesign: ids and order changed, one label reworded."""
    fresh = []
    for n, facts in enumerate(reversed(page())):
        label = "Name of the piece" if facts.label == "Piece name" else facts.label
        attributes = {**facts.attributes, "id": f"x-{n}f3a"}
        attributes.pop("name", None)
        name = label if facts.tag == "input" else facts.name
        fresh.append(replace(facts, label=label, name=name, attributes=attributes, order=n))
    return fresh


def test_what_was_reworded_is_proposed_first_with_what_agrees_and_differs():
    best, *rest = propose(learned(1), redesigned())
    assert best.facts.handle == 1
    assert any("Name of the piece" in words for words in best.differs + best.agrees)
    assert all(one.score <= best.score for one in rest)


@pytest.mark.parametrize("handle", [facts.handle for facts in page()])
def test_what_is_gone_gets_no_proposal_that_scores_high(handle):
    nodes = [facts for facts in redesigned() if facts.handle != handle]
    assert not any(one.high for one in propose(learned(handle), nodes))


def test_scores_are_shares_of_one():
    scores = [one.score for one in propose(learned(10), redesigned())]
    assert min(scores, default=0) >= 0
    assert sum(scores) <= 1.001


def test_accepting_a_repair_keeps_id_and_name():
    element, nodes = learned(1), redesigned()
    target = next(facts for facts in nodes if facts.handle == 1)
    after = repaired(element, target, nodes)
    assert (after.id, after.name) == (element.id, element.name)
    assert [facts.handle for facts in after.among(nodes)] == [1]


def test_verdicts():
    element, nodes = learned(20), page()
    assert verdict(element, nodes).word == "finds it"
    assert verdict(element, nodes, meant=3).word == "finds another one"
    assert verdict(replace(element, clues=()), nodes).word == "finds several"
    gone = replace(element, clues=(Clue("name", "is", "Sell"),))
    assert verdict(gone, nodes).word == "finds nothing"


def test_weak_clues_that_lead_to_a_known_other_thing_are_not_trusted():
    element = learned(10)
    by_place = replace(element, clues=(Clue("path", "is", "body > button"),))
    other = replace(next(f for f in page() if f.handle == 11), path="body > button")
    assert doubted(by_place, other, page())
    assert not doubted(element, other, page())  # a name or a row that holds is no weak clue


def test_strength_is_a_share_that_the_same_seed_gives_again():
    nodes = page()
    weak = [Clue("position", "is", "9")]
    strong = [Clue("name", "is", "Get a quote", loose=True)]
    first, again = (strength("button", strong, nodes, 20) for _ in range(2))
    assert first == again
    assert 0 <= strength("button", weak, nodes, 20).share < first.share <= 1
    assert first.weakest == "its text is reworded"


def test_a_change_weakens_what_it_can_befall_and_is_counted_once():
    heading = node("h1", "Quote", 1, role="heading")
    field = node("input", "Piece", 2, label="Piece", box=Box(10, 90, 80, 20))
    nodes = [heading, field]
    lost = strength("heading", [Clue("name", "is", "Quote", loose=True)], nodes, 1).lost
    assert "its words appear elsewhere as well" in lost
    lost = strength("text box", [Clue("label", "is", "Piece")], nodes, 2).lost
    assert "its text is reworded" in lost
    assert "its label is reworded" not in lost, "the label is what it is called"


@pytest.mark.parametrize("mutation", MUTATIONS, ids=lambda one: one.name)
@settings(max_examples=12)
@given(seed=st.integers(0, 99), place=st.integers(0, 8))
def test_every_mutation_keeps_the_target_and_loses_no_other_node(mutation, seed, place):
    import random

    nodes = page()
    handles = {facts.handle for facts in nodes}
    changed = mutation.apply(list(nodes), place, random.Random(seed))
    assert handles <= {facts.handle for facts in changed}


def test_a_stronger_set_is_found_among_the_clues_at_hand():
    element = replace(
        learned(20),
        clues=(Clue("position", "is", "5"),),
        spare=(Clue("name", "is", "Get a quote"),),
    )
    clues, its = stronger(element, page(), Worlds(page(), 20), 20)
    assert its.share > strength("button", element.clues, page(), 20).share
    assert Clue("name", "is", "Get a quote") in clues


def test_a_page_with_addresses_that_are_none_is_looked_at_all_the_same():
    nodes = [
        replace(facts, attributes={**facts.attributes, "href": "http://[::1"}) for facts in page()
    ]
    assert propose(learned(10), nodes)


def test_elements_survive_being_written_and_read():
    element = learned(10)
    again = Element.read(element.as_json())
    assert again.clues == element.clues
    assert again.seen.cells == element.seen.cells
    assert len(again.lookalikes) == len(element.lookalikes)


def in_row(name, row, **more):
    return node("input", "", label="", attributes={"name": name}, row=row, **more)


def test_a_name_with_a_running_number_is_not_used_against_what_its_row_was_called():
    """After one more row was inserted, form-1-fuel is the field of another row."""
    seen = in_row("form-1-fuel", ("Tea caddy", "2.5"), handle=1)
    element = Element(
        "e", "Fuel", "text box", (Clue("field name", "is", "form-1-fuel"),), seen=seen
    )
    other = in_row("form-1-fuel", ("Moon jar", "2.5"), handle=2)
    assert "in the row of “Moon jar”; it was in that of “Tea caddy”" in contradicts(element, other)
    assert not contradicts(element, in_row("form-1-fuel", ("Tea caddy", "4"), handle=3))
    assert verdict(element, [other]).word == "finds another one"
    named = replace(element, clues=(Clue("field name", "is", "fuel"),))
    assert not contradicts(named, other)


def test_a_running_number_is_not_used_against_the_label_either():
    seen = node("input", "", label="Drop-off day", attributes={"id": "field-2"})
    element = Element("e", "Day", "text box", (Clue("id", "is", "field-2"),), seen=seen)
    assert contradicts(element, replace(seen, label="Number of pieces"))
    assert not contradicts(element, replace(seen, label="Drop off day *"))


def test_a_link_that_became_a_button_is_still_it():
    seen = node("a", "House rules", 1, section="Members", after="Board", followed="Sign out",
                attributes={"href": "/rules", "class": "navlink"}, path="nav > a")  # fmt: skip
    others = [
        node("button", name, n + 2, section="Members") for n, name in enumerate(("Add", "Go"))
    ]
    element = Element("e", "House rules", "link", (Clue("name", "is", "House rules"),), seen=seen)
    button = replace(seen, tag="button", role="button", attributes={"class": "navlink"}, handle=9)
    assert [one.handle for one in found_by(element, [button, *others])] == [9]
    assert verdict(element, [button, *others]).word == "finds it"


def test_another_thing_of_the_same_words_is_not_what_a_link_became():
    seen = node("a", "Filter", 1, section="Firings", after="Board", followed="Menu", path="nav > a",
                attributes={"href": "/filter", "class": "navlink"})  # fmt: skip
    element = Element("e", "Filter", "link", (Clue("name", "is", "Filter"),), seen=seen)
    other = node("button", "Filter", 2, section="Glazes", after="Shelf", followed="Close",
                 path="aside > form > button", attributes={"class": "wide"})  # fmt: skip
    assert found_by(element, [other]) == []


def test_what_is_not_shown_is_not_found():
    seen = node("button", "Today", 1)
    element = Element("e", "Today", "button", (Clue("name", "is", "Today"),), seen=seen)
    assert verdict(element, [replace(seen, visible=False)]).word == "is there, but not shown"
