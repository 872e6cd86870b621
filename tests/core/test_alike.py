"""Likely the same: what pages showed and said decides, not which test it was."""

from hypothesis import given
from hypothesis import strategies as st

from lantern.core.elements.facts import Facts
from lantern.core.review.alike import LIKELY, Shown, likeness, shown
from lantern.core.review.defects import Failure


def failure(sentence="Press Book this firing", message="Nothing came of it", reason="timed out"):
    return Failure("1", "s1", sentence, reason, message, "", "")


def page(*said, more=("Ask for a firing", "Clay", "Cone")):
    texts = [Facts("p", text=text) for text in more]
    return [*texts, *(Facts("p", role="alert", text=text) for text in said)]


OVEN = "The oven controller does not answer (code 17)."


def test_what_the_page_said_makes_two_failures_of_other_tests_alike():
    one = shown(failure(), "Quote - Kiln Desk", page(OVEN))
    other = shown(
        failure("Check that Price is € 5.40", "The text “Price” was not on the page"),
        "Quote - Kiln Desk",
        page(OVEN.replace("17", "18")),
    )
    share, why = likeness(one, other)
    assert share >= LIKELY
    assert "the page said “The oven controller does not answer (code #).” both times" in why
    assert "on the page “Quote - Kiln Desk”" in why


def test_the_same_words_of_a_failure_on_another_page_are_not_enough():
    one = shown(failure(), "Quote", page("Out of clay"))
    other = shown(failure(), "Shelves", page("The door is open", more=("Load", "Top shelf")))
    assert likeness(one, other)[0] < LIKELY


def test_without_a_page_words_and_reason_decide():
    assert likeness(shown(failure()), shown(failure()))[0] == 1.0
    other = shown(failure(message="The list has no option “Gloss”", reason="no such option"))
    assert likeness(shown(failure()), other)[0] < LIKELY


lines = st.frozensets(st.text(min_size=2, max_size=8), max_size=4)
sights = st.builds(Shown, st.sampled_from(["a", "b"]), st.text(max_size=20),
                   st.sampled_from(["", "Quote", "Board"]), lines, lines)  # fmt: skip


@given(sights, sights)
def test_likeness_is_a_share_the_same_both_ways_and_whole_for_oneself(one, other):
    share = likeness(one, other)[0]
    assert 0.0 <= share <= 1.0
    assert share == likeness(other, one)[0]
    assert likeness(one, one)[0] == 1.0
    assert Shown.read(one.write()) == one
