"""Labels of tests: each once whatever its case, put on and taken off without conflicts."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.problems import BadInput
from lantern.core.steps.comparing import difference
from lantern.core.steps.edits import apply, check_fresh, read_edit
from lantern.core.steps.labels import LONGEST_LABEL, MOST_LABELS, read_labels, relabelled
from lantern.core.steps.model import Document

LABELS = st.text("abAB é", min_size=1, max_size=5).filter(str.strip)


def label(document, **edit):
    return apply(document, read_edit({"do": "set labels", **edit}), lambda: "new")


def test_a_label_is_there_once_and_they_are_sorted():
    assert read_labels(["Night  ly", "quotes", "night ly"]) == ("Night ly", "quotes")
    document = label(Document(), add=["smoke", "Quotes"])
    assert document.labels == ("Quotes", "smoke")
    assert label(document, remove=["SMOKE"]).labels == ("Quotes",)
    assert Document.read(document.as_json()) == document
    assert difference(Document(), document).others == ("label Quotes added", "label smoke added")


def test_what_can_be_no_label_is_refused():
    for wrong in ("", "  ", "a,b", "x" * (LONGEST_LABEL + 1)):
        with pytest.raises(BadInput, match="label"):
            read_labels([wrong])
    with pytest.raises(BadInput, match="list"):
        read_labels("nightly")
    with pytest.raises(BadInput, match="up to"):
        read_labels(f"l{n}" for n in range(MOST_LABELS + 1))


@given(st.lists(LABELS, max_size=9), st.lists(LABELS, max_size=9), st.lists(LABELS, max_size=9))
def test_two_people_put_labels_on_in_either_order(there, mine, theirs):
    there = read_labels(there)
    one = relabelled(relabelled(there, mine, ()), theirs, ())
    other = relabelled(relabelled(there, theirs, ()), mine, ())
    assert [x.casefold() for x in one] == [x.casefold() for x in other]
    edit = read_edit({"do": "set labels", "add": [*mine]})
    check_fresh(edit, Document(labels=there), Document(labels=one))  # no conflict


@given(st.lists(LABELS, max_size=9), st.lists(LABELS, max_size=9))
def test_what_is_taken_off_is_not_there_any_more(there, gone):
    left = relabelled(read_labels(there), (), gone)
    assert not {one.casefold() for one in left} & {" ".join(one.split()).casefold() for one in gone}
