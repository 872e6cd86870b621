"""In what two texts differ: letter by letter, and as numbers, money and dates."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.review.differences import (
    difference,
    numbers_in,
    only_written_otherwise,
    told,
)


@pytest.mark.parametrize(
    ("expected", "found", "words"),
    [
        ("€ 7.25", "€ 7.30", "€ 7.30 is € 0.05 more."),
        ("€ 1,250.00", "€ 1,200.00", "€ 1200.00 is € 50.00 less."),
        ("12 pieces", "11 pieces", "11 is 1 less."),
        ("2026-11-28", "2026-12-01", "2026-12-01 is 3 days later."),
        ("Fired on 5.3.2026", "Fired on 4.3.2026", "2026-03-04 is 1 day earlier."),
        ("Moon jar", "Moon Jar", "Only capital letters differ."),
        ("Moon jar", "Moon  jar ", "Only spaces differ."),
        ("€ 5.40", "€ 5,40", "It says the same and is only written otherwise."),
        ("Moon jar", "Moon jars", "It goes on with “s”."),
        ("Moon jar", "Moon", "“ jar” is missing at its end."),
        ("Moon jar", "", "Nothing was there."),
        ("Moon jar", "Tea caddy", ""),
        ("2 of 3", "4 of 5", ""),
        ("Moon jar", "Moon jar", ""),
    ],
)
def test_a_difference_is_told_as_what_it_is(expected, found, words):
    assert told(expected, found) == words


def test_the_letters_that_differ_are_marked():
    made = difference("€ 7.25", "€ 7.30")
    assert [(one.text, one.same) for one in made.expected] == [("€ 7.", True), ("25", False)]
    assert [(one.text, one.same) for one in made.found] == [("€ 7.", True), ("30", False)]


@given(st.text(max_size=300), st.text(max_size=300))
def test_the_pieces_are_the_whole_text_and_what_is_the_same_is_in_both(expected, found):
    made = difference(expected, found)
    assert "".join(one.text for one in made.expected) == expected
    assert "".join(one.text for one in made.found) == found
    same = ["".join(one.text for one in side if one.same) for side in (made.expected, made.found)]
    assert same[0] == same[1]


def test_long_texts_are_held_against_each_other_by_words_and_quickly():
    text = " ".join(f"word{n}" for n in range(3000))
    made = difference(text, text.replace("word1500", "other"))
    assert [one.text for one in made.found if not one.same] == ["other"]


def test_texts_that_differ_far_behind_differ_by_more_than_spaces():
    text = "clay " * 200
    assert told(text + "Moon", text + "jar") == ""


@pytest.mark.parametrize("letters", ["ab", "a ", "1,"])
def test_megabytes_that_a_page_shows_are_told_apart_in_no_time(letters):
    long = letters * 300_000
    made = difference("x" + long, long + "y")
    assert "".join(one.text for one in made.found) == long + "y"


def test_numbers_are_read_however_they_are_written():
    assert [str(one) for one in numbers_in("€ 1.234,50 and 1,234.50")] == ["1234.50", "1234.50"]
    assert only_written_otherwise("€ 5.40", "€ 5,40")
    assert not only_written_otherwise("€ 5.40", "€ 5.45")
    assert not only_written_otherwise("€ 5.40", "€ 54.0")
