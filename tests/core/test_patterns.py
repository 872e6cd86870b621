"""Regular expressions of people: what they match, and what becomes of impossible ones."""

import pytest

from lantern.core.elements.clues import Clue
from lantern.core.elements.facts import Facts
from lantern.core.patterns import check_pattern, fullmatch, matches
from lantern.core.problems import BadInput


@pytest.mark.parametrize(
    ("text", "pattern", "loose", "wanted"),
    [
        ("Firing no. 12", r"^Firing no\. \d+$", False, True),
        ("Firing no. x", r"^Firing no\. \d+$", False, False),
        ("MOON JAR", "moon", False, False),
        ("MOON JAR", "moon", True, True),
    ],
)
def test_a_pattern_is_searched_for(text, pattern, loose, wanted):
    assert matches(text, pattern, loose=loose) is wanted


def test_a_whole_match_needs_every_letter():
    assert fullmatch("K-123", r"K-\d+")
    assert not fullmatch("K-123 x", r"K-\d+")


def test_what_does_not_compile_is_said_with_its_place():
    with pytest.raises(BadInput, match="does not compile") as said:
        check_pattern("(jar", "name")
    assert said.value.where == "name"


def test_a_pattern_that_would_never_end_is_broken_off():
    with pytest.raises(BadInput, match="takes too long") as said:
        matches("a" * 60 + "!", "^(a|aa)+$")
    assert "(a+)+" in said.value.hint


def test_a_clue_with_such_a_pattern_says_so_too():
    clue = Clue("name", "matches", "^(a|aa)+$")
    with pytest.raises(BadInput, match="takes too long"):
        clue.holds(Facts.read({"name": "a" * 60 + "!"}))
