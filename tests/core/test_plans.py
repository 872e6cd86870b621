"""Plans: what they say, how a run of one goes, how long it takes."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.plans.going import (
    NOT_BEGUN,
    TIME_IS_UP,
    Going,
    Part,
    changes,
    forgiven,
    may_feed,
    to_stop,
    together,
    verdict,
)
from lantern.core.plans.model import Cell, Pick, Plan, check_name, differences
from lantern.core.plans.outlook import UNKNOWN, Span, in_order, span_of, whole
from lantern.core.plans.telling import Tell
from lantern.core.plans.text import Named, plan_text, read_plan
from lantern.core.problems import BadInput, UnknownName

NIGHTLY = Plan(
    picks=(Pick(test=3, rows="2-5"), Pick("label", words="night"), Pick("search", words="quote")),
    browsers=("chromium", "firefox"),
    left_out=(Cell(3, "firefox"),),
    environments=(1, 2),
    order="random",
    seed="x1",
    at_once=4,
    on_failure="stop the test",
    retries=2,
    before="7",
    minutes=90,
    weight=3,
    needs=("lab",),
    overlap="skip",
)


def test_a_plan_is_read_as_it_was_written():
    assert Plan.read(NIGHTLY.as_json()) == NIGHTLY
    assert Plan.read({}) == Plan()
    assert NIGHTLY.leaves_out(3, "firefox")
    assert not NIGHTLY.leaves_out(3, "chromium")
    assert differences(NIGHTLY, replace(NIGHTLY, weight=1, at_once=0)) == ["at once", "weight"]
    assert check_name("  Every   night ") == "Every night"


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        ({"picks": [{"kind": "test"}]}, "which test"),
        ({"picks": [{"kind": "search", "words": " "}]}, "search for"),
        ({"picks": [{"kind": "label", "words": "a,b"}]}, "label"),
        ({"picks": [{"kind": "all"}]}, "choice"),
        ({"picks": [{"test": n} for n in range(1, 600)]}, "up to 500"),
        ({"browsers": ["netscape"]}, "browser"),
        ({"at_once": 65}, "from 0 to 64"),
        ({"retries": "two"}, "whole number"),
        ({"retries": True}, "whole number"),
        ({"weight": 0}, "from 1 to 10"),
        ({"minutes": 1.5}, "whole number"),
        ({"order": "by moonlight"}, "choice"),
    ],
)
def test_what_a_plan_can_not_say_is_refused(raw, said):
    with pytest.raises((BadInput, UnknownName), match=said):
        Plan.read(raw)
    with pytest.raises(BadInput, match="name"):
        check_name(" ")


NAMES = Named(
    {3: "Book a firing", 4: "It's: odd"},
    {"7": "Warm up"},
    {1: "Kiln Desk", 2: "[x]"},
    {5: "wren", 6: "owners"},
)


@given(
    st.lists(
        st.builds(
            Pick, st.just("test"), st.sampled_from([3, 4]), rows=st.sampled_from(["all", "2-"])
        )
        | st.builds(
            Pick,
            st.sampled_from(["label", "search"]),
            words=st.sampled_from(["night", "a: b", "yes", "07"]),
        ),
        max_size=4,
        unique=True,
    ),
    st.sampled_from([(), (1,), (1, 2)]),
    st.integers(0, 3),
    st.sampled_from(["", "7"]),
    st.sampled_from(["", "s1", "007"]),
)
def test_a_plan_as_text_is_read_back_as_it_was(picks, places, retries, flow, seed):
    plan = Plan(
        tuple(picks),
        environments=places,
        retries=retries,
        after_row=flow,
        seed=seed,
        left_out=(Cell(4, "firefox"),),
        needs=("lab", "with VPN") if retries else (),
        known="passes" if flow else "fails",
        tells=(Tell(account=6, when=("fixed", "digest")), Tell("owners")) if flow else (),
    )
    found = read_plan(plan_text("Every night", plan, NAMES), NAMES)
    assert (found.name, found.plan, found.troubles) == ("Every night", plan, ())


def test_what_is_wrong_in_the_text_of_a_plan_is_told_at_its_line():
    text = """lantern: 1
