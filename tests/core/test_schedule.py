"""Schedules: times that come once or again, in a time zone, with pauses and the end of it."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.plans.schedule import Busy, Pause, Schedule, crowded, moved, moved_once
from lantern.core.problems import BadInput

BERLIN = ZoneInfo("Europe/Berlin")


def at(text, zone=UTC):
    return datetime.fromisoformat(text).replace(tzinfo=zone)


def local(schedule, after, count=4):
    found = schedule.some(after, count)
    return [f"{one.astimezone(ZoneInfo(schedule.zone)):%m-%d %H:%M}" for one in found]


def test_it_comes_again_in_its_time_zone_until_its_end_but_for_pauses():
    schedule = Schedule.read(
        {
            "cron": "30  3 * * 1-5",
            "zone": "Europe/Berlin",
            "until": "2027-01-05",
            "pauses": [{"first": "2026-12-24", "last": "2027-01-01"}],
        }
    )
    assert schedule.in_words() == "at 03:30 on Monday through Friday, until 2027-01-05"
    assert local(schedule, at("2026-12-22T12:00")) == ["12-23 03:30", "01-04 03:30", "01-05 03:30"]
    assert schedule.next(at("2027-01-05T12:00")) is None
    assert Schedule.read(schedule.as_json()) == schedule
    assert (
        Schedule.read({**schedule.as_json(), "enabled": False}).next(at("2026-12-01T00:00")) is None
    )


def test_when_clocks_change_it_comes_once_a_day():
    daily = Schedule(cron="30 2 * * *", zone="Europe/Berlin")
    spring = local(daily, at("2026-03-28T12:00", BERLIN), 3)
    assert spring == ["03-29 03:00", "03-30 02:30", "03-31 02:30"]
    autumn = daily.some(at("2026-10-24T12:00", BERLIN), 2)
    assert [f"{one:%m-%d %H:%M %z}" for one in autumn] == ["10-25 02:30 +0200", "10-26 02:30 +0100"]


def test_a_single_time_that_has_passed_was_meant_to_start_at_once():
    past = Schedule.read({"at": "2026-01-01T08:00", "zone": "Europe/Berlin"})
    now = at("2026-06-01T00:00")
    assert past.first(now) == at("2026-01-01T07:00")
    assert past.next(now) is None
    assert past.in_words() == "once, on 2026-01-01 at 08:00"
    assert Schedule.read({**past.as_json(), "enabled": False}).first(now) is None


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        ({}, "Say a time"),
        ({"at": "2026-01-01T08:00", "cron": "0 3 * * *"}, "Say a time"),
        ({"cron": "0 3 * *"}, "no time that repeats"),
        ({"cron": "61 3 * * *"}, "no time that repeats"),
        ({"cron": "0 3 31 2 *"}, "no time that repeats"),
        ({"cron": "@daily now or never ok"}, "no time that repeats"),
        ({"at": "tomorrow"}, "is no time"),
        ({"at": "2026-01-01", "zone": "Mars/Olympus"}, "no time zone"),
        ({"cron": "0 3 * * *", "pauses": [{"first": "2026-12-24", "last": "2026-12-01"}]}, "ends"),
        ({"cron": "0 3 * * *", "until": "soon"}, "is no day"),
    ],
)
def test_what_is_no_schedule_is_refused(raw, said):
    with pytest.raises(BadInput, match=said):
        Schedule.read(raw)


def test_what_never_comes_ends_the_search():
    never = Schedule(cron="0 3 * * *", pauses=(Pause(date(2000, 1, 1), date(2999, 1, 1)),))
    assert never.next(at("2026-01-01T00:00")) is None


def test_a_time_is_moved_alone_or_with_all_others():
    daily = Schedule(cron="0 3 * * 1-5", zone="Europe/Berlin")
    was = daily.next(at("2026-12-01T12:00"))
    rest, alone = moved_once(daily, was, at("2026-12-02T20:00"))
    assert was not in rest.some(at("2026-12-01T12:00"), 3)
    assert alone.first(was) == at("2026-12-02T20:00")
    assert moved(daily, at("2026-12-02T20:15")).cron == "15 21 * * 1-5"
    assert moved(alone, at("2026-12-03T01:00")).at == at("2026-12-03T01:00")
    # What was dragged says its time in its own zone, so that changing it again shifts nothing.
    assert alone.as_json()["at"] == "2026-12-02T21:00:00+01:00"
    with pytest.raises(BadInput, match="several times"):
        moved(Schedule(cron="*/10 * * * *"), was)


CRONS = st.sampled_from(["0 3 * * *", "*/20 * * * *", "15 8 * * 1", "0 0 1 * *", "30 2 29 2 *"])
MOMENTS = st.datetimes(datetime(2025, 1, 1), datetime(2027, 12, 1)).map(
    lambda one: one.replace(tzinfo=UTC)
)


@given(CRONS, st.sampled_from(["UTC", "Europe/Berlin", "America/St_Johns"]), MOMENTS)
def test_times_rise_and_each_comes_after_the_moment(cron, zone, moment):
    schedule = Schedule(cron=cron, zone=zone, pauses=(Pause(date(2026, 2, 1), date(2026, 3, 1)),))
    found = schedule.some(moment, 4)
    assert all(one > moment for one in found)
    assert found == sorted(set(found))
    assert not any(date(2026, 2, 1) <= one.date() <= date(2026, 3, 1) for one in found)


def test_what_overlaps_beyond_the_places_is_told():
    start = at("2026-12-01T03:00")

    def busy(key, begin, lasts, places):
        begins = start + timedelta(minutes=begin)
        return Busy(key, begins, begins + timedelta(minutes=lasts), places)

    a, b, c = busy("a", 0, 30, 2), busy("b", 20, 30, 2), busy("c", 60, 10, 2)
    assert crowded([a, b, c], 3) == {"a", "b"}
    assert crowded([a, b, c], 4) == set()
    assert crowded([a, c], 1) == set(), "one alone waits for nobody"
    assert crowded([a, busy("d", 30, 5, 2)], 3) == set(), "one ends as the other begins"
