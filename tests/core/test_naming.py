"""Names as a person would say them, and what makers' names are worth."""

import pytest

from lantern.core.elements.facts import Facts
from lantern.core.elements.generated import as_words, tells_what
from lantern.core.elements.naming import propose_name
from lantern.core.recording.proposals import propose
from tests.core.samples import node


@pytest.mark.parametrize(
    ("facts", "name"),
    [
        (node("input", "", label="Piece name:"), "Piece name"),
        (Facts("div", "combobox", text="Porcelain", label="Clay"), "Clay"),
        (Facts("div", "combobox", text="Porcelain", attributes={"id": "clay-list"}), "clay-list"),
        (Facts("input", "textbox", column="Pieces"), "Pieces"),
        (Facts("li", text="Tools Rib Wire", own="Tools", parts=1), "Tools"),
        (Facts("ul", text="Bowl Cup Plate", parts=3, section="Waiting", grouped=True), "Waiting"),
        (Facts("ul", text="Bowl Cup Plate", parts=3, section="Quote"), "list in Quote"),
        (Facts("form", text="Piece Clay Cone Book it", parts=4, section="Quote"), "form in Quote"),
        (Facts("div", text="Too hot. Too many.", parts=2, section="Quote"), "box in Quote"),
        (Facts("svg", attributes={"class": "icon-lg menuHeart css-1x2y3z"}), "menu heart"),
        (Facts("td", text="15", calendar=True), "Day 15"),
        (Facts("td", text="15", calendar=True, attributes={"title": "2027-03-15"}), "2027-03-15"),
        (Facts("span", text="17 Glaze class", calendar=True,
               attributes={"data-date": "2027-03-17"}), "2027-03-17"),
        (Facts("input", "textbox", section="House rules"), "text box in House rules"),
        (Facts("canvas", after="Firing curve"), "picture after Firing curve"),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)  # fmt: skip
def test_a_name_says_what_it_is_not_what_it_holds(facts, name):
    assert propose_name(facts) == name


@pytest.mark.parametrize("word", ["kiln-card", "search-field", "menuHeart", "tree-switcher"])
def test_a_class_that_says_what_a_thing_is(word):
    assert tells_what(word)


@pytest.mark.parametrize(
    "word", ["is-open", "active", "Mui-focusVisible", "css-1x2y3z", "btn", "md:flex", "p-2", "row"]
)
def test_a_class_of_a_state_a_look_or_a_program_says_nothing(word):
    assert not tells_what(word)


def test_makers_names_read_as_words():
    assert as_words("kiln-card__menuIcon") == "kiln card menu icon"


def test_a_message_whose_text_is_checked_is_not_named_by_that_text():
    """Two different messages in one place are one element, or a check could never differ."""
    saved, refused = (
        propose(node("p", "", 1, role="status", text=text), (), "Quote", ("text", "name"))
        for text in ("Your firing is booked", "We can not take these pieces")
    )
    assert saved.name == refused.name == "message"
    saved, refused = (
        propose(node("p", "", 1, text=text, section="Quote"), (), "Quote", ("text", "name"))
        for text in ("Your firing is booked", "We can not take these pieces")
    )
    assert saved.name == refused.name == "text in Quote"
    assert propose(node("p", "", 1, role="status", text="Booked"), (), "Quote").name == "Booked"
