"""The search otherwise: why a thing was not found, told from facts alone."""

from dataclasses import replace

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Box
from lantern.core.elements.suggesting import suggest
from lantern.core.engine.requests import Aimed
from lantern.core.searching.found import closer_of, higher
from lantern.core.searching.looked import Elsewhere, Looked
from lantern.core.searching.reasons import answers
from tests.core.samples import node

ask = node(name="Get a quote", handle=1, attributes={"id": "ask"}, path="main > form > button")
book = node(name="Book this firing", handle=2, attributes={"id": "book"}, path="main > button")
leave = node(name="Sign out", handle=3, attributes={"id": "leave"}, path="header > button")
PAGE = (ask, book, leave)
BOOK = Element(
    "e",
    "Book",
    "button",
    (Clue("name", "is", "Book this firing"),),
    page="Quote",
    seen=book,
    lookalikes=suggest(book, PAGE).lookalikes,
)


def looked(*nodes, element=BOOK, **more):
    """What is looked at: nodes of a page with the right title."""
    given = {"title": "Quote", "wanted_title": "Quote", "address": "http://desk/quote"} | more
    return Looked(element, tuple(nodes), **given)


def first(*nodes, **more):
    return answers(looked(*nodes, **more))[0]


def renamed(name, **more):
    return replace(book, name=name, text=name, **more)


@pytest.mark.parametrize(
    ("name", "cause"),
    [
        ("Reserve this firing", "clue"),
        ("BOOK THIS FIRING:", "case"),
        ("book  this-firing", "case"),
    ],
)
def test_a_thing_with_other_words_is_told_with_what_differs_and_its_clues(name, cause):
    answer = first(ask, renamed(name), leave)
    assert (answer.cause, answer.act) == (cause, "use clues")
    assert f"“{name}”" in answer.told
    mended = Element.read(answer.given["element"])
    assert [one.handle for one in mended.among((ask, renamed(name), leave))] == [2]


def test_another_number_is_told_as_that():
    numbered = replace(
        BOOK,
        clues=(Clue("name", "is", "Ticket 12"),),
        seen=replace(book, name="Ticket 12", text="Ticket 12"),
    )
    answer = first(ask, renamed("Ticket 31"), leave, element=numbered)
    assert answer.cause == "number"


@pytest.mark.parametrize("problem", ["hidden", "disabled", "moving", "outside"])
def test_what_is_there_but_not_ready_is_told_as_what_it_is(problem):
    aim = Aimed(2, problem=problem)
    answer = first(*PAGE, aimed=aim, watched=3.0)
    assert (answer.cause, answer.act) == (problem, "")
    assert first(*PAGE, aimed=Aimed(2), after=1.4, limit=1.0).cause == "later"


def test_what_covers_it_is_told_with_what_closes_that_first():
    notice = node("div", "Winter hours", 7, box=Box(0, 0, 900, 700), role="dialog")
    closer = node(name="Understood", handle=8, box=Box(400, 300, 90, 20))
    other = node(name="Read more", handle=9, box=Box(400, 340, 90, 20))
    aim = Aimed(2, problem="covered", by="div “Winter hours”")
    answer = first(*PAGE, closer, other, aimed=aim, cover=(notice,))
    assert (answer.cause, answer.act) == ("covered", "close first")
    assert "div “Winter hours”" in answer.told
    assert Element.read(answer.given["element"]).among((*PAGE, closer, other)) == [closer]
    assert closer_of((notice,), (other,)) == other, "the only one that can be pressed"
    assert closer_of((notice,), (other, replace(other, handle=10, name="More"))) is None


def test_of_several_the_one_that_is_where_it_was_is_the_likeliest():
    again = replace(book, handle=5, order=9, box=Box(10, 400, 80, 20))
    answer = first(ask, again, book)
    assert (answer.cause, answer.nodes[0].handle) == ("several", 2)
    assert "2 things fit" in answer.told


