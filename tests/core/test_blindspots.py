"""Blind spots: what changes of a page, and which sentences would notice."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Box, Facts
from lantern.core.elements.suggesting import suggest
from lantern.core.review.blind.changes import (
    Change,
    carried_out,
    changes,
    other_value,
    other_words,
    row_sets,
)
from lantern.core.review.blind.sight import Moment, Sentence, blind_checks, noticed
from lantern.core.review.blind.spots import Seen, look
from lantern.core.review.blind.tree import Tree
from lantern.core.steps.properties import avoided


def page():
    """A quote with its price, and a board of three firings in a table."""
    cells = [("Moon jar", "€ 5.40"), ("Tea caddy", "€ 6.10"), ("Ash tile", "€ 6.10")]
    table = 5
    said = " ".join(f"{piece} {price}" for piece, price in cells)
    nodes = [
        Facts("h1", role="heading", name="Quote", text="Quote", path="main > h1"),
        Facts("label", text="Pieces", path="main > label"),
        Facts("input", role="spinbutton", name="Pieces", label="Pieces", path="main > input",
              attributes={"type": "number"}, section="Quote"),
        Facts("output", role="status", text="€ 18.20", path="main > output"),
        Facts("table", role="table", name="Firings", text=f"Piece Price {said}", path="main > #t"),
        Facts("th", role="columnheader", name="Piece", text="Piece", inside=table, in_row=6),
        Facts("th", role="columnheader", name="Price", text="Price", inside=table, in_row=6),
    ]  # fmt: skip
    for number, (piece, price) in enumerate(cells):
        for column, text, other in (("Piece", piece, price), ("Price", price, piece)):
            head = "Price" if column == "Piece" else "Piece"
            nodes.append(
                Facts(
                    "td", role="cell", name=text, text=text, column=column, row=(other,),
                    cells={head: other}, inside=table, in_row=8 + 2 * number,
                    path=f"main > table > tr:nth-of-type({number + 2}) > td.{column}",
                )
            )  # fmt: skip
    nodes.append(Facts("button", role="button", name="Ask", text="Ask", path="main > button"))
    return tuple(
        replace(one, order=place, handle=place + 1, box=Box(10, 20 * place, 80, 18))
        for place, one in enumerate(nodes)
    )


NODES = page()
FIRINGS = Element("firings", "Firings", "table", (Clue("name", "is", "Firings"),))
PRICE = Element("price", "Price", "text", (Clue("role", "is", "status"),))
ASK = Element("ask", "Ask", "button", (Clue("name", "is", "Ask"),))
PIECES = Element("pieces", "Pieces", "text box", (Clue("label", "is", "Pieces"),))
CADDY = Element(
    "caddy", "Price", "text", (Clue("column", "is", "Price"), Clue("row", "contains", "Tea caddy"))
)


def check(element, prop="text", comparison="is", expected="", found=""):
    inputs = {"property": prop, "comparison": comparison, "expected": expected}
    return Sentence(
        f"{element.id}-{prop}", "Check it", "check", element, inputs=inputs, found=found
    )


def sees(change, *sentences):
    moment = Moment(1, NODES, sentences)
    assert len(moment.judged) == len(sentences), "they hold on the page as it is"
    by = noticed(moment, carried_out(moment.tree, change))
    return by.id if by else ""


def that(kind, words, place=0):
    """The change of that kind of what says these words."""
    found = [one for one in changes(Tree(NODES)) if one.kind == kind and words in one.before]
    return found[place]


ALL = (
    check(PRICE, expected="€ 18.20"),
    check(FIRINGS, "number of rows", expected="3", found="3"),
    check(CADDY, expected="€ 6.10"),
    Sentence("press", "Press Ask", "press", ASK),
    Sentence("type", "Type 3 into Pieces", "type", PIECES, inputs={"text": "3"}),
)


@pytest.mark.parametrize(
    ("kind", "words", "by"),
    [
        ("message", "€ 18.20", "price-text"),
        ("value", "€ 5.40", ""),
        ("value", "€ 6.10", "caddy-text"),
        ("text", "Tea caddy", "caddy-text"),
        ("text", "Quote", ""),
        ("text", "Pieces", "type"),
        ("text", "Ash tile", ""),
        ("row", "Moon jar", "firings-number of rows"),
        ("count", "Ash tile", "firings-number of rows"),
        ("order", "Moon jar", ""),
        ("presence", "Ask", "press"),
        ("presence", "Quote", ""),
        ("state", "Ask", "press"),
        ("state", "Pieces", "type"),
    ],
)
def test_a_change_is_noticed_by_the_sentence_that_looks_there(kind, words, by):
    assert sees(that(kind, words), *ALL) == by


def test_what_says_something_else_does_so_in_all_that_repeats_it():
    tree = Tree(NODES)
    now = carried_out(tree, that("value", "€ 6.10", 1))  # of the ash tile, the second that says so
    table = next(one for one in NODES if one.tag == "table")
    assert now[table.handle].text.endswith("Tea caddy € 6.10 Ash tile € 6.11")
    tile = next(one for one in NODES if one.text == "Ash tile")
    assert now[tile.handle].row == ("€ 6.11",)
    assert now[tile.handle].cells == {"Price": "€ 6.11"}
    label = carried_out(tree, that("text", "Pieces"))
    field = next(one for one in NODES if one.tag == "input")
    assert label[field.handle].label == label[field.handle].name == "Otherwise"


def test_a_cell_of_a_table_and_a_part_of_its_text_are_read_from_the_changed_page():
    cell = check(FIRINGS, "cell Price where Piece is Tea caddy", expected="€ 6.10")
    assert sees(that("value", "€ 6.10"), cell)
    assert not sees(that("value", "€ 5.40"), cell)
    part = check(FIRINGS, comparison="contains", expected="Moon jar € 5.40")
    assert sees(that("value", "€ 5.40"), part)
    assert sees(that("row", "Moon jar"), part)
    assert sees(that("order", "Moon jar"), check(FIRINGS, expected=NODES[4].text))


def test_what_is_kept_notices_only_where_it_is_compared_later():
    inputs = {"property": "text", "name": "price"}
    kept = Sentence("keep", "Keep it", "keep", PRICE, inputs=inputs, found="€ 18.20", keeps="price")
    change = that("message", "€ 18.20")
    assert not sees(change, kept)
    assert sees(change, replace(kept, matters=True)) == "keep"
    # Held against the same thing it is the same again; held against another one it is not.
    same = replace(check(PRICE, expected="€ 18.20"), raw={"expected": "${kept.price}"})
    assert not sees(change, kept, same)
    title = check(FIRINGS, "number of rows", expected="3", found="3")
    assert not sees(change, kept, title)


def test_an_outcome_is_noticed_and_a_refusal_that_is_expected_passes_either_way():
    refusal = Element("no", "Refusal", "text", (Clue("role", "is", "alert"),))
    outcome = Sentence(
        "out", "Check it", "check outcome", PRICE, refusal, inputs={"expected": "€ 18.20"}
    )
    assert sees(that("message", "€ 18.20"), outcome) == "out"
    assert not sees(that("text", "Quote"), outcome)


def test_a_check_that_can_never_fail_is_named_with_the_reason():
    begins = check(PRICE, comparison="starts with", expected="€", found="€ 18.20")
    itself = check(
        Element("own", "Price", "text", (Clue("text", "is", "€ 18.20"),)), expected="€ 18.20"
    )
    least = check(FIRINGS, "number of rows", "is at least", "1", found="3")
    fine = check(CADDY, expected="€ 6.10")
    part = check(FIRINGS, comparison="contains", expected="Tea caddy")
    told = blind_checks([Moment(1, NODES, (begins, itself, least, fine, part))])
    assert set(told) == {"price-text", "own-text"}
    assert "both pass" in told["price-text"]
    assert "this very text" in told["own-text"]


def test_each_blind_spot_offers_the_check_that_would_notice_it():
    found = look([Seen("Quote", (Moment(1, NODES, (check(PRICE, expected="€ 18.20"),)),))])
    blind = [one for one in found.spots if one.blind]
    assert blind
    assert found.share < 1
    for spot in blind:
        node = spot.moment.tree.by[spot.offer.node]
        kind = spot.moment.tree.kinds[node.handle]
        avoid = avoided(kind, spot.offer.property)
        clues = suggest(node, NODES, avoid=avoid).clues  # as it is learned when it is added
        added = Sentence(
            "new", "Check it", "check", Element("new", "It", kind, clues),
            inputs={"property": spot.offer.property, "comparison": "is",
                    "expected": spot.offer.expected.replace("$$", "$")},
            found=spot.offer.expected,
        )  # fmt: skip
        moment = replace(spot.moment, sentences=(added,))
        assert moment.judged, spot
        assert noticed(moment, carried_out(moment.tree, spot.change)), spot


def test_what_differs_between_rows_weighs_more_and_is_expected_from_its_column():
    other = tuple(replace(one, text="€ 9.00") if one.tag == "output" else one for one in NODES)
    moment = Moment(1, NODES, ())
    seen = Seen("Quote", (moment,), (Moment(2, other),), {"price": "€ 18.20"})
    spots = {(one.change.kind, one.change.before): one for one in look([seen]).spots}
    price = spots["message", "€ 18.20"]
    assert price.change.depends
    assert price.change.weight == 9
    assert price.offer.expected == "${row.price}"
    assert not spots["value", "€ 5.40"].change.depends
    # With one row only, what shows one of its values is taken to follow it.
    alone = look([replace(seen, others=())]).spots
    assert [one.change.before for one in alone if one.change.depends] == ["€ 18.20"]


def test_a_sentence_that_does_not_hold_on_the_kept_page_is_told_apart():
    wrong = check(PRICE, expected="€ 1.00")
    found = look([Seen("Quote", (Moment(1, NODES, (wrong,)),))])
    assert [one.id for one in found.untried] == ["price-text"]


def test_the_same_thing_at_two_moments_is_one_and_either_may_notice():
    first, second = Moment(1, NODES, ()), Moment(2, NODES, (check(PRICE, expected="€ 18.20"),))
    found = look([Seen("Quote", (first, second))])
    assert len(found.spots) == len(changes(first.tree))
    price = next(one for one in found.spots if one.change.kind == "message")
    assert price.by
    assert price.moment is second


def test_a_row_that_is_alone_at_a_later_moment_is_looked_for_there_as_well():
    few = [one for one in NODES if not one.in_row or one.in_row in (6, 8)]
    later = Moment(2, tuple(few), (check(FIRINGS, "number of rows", expected="1", found="1"),))
    found = look([Seen("Quote", (Moment(1, NODES, ()), later))])
    rows = {one.change.before: one for one in found.spots if one.change.kind == "row"}
    assert rows["Moon jar · € 5.40"].by
    assert row_sets(later.tree) == []


def test_a_page_may_nest_deeply_and_say_of_itself_what_can_not_be():
    deep = tuple(
        Facts(
            "div",
            text="Moon jar 5",
            own="Moon jar 5",
            inside=n,
            handle=n + 1,
            order=n,
            path=f"d{n}",
        )
        for n in range(3000)
    )
    tree = Tree(deep)
    assert len(list(tree.within(1))) == 2999
    [change] = [one for one in changes(tree) if one.kind == "value"]
    now = carried_out(tree, change)
    assert len(now) == 3000
    assert {one.text for one in now.values()} == {"Moon jar 6"}
    # A node that is said to be inside itself, or inside a later one, is inside none.
    odd = [Facts("p", text="One", inside=1, handle=1), Facts("p", text="Two", inside=3, handle=2),
           Facts("p", text="Three", inside=2, handle=3)]  # fmt: skip
    assert [one.handle for one in Tree(odd).around(3)] == [3, 2]
    assert list(Tree(odd).within(1)) == []


def test_headers_are_no_rows_and_a_lone_row_is_no_set():
    assert row_sets(Tree(NODES)) == [[8, 10, 12]]
    assert row_sets(Tree(NODES[:9])) == []


@given(st.text(min_size=1, max_size=40))
def test_another_text_is_never_the_same(text):
    assert other_words(text) != text
    if any(c.isdecimal() and c.isascii() for c in text):
        assert other_value(text) != text
        assert len(other_value(text)) == len(text)


@given(st.data())
def test_a_change_leaves_all_but_what_repeats_it_as_it_was(data):
    tree = Tree(NODES)
    change = data.draw(st.sampled_from(changes(tree)))
    assert isinstance(change, Change)
    after = {one.handle: one for one in tree.with_changes(carried_out(tree, change))}
    gone = tree.by.keys() - after.keys()
    assert bool(gone) == (change.kind == "row")
    assert any(handle < 0 for handle in after) == (change.kind == "count")
    same = [one for one in NODES if after.get(one.handle) == one]
    assert len(same) < len(NODES)
    assert NODES[-1] in same or "Ask" in change.before or change.before == "€ 6.10"
