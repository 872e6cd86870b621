"""Handing over to trackers: parts go where a mapping says, in its words, and come back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.problems import BadInput, UnknownName
from lantern.core.review.handing import (
    PARTS,
    USUAL,
    FieldMap,
    Seen,
    description,
    get,
    item_of,
    news,
    seen,
    told,
)

names = st.text("abcxyz_", min_size=1, max_size=6)
paths = st.lists(names, min_size=1, max_size=3).map(".".join)


def test_parts_go_to_their_fields_in_the_words_of_the_tracker():
    mapping = FieldMap(
        fields={"title": "fields.summary", "state": "fields.status", "severity": "weight"},
        words={"state": {"open": "To do"}, "severity": {"major": "2"}},
    )
    parts = {"title": "Wrong price", "state": "open", "severity": "minor", "notes": "not sent"}
    assert item_of(told(mapping, parts)) == {
        "fields": {"summary": "Wrong price", "status": "To do"},
        "weight": "minor",
    }


@given(st.dictionaries(paths, st.text(), max_size=5))
def test_what_stands_at_a_path_is_read_from_it(values):
    apart = {
        path: value
        for path, value in values.items()
        if not any(path != other and path.startswith(other + ".") for other in values)
    }
    item = item_of(apart)
    assert {path: get(item, path) for path in apart} == apart


@pytest.mark.parametrize(
    "item",
    [[], "text", {"id": None, "url": {"href": "x"}, "state": ["new"]}, {"state": True}],
    ids=["list", "text", "others", "yes"],
)
def test_an_answer_that_says_nothing_is_read_as_nothing(item):
    assert seen(USUAL, item) == Seen("", "", "", "")


def test_a_number_is_a_key_and_only_pages_are_led_to():
    assert seen(USUAL, {"id": 7, "url": "javascript:alert(1)"}) == Seen("7", "", "", "")
    assert seen(USUAL, {"id": 7, "url": "https://t.example/7"}).link == "https://t.example/7"


@pytest.mark.parametrize(
    ("before", "now", "changed"),
    [
        (("new", ""), ("new", ""), {}),
        (("new", ""), ("closed", ""), {"state": "closed"}),
        (("new", ""), ("waiting for parts", ""), {}),
        (("new", ""), ("done", "summer"), {"state": "fixed", "fixed_in": "summer"}),
    ],
    ids=["nothing", "closed", "a word of its own", "fixed"],
)
def test_only_what_changed_there_comes_back(before, now, changed):
    assert news(USUAL, Seen("1", "", *before), Seen("1", "", *now)) == changed


@pytest.mark.parametrize(
    ("wrong", "error"),
    [
        ({"fields": {"state": "s"}}, BadInput),
        ({"fields": {"title": "t", "mood": "m"}}, UnknownName),
        ({"fields": {"title": "t", "notes": "t"}}, BadInput),
        ({"fields": {"title": "t", "notes": "t.more"}}, BadInput),
        ({"fields": {"title": "a..b"}}, BadInput),
        ({"fields": {"title": "t"}, "fixed": {"t": 1}}, BadInput),
        ({"fields": {"title": "t"}, "back": {"done": "ready"}}, UnknownName),
        ({"fields": {"title": "t"}, "words": {"state": {"ready": "x"}}}, UnknownName),
        ({"fields": {"title": "t"}, "words": {"title": {}}}, UnknownName),
        ({"fields": 3}, BadInput),
        ({}, BadInput),
    ],
    ids=str,
)
def test_a_mapping_that_can_not_be_is_refused(wrong, error):
    with pytest.raises(error):
        FieldMap.read(wrong)


def test_a_mapping_is_read_as_it_was_written():
    assert FieldMap.read(USUAL.write()) == USUAL
    assert set(USUAL.fields) <= set(PARTS)


def test_the_description_holds_all_texts_that_there_are():
    parts = {"steps": "1. Press Book", "found": "€ 7.30", "release": "autumn", "browser": ""}
    assert description(parts) == "**Steps**\n\n1. Press Book\n\n**Found**\n\n€ 7.30\n\nautumn"