plan: Odd
tests:
  - {test: Book a fring}
  - {test: Book a firing, label: x}
environments: [Kln Desk]
before: Warm
weigth: 3
told:
  - {person: nobody}
  - {when: [failed]}
"""
    troubles = {one.line: one.message for one in read_plan(text, NAMES).troubles}
    assert sorted(troubles) == [4, 5, 6, 7, 8, 10, 11]
    assert "no test “Book a fring”" in troubles[4]
    nameless = read_plan("lantern: 1\nretries: 9\n", NAMES)
    assert [one.line for one in nameless.troubles] == [1, 1]


# -- how it goes ----------------------------------------------------------------------------------


def test_the_flow_before_comes_first_and_the_one_after_last():
    parts = (Part(1, "before", waiting=1), Part(2, waiting=3), Part(3, "after", waiting=1))
    assert may_feed(Going(parts)) == [(1, 1)]
    parts = (Part(1, "before", "passed"), *parts[1:])
    assert may_feed(Going(parts)) == [(2, 3)]
    assert to_stop(Going(parts)) == {}
    parts = (*parts[:1], Part(2, state="failed"), *parts[2:])
    assert may_feed(Going(parts)) == [(3, 1)]
    failed = Going((Part(1, "before", "failed"), Part(2, waiting=3), Part(3, "after", waiting=1)))
    assert to_stop(failed) == {2: NOT_BEGUN}


def test_casts_are_offered_in_order_no_more_at_once_than_the_plan_says():
    parts = (Part(1, state="running", busy=1, waiting=1), Part(2, waiting=4), Part(3, waiting=4))
    assert may_feed(Going(parts, at_once=4)) == [(1, 2), (2, 2)]
    assert may_feed(Going(parts, at_once=1)) == []
    assert may_feed(Going(parts)) == [(1, 2), (2, 4), (3, 4)]


def test_what_is_left_is_stopped_by_a_failure_or_when_time_is_up():
    parts = (Part(1, state="failed"), Part(2, waiting=2), Part(3, "after", waiting=1))
    assert to_stop(Going(parts, stopped="It failed.")) == {2: "It failed."}
    assert to_stop(Going(parts), late=True) == {2: TIME_IS_UP}
    assert to_stop(Going(parts)) == {}


@pytest.mark.parametrize(
    ("states", "more", "said"),
    [
        ([], {}, "cancelled"),
        (["passed", "passed"], {}, "passed"),
        (["passed", "unsteady"], {}, "unsteady"),
        (["passed", "failed", "interrupted", "unsteady"], {}, "failed"),
        (["passed", "interrupted"], {}, "interrupted"),
        (["passed", "cancelled"], {"cancel_asked": True}, "cancelled"),
        (["passed", "passed"], {"stopped": "Time."}, "failed"),
        (["queued", "passed"], {}, "running"),
        (["queued", "queued"], {}, "queued"),
    ],
)
def test_the_verdict_is_the_worst_of_its_parts(states, more, said):
    parts = tuple(Part(n, state=state) for n, state in enumerate(states))
    assert verdict(Going(parts, **more))[0] == said


@pytest.mark.parametrize(
    ("states", "known", "came"),
    [
        ("pf", {1: {3}}, ("passed", "All that failed is known: defect 3.")),
        ("ff", {0: {5, 3}, 1: {3}}, ("passed", "All that failed is known: defects 3, 5.")),
        ("uf", {1: {3}}, ("unsteady", "All that failed is known: defect 3.")),
        ("ff", {1: {3}}, None),
        ("pi", {}, None),
        ("fi", {0: {3}}, None),
        ("pp", {}, None),
    ],
)
def test_what_is_known_does_not_count_where_nothing_else_failed(states, known, came):
    words = {"p": "passed", "f": "failed", "u": "unsteady", "i": "interrupted"}
    going = Going(tuple(Part(n, state=words[one]) for n, one in enumerate(states)))
    assert forgiven(going, known) == came
    assert forgiven(replace(going, stopped=TIME_IS_UP), known) is None


@given(
    st.lists(
        st.builds(
            Part,
            id=st.integers(0, 10**6),
            phase=st.sampled_from(["before", "main", "after"]),
            state=st.sampled_from(["queued", "running", "passed", "failed"]),
            busy=st.integers(0, 3),
            waiting=st.integers(0, 5),
        ),
        max_size=6,
    ),
    st.integers(1, 6),
)
def test_never_more_at_once_than_said_and_only_one_phase_at_a_time(parts, at_once):
    going = Going(tuple(parts), at_once)
    fed = may_feed(going)
    by_id = {one.id: one for one in parts}
    if len(by_id) < len(parts):
        return
    more = sum(lanes - by_id[key].busy for key, lanes in fed)
    assert more <= max(0, at_once - sum(one.busy for one in parts))
    assert len({by_id[key].phase for key, _ in fed}) <= 1
    assert going.over == (verdict(going)[0] not in ("queued", "running"))


def test_cells_show_the_worst_that_came_and_what_changed_since_the_last_time():
    assert together(["passed", "unsteady"]) == "unsteady"
    assert together(["passed", "failed", "unsteady"]) == "failed"
    assert together(["passed", "waiting"]) == "running"
    assert together(["failed", "waiting"]) == "running"
    assert together(["waiting", "waiting"]) == "waiting"
    assert together(["passed", "running", "failed"]) == "running"
    assert together([]) == ""
    before = {("A", "chromium"): "passed", ("B", "chromium"): "failed", ("C", "firefox"): "passed"}
    now = {("A", "chromium"): "failed", ("B", "chromium"): "failed", ("D", "chromium"): "passed"}
    found = [(one.test, one.before, one.now) for one in changes(before, now)]
    assert found == [("A", "passed", "failed"), ("D", "", "passed"), ("C", "passed", "")]


# -- how long it takes ----------------------------------------------------------------------------


def test_how_long_it_takes_is_told_from_how_long_it_took():
    assert span_of([]) == Span(*UNKNOWN)
    assert span_of([4.0]) == Span(4.0, 4.0, 4.0)
    assert span_of([float(n) for n in range(1, 11)]) == Span(2.0, 6.0, 10.0)
    casts = [Span(1, 2, 3)] * 5
    assert whole(casts, 1) == Span(5, 10, 15)
    assert whole(casts, 2) == Span(3, 6, 9)
    assert whole([], 2) == Span(0, 0, 0)
    assert whole(casts, 0).usual == float("inf")


@given(st.lists(st.floats(0.1, 100), min_size=1, max_size=20), st.integers(1, 8))
def test_places_share_the_work_and_no_bound_is_broken(seconds, places):
    usual = whole([Span(one, one, one) for one in seconds], places).usual
    least = max(max(seconds), sum(seconds) / places)
    assert least - 1e-6 <= usual <= sum(seconds) + 1e-6
    assert usual <= 2 * least + 1e-6  # Graham's bound for list scheduling


def test_the_order_of_a_plan():
    things, seconds = ["a", "b", "c", "d"], [1.0, 9.0, 9.0, 4.0]
    assert in_order(things, "as listed", seconds, "") == things
    assert in_order(things, "longest first", seconds, "") == ["b", "c", "d", "a"]
    one = in_order(things, "random", seconds, "s1")
    assert sorted(one) == things
    assert in_order(things, "random", seconds, "s1") == one
    assert any(in_order(things, "random", seconds, f"s{n}") != one for n in range(20))
