"""A visit after a release: what is lost is told, what only needs something done first is not."""

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Facts
from lantern.core.review.visits import nearest, visited

ASK = Element("ask", "Get a quote", "button", (Clue("id", "is", "ask"),))
PRICE = Element("price", "Price", "text", (Clue("id", "is", "price"),))
PIECE = Element("piece", "Piece name", "text box", (Clue("label", "is", "Piece name"),))


def node(tag, order, text="", **more):
    attributes = {key: value for key, value in more.items() if key == "id"}
    facts = {key: value for key, value in more.items() if key != "id"}
    return Facts(tag, text=text, name=text, order=order, handle=order + 1,
                 attributes=attributes, **facts)  # fmt: skip


def form(*more, ask="ask", title="Ask for a firing"):
    return [
        node("h1", 0, title, role="heading"),
        node("input", 1, role="textbox", label="Piece name", id="piece"),
        node("button", 2, "Get a quote", role="button", id=ask),
        *more,
    ]


def priced():
    return form(node("p", 3, "Your price"), node("output", 4, "€ 5.40", role="status", id="price"))


def test_what_was_found_and_is_not_any_more_is_lost_with_what_it_could_be():
    told = visited(form(ask="b-17"), [form()], [ASK, PIECE])
    by_name = {one.name: one for one in told.met}
    assert by_name["Get a quote"].lost
    assert by_name["Get a quote"].proposal.facts.text == "Get a quote"
    assert not by_name["Piece name"].lost
    assert told.changed
    assert (told.new, told.gone) == ([], [])


def test_what_shows_only_after_something_is_done_is_not_lost():
    """The page was kept before the quote and after it; a visit sees what there was before."""
    told = visited(form(), [priced(), form()], [ASK, PRICE])
    assert not any(one.lost for one in told.met)
    assert not told.changed


def test_texts_that_came_and_went_are_told_with_numbers_open():
    told = visited(form(title="Plan firing 7"), [form(title="Plan firing 6")], [])
    assert not told.changed
    told = visited(form(title="Plan a firing"), [form()], [])
    assert (list(told.new), list(told.gone)) == (["Plan a firing"], ["Ask for a firing"])


def test_several_where_one_was_is_lost_too():
    twice = [*form(), node("button", 9, "Get a quote", role="button", id="ask")]
    [met] = visited(twice, [form()], [ASK]).met
    assert (met.lost, met.count) == (True, 2)


@pytest.mark.parametrize("before", [[], [[]]], ids=["never kept", "kept empty"])
def test_without_anything_kept_before_nothing_is_called_lost(before):
    told = visited(form(ask="other"), before, [ASK])
    assert not told.met[0].lost
    assert told.known is bool(before)


def test_the_page_that_is_most_like_it_is_taken():
    assert nearest(form(), [priced(), form()]) == form()
    assert nearest(form(), []) is None


def test_a_text_that_changes_is_told_as_its_part_alone():
    def page(text):
        return [
            node("section", 0, f"Quote {text} Book"),
            Facts("output", text=text, order=1, handle=2, inside=1),
            Facts("button", role="button", text="Book", order=2, handle=3, inside=1),
        ]

    told = visited(page("€ five"), [page("€ six")], [])
    assert (list(told.new), list(told.gone)) == (["€ five"], ["€ six"])