def test_the_page_itself_may_be_the_wrong_one():
    password = node("input", "Password", 4, attributes={"type": "password"}, role="")
    told = first(password, title="Sign in", flow_that_signs_in="7")
    assert (told.cause, told.act, told.given) == ("sign in", "sign in", {"flow": "7"})
    heading = node("h1", "Not found", 5, role="heading")
    assert first(heading, title="404 - Kiln Desk").cause == "error page"
    elsewhere = first(leave, title="Firing board")
    assert elsewhere.cause == "other page"
    assert "“Firing board”" in elsewhere.told
    causes = [one.cause for one in answers(looked(*PAGE[:1], wanted_address="http://desk/board/7"))]
    assert "other page" in causes


def test_another_window_a_dialog_and_a_limit_that_was_too_short():
    other = Elsewhere("Ticket 12", PAGE)
    window = first(leave, windows=(other,))
    assert (window.cause, window.given) == ("other window", {"window": "Ticket #"})
    dialog = first(dialog="Are you sure?")
    assert (dialog.cause, dialog.act) == ("dialog", "answer dialog")
    late = first(*PAGE, aimed=Aimed(2), after=12.0, limit=10.0)
    assert late.given == {"limit": 20.0}
    assert (higher(10, 0), higher(10, 30), higher(500, 900)) == (20.0, 45.0, 600.0)


def test_what_was_beside_it_before_is_not_taken_for_it_and_what_is_gone_is_said_to_be():
    twin = node(name="Book a shelf", handle=6, attributes={"id": "shelf"}, path="main > button")
    green = (*PAGE, twin)
    answer = first(ask, twin, leave, green=green, green_run=12)
    assert (answer.cause, answer.act) == ("gone", "raise defect")
    assert "It was there in run 12" in answer.told
    assert "did not come within 3 s" in first(ask, leave, watched=3.2).told


def test_a_thing_of_another_kind_is_told_and_words_alone_are_named():
    link = node("a", "Book this firing", 2, attributes={"id": "book"}, path="main > a")
    unknown = replace(BOOK, clues=(Clue("id", "is", "book"),), seen=None)
    assert any(one.cause == "kind" for one in answers(looked(ask, link, element=unknown)))
    text = node("p", "", 8, text="Book this firing", own="Book this firing", role="")
    assert any(one.cause == "text" for one in answers(looked(ask, text)))


def test_each_clue_is_left_out_and_made_looser_and_spare_ones_are_tried():
    two = replace(BOOK, clues=(Clue("id", "is", "book"), Clue("section", "is", "Quote")), seen=None)
    told = [one.told for one in answers(looked(*PAGE, element=two))]
    assert any("inside “Quote”" in one for one in told)
    spare = replace(
        BOOK,
        clues=(Clue("test id", "is", "book-it"),),
        spare=(Clue("id", "is", "book"),),
        seen=None,
    )
    found = answers(looked(*PAGE, element=spare))
    assert any(one.nodes and one.nodes[0].handle == 2 for one in found)


def test_what_is_found_and_ready_has_no_reason():
    assert [one.cause for one in answers(looked(*PAGE, aimed=Aimed(2)))] == []


def test_what_is_hidden_and_lost_its_name_with_that_is_told_as_hidden():
    hidden = replace(book, name="", text="", visible=False)
    assert first(ask, hidden, leave).cause == "hidden"


def test_a_sign_in_page_is_told_also_where_the_page_that_is_wanted_asks_for_a_password():
    password = node("input", "Password", 4, attributes={"type": "password"}, role="")
    told = first(password, title="Sign in", green=(*PAGE, password))
    assert told.cause == "sign in"


def test_clues_that_were_changed_do_not_make_the_thing_itself_another():
    changed = replace(BOOK, clues=(Clue("name", "is", "Ask for the firing"),))
    told = first(*PAGE, element=changed, green=PAGE, green_run=3)
    assert (told.cause, told.nodes[0].handle) == ("clue", 2)
    assert told.share > 0.8
