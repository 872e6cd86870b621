"""How long things are kept: what rules free, and what stays whatever they say."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.keeping import (
    SUGGESTED,
    Rules,
    RunFact,
    kind_of,
    runs_to_free,
    versions_to_free,
)
from lantern.core.problems import BadInput

NOW = datetime(2026, 11, 27, 12, tzinfo=UTC)
DAYS = st.integers(0, 900)
RUNS = st.lists(
    st.builds(
        RunFact,
        id=st.integers(1, 10_000),
        test=st.sampled_from([1, 2, None]),
        kind=st.sampled_from(["tries", "passed", "failed"]),
        at=DAYS.map(lambda days: NOW - timedelta(days=days)),
        held=st.booleans(),
    ),
    unique_by=lambda run: run.id,
    max_size=60,
)
RULES = st.builds(
    lambda tries, passed, more, least: Rules(
        tries=tries, passed=passed, failed=more and passed and passed + more, least=least
    ),
    DAYS,
    DAYS,
    DAYS,
    st.integers(0, 9),
)


def run(key, days, kind="passed", test=1, *, held=False):
    return RunFact(key, test, kind, NOW - timedelta(days=days), held)


def freed(rules, *runs):
    return [one.id for one in runs_to_free(runs, rules, NOW)]


def test_what_failed_stays_longer_than_what_passed_and_tries_go_first():
    rules = Rules(tries=7, passed=30, failed=90, least=1)
    runs = [run(n, 40, kind) for n, kind in enumerate(("tries", "passed", "failed"), 1)]
    assert freed(rules, run(9, 1), *runs) == [1, 2]
    assert freed(rules, run(9, 1), run(3, 91, "failed")) == [3]


def test_the_newest_of_each_test_stay_and_those_of_a_test_that_is_gone_do_not():
    rules = Rules(passed=10, least=2)
    runs = [run(n, 100 - n) for n in range(5)]
    others = [run(10 + n, 100 - n, test=2) for n in range(2)]
    assert freed(rules, *runs, *others, run(20, 50, test=None)) == [0, 1, 2, 20]


def test_the_rules_are_checked():
    for bad in ({"tries": -1}, {"pages": 10**6}, {"least": True}, {"passed": 90, "failed": 30},
                {"failed": 30}):  # fmt: skip
        with pytest.raises(BadInput):
            Rules.read(bad)
    assert Rules.read(SUGGESTED.as_json()) == SUGGESTED
    assert (kind_of("try", "failed"), kind_of("run", "cancelled"), kind_of("run", "interrupted")) \
        == ("tries", "passed", "failed")  # fmt: skip


@given(RUNS, RULES)
def test_only_what_is_old_and_needed_by_nothing_is_freed(runs, rules):
    gone = runs_to_free(runs, rules, NOW)
    assert not [one for one in gone if one.held]
    for one in gone:
        assert NOW - one.at > timedelta(days=getattr(rules, one.kind)) > timedelta(0)
    for test in (1, 2):
        on_record = [one for one in runs if one.test == test and one.kind != "tries"]
        stay = [one for one in on_record if one not in gone]
        assert len(stay) >= min(len(on_record), max(1, rules.least))
    again = [one for one in runs if one not in gone]
    assert runs_to_free(again, rules, NOW) == []  # once is enough


def version(number, days):
    return number, NOW - timedelta(days=days)


def test_old_versions_are_thinned_to_one_a_day_and_then_one_a_month():
    ages = (800, 799, 798, 100.1, 100.05, 100, 3, 3, 0)
    every = [version(n, age) for n, age in enumerate(ages, 1)]
    assert versions_to_free(every, {5}, Rules(versions=30), NOW) == [2, 4]
    assert versions_to_free(every, set(), Rules(), NOW) == []
    assert versions_to_free([], set(), Rules(versions=1), NOW) == []


@given(st.lists(DAYS, max_size=60), st.integers(1, 400), st.sets(st.integers(1, 60)))
def test_each_day_and_month_keeps_a_version_and_what_is_held_stays(ages, days, held):
    every = [version(n, age) for n, age in enumerate(sorted(ages, reverse=True), 1)]
    gone = set(versions_to_free(every, held, Rules(versions=days), NOW))
    stay = [one for one in every if one[0] not in gone]
    assert not gone & held
    assert {at.date().replace(day=1) for _, at in every} == {
        at.date().replace(day=1) for _, at in stay
    }
    assert all(NOW - at > timedelta(days=days) for number, at in every if number in gone)
    if every:
        assert {every[0], every[-1]} <= set(stay)
    assert versions_to_free(stay, held, Rules(versions=days), NOW) == []
