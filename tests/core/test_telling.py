"""Whom a run of a plan is told by mail, and why."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.plans.telling import (
    WHEN,
    WHOM,
    Part,
    Tell,
    check_email,
    hear,
    read_tells,
)
from lantern.core.problems import BadInput, UnknownName

FAILED = ("end", "fail")
PARTS = (Part("Quotes", "failed", 1, (2, 3)), Part("Firing", "fixed", 4), Part("Glaze", "", 5))


@pytest.mark.parametrize(
    ("tell", "events", "now", "digests"),
    [
        (Tell(account=9, when=("failed",)), FAILED, {9}, set()),
        (Tell(account=9, when=("failed",)), ("end",), set(), set()),
        (Tell(account=9, when=("fixed",)), ("end", "fixed"), {9}, set()),
        (Tell(account=9, when=("always",)), ("end",), {9}, set()),
        (Tell(account=9, when=("always",)), ("start",), set(), set()),
        (Tell(account=9, when=("digest",)), FAILED, set(), {9}),
        (Tell(account=9, when=("failed", "digest")), FAILED, {9}, set()),
        (Tell("owners", when=("failed",)), FAILED, {1}, set()),
        (Tell("owners", when=("fixed",)), FAILED, {4}, set()),
        (Tell("owners", when=("always",)), FAILED, {1, 4, 5}, set()),
        (Tell("changers", when=("failed",)), FAILED, {2, 3}, set()),
    ],
)
def test_a_run_is_told_to_whom_it_concerns(tell, events, now, digests):
    told = hear([tell], events, PARTS)
    assert {key for key, one in told.items() if not one.digest} == now
    assert {key for key, one in told.items() if one.digest} == digests


def test_a_mail_says_why_it_goes_to_somebody():
    tells = (Tell(account=1, when=("digest",)), Tell("owners"), Tell("changers"))
    parts = [Part(f"T{n}", "failed", 1, (2,)) for n in range(5)]
    told = hear(tells, FAILED, parts)
    assert not told[1].digest
    assert told[1].why == ("You are on the list of the plan. You own “T0”, “T1”, “T2” and 2 more.")
    assert told[2].why == "You changed “T0”, “T1”, “T2” and 2 more since it last passed."


@given(
    st.lists(
        st.builds(
            lambda whom, account, when: Tell(whom, account if whom == "person" else 0, when),
            st.sampled_from(WHOM),
            st.integers(1, 9),
            st.sets(st.sampled_from(WHEN)).map(lambda said: tuple(w for w in WHEN if w in said)),
        )
    )
)
def test_each_is_named_once_and_who_is_never_told_is_not(tells):
    read = read_tells([vars(one) for one in tells])
    assert len({(one.whom, one.account) for one in read}) == len(read)
    assert all(one.when and one in tells for one in read)
    assert read_tells([vars(one) for one in read]) == read


@pytest.mark.parametrize(
    "raw",
    [{}, {"account": True}, {"account": "1"}, {"whom": "all"}, {"account": 1, "when": ["often"]}],
)
def test_what_is_no_rule_of_telling_is_refused(raw):
    with pytest.raises((BadInput, UnknownName)):
        read_tells([raw])


@pytest.mark.parametrize(
    "text", ["wren", "a b@c", "@x", "x@", "a@b@c", "a@b\nBcc: c@d", "a@" + "x" * 300]
)
def test_what_is_no_mail_address_is_refused(text):
    with pytest.raises(BadInput):
        check_email(text)


def test_an_address_is_kept_without_space_around_it_and_none_is_fine():
    assert check_email("  wren@emberhall.example ") == "wren@emberhall.example"
    assert check_email(" ") == ""
