"""Comments: whom they mention, and what can not be one."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.problems import BadInput
from lantern.core.review.comments import check_text, mentioned

PEOPLE = {"odo": 1, "wren.h": 2, "pia": 3}


@pytest.mark.parametrize(
    ("text", "who"),
    [
        ("@odo: see row 3", [1]),
        ("Ask @Wren.h, and @odo.", [2, 1]),
        ("@odo @odo", [1]),
        ("mail odo@pia.example", []),
        ("@@odo and x@odo", []),
        ("(@pia) said so", [3]),
        ("@nobody", []),
        ("@pia-", [3]),
    ],
)
def test_people_are_mentioned_by_their_user_names(text, who):
    assert mentioned(text, PEOPLE) == who


@given(st.text())
def test_whatever_is_written_mentions_only_people_there_are(text):
    assert set(mentioned(text, PEOPLE)) <= {1, 2, 3}


def test_an_empty_comment_is_none_but_a_run_can_be_looked_at_without_a_word():
    assert check_text("  fine \n") == "fine"
    assert check_text(" ", looked=True) == ""
    with pytest.raises(BadInput, match="says something"):
        check_text(" \n")
    with pytest.raises(BadInput, match="at most"):
        check_text("x" * 10_001)
