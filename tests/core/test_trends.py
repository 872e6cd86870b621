"""Trends: how tests stand, how steady they are, what gets slower."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta, timezone

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.review.trends import (
    FEWEST,
    Play,
    by_day,
    of_tests,
    pace,
    runs_of,
    split,
    standing,
    unsteadiness,
    wilson,
)

MONDAY = datetime(2026, 11, 2, 23, 30, tzinfo=UTC)
PLAY = Play(1, 1, "r1", "chromium", 3, "spring", "passed", MONDAY)


def night(*outcomes, **more):
    """A play each night: p passed, f failed, u passed only when played again, c cancelled."""
    words = {"p": "passed", "f": "failed", "u": "passed", "c": "cancelled"}
    return [
        replace(PLAY, run=n, outcome=words[letter], retried=letter == "u",
                at=MONDAY + timedelta(days=n), **more)
        for n, letter in enumerate("".join(outcomes), 1)
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("nights", "how", "since"),
    [
        ("pppp", "passing", None),
        ("pppf", "new", 4),
        ("ppff", "failing", 3),
        ("f", "failing", 1),
        ("ffff", "failing", 1),
        ("pfpf", "new", 4),
        ("pffp", "fixed", None),
        ("pffpp", "passing", None),
        ("ppfc", "new", 3),
        ("pppu", "passing", None),
        ("", "passing", None),
        ("ccc", "passing", None),
    ],
)
def test_how_a_test_stands_and_since_when_it_fails(nights, how, since):
    found, at = standing(runs_of(night(nights)))
    assert found == how
    assert at == (since and MONDAY + timedelta(days=since))


def test_the_rows_of_a_run_are_one_and_its_worst_counts():
    rows = [replace(PLAY, row=row, outcome=o) for row, o in [("a", "passed"), ("b", "failed")]]
    [ran] = runs_of([*rows, replace(PLAY, row="c", retried=True)])
    assert ran.outcome == "failed"
    assert ran.counts == {"passed": 1, "failed": 1, "unsteady": 1}


@pytest.mark.parametrize(
    ("nights", "times"),
    [
        ("pppppp", 0),
        ("ffffff", 0),  # failing is steady
        ("pppfff", 0),  # a change for good is none either
        ("ppfppp", 1),
        ("ffpfff", 1),
        ("pupppp", 1),
        ("pfpfpf", 4),  # the first and the last have one neighbour that could tell
    ],
)
def test_unsteady_is_what_comes_out_otherwise_though_nothing_changed(nights, times):
    told = unsteadiness(night(nights))
    assert (told.times, told.of) == (times, 6)
    assert told.low <= told.share <= told.high


def test_another_version_release_browser_or_row_is_a_change():
    for part, value in [
        ("version", 4),
        ("release", "autumn"),
        ("browser", "firefox"),
        ("row", "r2"),
    ]:
        odd = [
            replace(one, **{part: value}) if one.outcome == "failed" else one
            for one in night("ppfppp")
        ]
        assert unsteadiness(odd).times == 0, part


@given(st.integers(0, 400).flatmap(lambda of: st.tuples(st.integers(0, of), st.just(of))))
def test_the_interval_holds_the_share_and_narrows_with_more_plays(counts):
    times, of = counts
    low, high = wilson(times, of)
    assert 0 <= low <= high <= 1
    if of:
        assert low - 1e-9 <= times / of <= high + 1e-9
        more = wilson(times * 4, of * 4)
        assert more[1] - more[0] <= high - low


def test_the_interval_is_the_known_one():
    low, high = wilson(1, 10)
    assert (round(low, 4), round(high, 4)) == (0.0179, 0.4042)


def test_days_are_those_of_the_time_zone():
    berlin = timezone(timedelta(hours=1))
    assert list(by_day([PLAY], UTC)) == [date(2026, 11, 2)]
    assert by_day([PLAY], berlin) == {date(2026, 11, 3): {"passed": 1}}


def test_rows_are_split_by_whatever_they_have_and_by_test():
    plays = [*night("pf"), *night("p", release="autumn", test=2)]
    assert split(plays, lambda one: one.release) == {
        "autumn": {"passed": 1},
        "spring": {"passed": 1, "failed": 1},
    }
    assert {test: len(own) for test, own in of_tests(plays)} == {1: 2, 2: 1}


def test_a_sentence_is_slower_than_its_own_past_and_one_slow_day_says_nothing():
    usual = [0.5, 0.6, 0.5, 0.55, 0.5, 0.6, 0.5, 0.5]
    assert pace([*usual, *[1.4] * 5]).slower
    assert not pace([*usual, 0.5, 9.0, 0.5, 0.6, 0.5]).slower
    assert not pace([0.01] * 8 + [0.1] * 5).slower  # ten times as long hurts nobody
    noisy = [0.5, 2.0, 1.0, 3.0, 0.7, 2.5, 1.5, 0.9]
    assert not pace([*noisy, *[2.4] * 5]).slower
    assert pace([0.5] * (FEWEST - 1)) is None
