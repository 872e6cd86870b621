"""The sample project: every night is there, and what happened is what the story says."""

from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from lantern.demo.team import plays
from lantern.demo.team.project import AHEAD, NIGHTLY, SMOKE
from lantern.demo.team.story import BROKEN, COMMENTS, DAYS, DEFECTS, sixty_days
from lantern.demo.team.tests import REQUIREMENTS, TESTS

days = st.dates(date(2026, 1, 1), date(2040, 1, 1))
PEOPLE = {"wren", "odo", "bram", "pia"}


@given(days)
def test_every_night_has_a_run_and_all_lie_before_today_in_order(today):
    told = list(sixty_days(today))
    nights = [one for one in told if one.plan == NIGHTLY]
    assert [one.ago for one in nights] == list(range(DAYS, 0, -1))
    assert all(one.at.date() == today - timedelta(days=one.ago) for one in told)
    assert [one.at for one in nights] == sorted(one.at for one in nights)
    assert max(one.at.date() for one in told) < today


@given(days)
def test_a_week_is_broken_one_tuesday_is_slow_and_saturdays_look_ahead(today):
    told = list(sixty_days(today))
    assert {one.ago for one in told if one.mood == "autumn" and one.plan == NIGHTLY} == set(BROKEN)
    slow = [one.at.date() for one in told if one.mood == "slow" and one.plan == NIGHTLY]
    assert [day.weekday() for day in slow] == [1]
    ahead = [one for one in told if one.plan == AHEAD]
    assert len(ahead) == 4
    assert {(one.at.weekday(), one.mood) for one in ahead} == {(5, "summer")}
    assert {one.at.weekday() for one in told if one.plan == SMOKE} == {0, 1, 2, 3, 4}


def test_every_mood_was_played_with_all_fourteen_tests():
    told = plays.read("http://desk")
    names = [one.name for one in TESTS]
    assert len(names) == 14
    moods = {one.mood for offset in range(7) for one in sixty_days(date(2026, 11, 1 + offset))}
    assert moods == set(told)
    for mood in told.values():
        assert set(mood["runs"]) == set(names)
    whole = str(told)
    assert plays.DESK not in whole
    assert "wheel-and-kiln" not in whole, "secrets are masked in what ships"


def test_results_name_pictures_that_ship_with_them():
    there = dict(plays.pictures())
    named = {
        one["picture"]
        for mood in plays.read("http://desk").values()
        for run in mood["runs"].values()
        for cast in run["casts"]
        for one in cast["results"]
        if one["picture"]
    }
    assert named == set(there)
    assert all(content.startswith(b"\xff\xd8") for content in there.values())


def test_what_is_said_is_said_by_people_of_things_that_are_there():
    keys = {one.key for one in DEFECTS} | {one.name for one in TESTS}
    assert {one.on for one in COMMENTS} <= keys
    assert {one.who for one in COMMENTS} <= PEOPLE
    covered = {label for one in TESTS for label in one.labels if label.startswith("EMB-")}
    assert covered < set(REQUIREMENTS), "two of them are covered by no test"
