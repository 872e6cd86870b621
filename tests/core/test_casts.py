"""The life of a run and of its casts, whatever dies and whoever comes late."""

import pytest
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from lantern.core.runs.life import (
    A_ROW_FAILED,
    MOST_TAKINGS,
    CancelAsked,
    Cast,
    Ended,
    Fed,
    JobLost,
    Lost,
    Run,
    Stopped,
    Taken,
    TooLate,
    after,
    to_feed,
    to_stop,
)


def run_of(count, **more):
    return Run(tuple(Cast(number, engine="chromium") for number in range(1, count + 1)), **more)


def taken(run, cast, token="t"):
    return after(after(run, Fed(cast, cast)), Taken(cast, cast, token))


def states(run):
    return [one.state for one in run.casts]


def test_a_run_is_as_its_casts_say():
    run = run_of(2)
    assert run.state == "queued"
    run = taken(run, 1)
    assert run.state == "running"
    run = after(run, Ended(1, "t", "passed"))
    assert (run.state, states(run)) == ("running", ["passed", "waiting"])
    assert after(taken(run, 2), Ended(2, "t", "passed")).state == "passed"
    assert after(taken(run, 2), Ended(2, "t", "failed")).state == "failed"
    assert after(taken(run, 2), Ended(2, "t", "interrupted", "Gone.")).message == "Gone."


def test_casts_are_offered_in_order_as_many_as_there_are_lanes():
    run = run_of(4)
    assert [one.id for one in to_feed(run, 2, {"chromium"})] == [1, 2]
    run = after(taken(run, 1), Fed(2, 9))
    assert to_feed(run, 2, {"chromium"}) == ()
    assert [one.id for one in to_feed(run, 3, {"chromium"})] == [3]
    assert to_feed(run, 3, {"firefox"}) == ()
    assert to_feed(after(run, CancelAsked()), 9, {"chromium"}) == ()


def test_a_late_writer_is_refused():
    run = after(taken(run_of(1), 1, "old"), Lost(1, "old"))
    assert run.state == "interrupted"
    for late in (Ended(1, "old", "passed"), Taken(1, 1, "new"), Fed(1, 3)):
        with pytest.raises(TooLate):
            after(run, late)
    assert after(run, Lost(1, "old")) == run


def test_an_interrupted_cast_is_played_again_where_the_run_allows_it_but_not_for_ever():
    run = run_of(1, again=True)
    for turn in range(1, MOST_TAKINGS):
        run = after(taken(run, 1, f"t{turn}"), Lost(1, f"t{turn}"))
        assert (run.state, states(run)) == ("running", ["waiting"])
        with pytest.raises(TooLate):
            after(run, Ended(1, f"t{turn}", "passed"))
    run = after(taken(run, 1, "last"), Lost(1, "last"))
    assert (run.state, states(run)) == ("interrupted", ["interrupted"])


def test_a_job_that_died_before_it_was_begun_is_offered_anew():
    run = after(run_of(1), Fed(1, 7))
    assert to_feed(run, 1, {"chromium"}) == ()
    run = after(run, JobLost(1, 7))
    assert [one.id for one in to_feed(run, 1, {"chromium"})] == [1]
    with pytest.raises(TooLate):
        after(after(run, Fed(1, 8)), Taken(1, 7, "t"))


def test_cancelling_ends_what_waits_at_once_and_what_runs_when_it_stops():
    run = after(taken(run_of(2), 1), CancelAsked())
    assert states(run) == ["running", "cancelled"]
    assert [one.id for one in to_stop(run)] == [1]
    assert after(run, Ended(1, "t", "cancelled")).state == "cancelled"
    assert after(run, Lost(1, "t")).state == "cancelled"
    # What had passed by then has passed; nothing was cancelled.
    assert (
        after(after(taken(run_of(1), 1), CancelAsked()), Ended(1, "t", "passed")).state == "passed"
    )


def test_a_failure_that_stops_everything_skips_the_rest_and_stops_what_is_under_way():
    run = after(taken(taken(run_of(3), 1, "a"), 2, "b"), Ended(1, "a", "failed", stops="Row 1."))
    assert states(run) == ["failed", "running", "skipped"]
    assert [one.id for one in to_stop(run)] == [2]
    run = after(run, Ended(2, "b", "cancelled"))
    assert (run.state, run.message) == ("failed", "Row 1.")


def test_what_failed_is_played_again_and_never_plainly_passes():
    run = after(taken(run_of(1, retries=1), 1), Ended(1, "t", "failed", "Too late."))
    assert (run.state, states(run), run.casts[0].message) == ("running", ["waiting"], "Too late.")
    passed = after(taken(run, 1, "u"), Ended(1, "u", "passed"))
    assert (passed.state, states(passed)) == ("unsteady", ["unsteady"])
    assert passed.casts[0].message == "It failed once before it passed."
    assert after(taken(run, 1, "u"), Ended(1, "u", "failed")).state == "failed"
    # Some failures count at once: playing again would not help, or a hand was on it.
    first = taken(run_of(1, retries=1), 1)
    assert after(first, Ended(1, "t", "failed", counts=True)).state == "failed"


def test_a_plan_may_stop_a_test_at_its_first_row_that_fails_for_good():
    run = taken(taken(run_of(3, fragile=True, retries=1), 1, "a"), 2, "b")
    run = after(run, Ended(1, "a", "failed"))
    assert states(run) == ["waiting", "running", "waiting"]
    run = after(taken(run, 1, "c"), Ended(1, "c", "failed"))
    assert states(run) == ["failed", "running", "skipped"]
    assert [one.id for one in to_stop(run)] == [2]
    assert after(run, Ended(2, "b", "cancelled")).message == A_ROW_FAILED


def test_a_run_is_stopped_from_outside():
    run = after(taken(run_of(2), 1), Stopped("The time is up."))
    assert states(run) == ["running", "skipped"]
    ended = after(run, Ended(1, "t", "cancelled"))
    assert (ended.state, ended.message) == ("failed", "The time is up.")
    assert after(ended, Stopped("Again.")) == ended


class World(RuleBasedStateMachine):
    """Stations take, play, die and answer late; someone cancels; jobs vanish.

    What the stations believe is kept apart from the run, as messages in flight are.
    """

    @initialize(
        count=st.integers(1, 5),
        again=st.booleans(),
        retries=st.integers(0, 2),
        fragile=st.booleans(),
    )
    def begin(self, count, again, retries, fragile):
        self.run = run_of(count, again=again, retries=retries, fragile=fragile)
        self.jobs = {}  # job -> cast, offered and not taken by a living station
        self.playing = {}  # token -> cast
        self.dead = {}  # tokens of stations that died, and of jobs that nobody holds any more
        self.next = 0
        self.ended = {}

    def number(self):
        self.next += 1
        return self.next

    def tell(self, event):
        before = {one.id: one for one in self.run.casts}
        try:
            self.run = after(self.run, event)
        except TooLate:
            return False
        for one in self.run.casts:
            assert not before[one.id].over or before[one.id] == one, "what is over stays as it is"
        return True

    @precondition(lambda self: hasattr(self, "run"))
    @rule(lanes=st.integers(1, 3))
    def feed(self, lanes):
        for cast in to_feed(self.run, lanes, {"chromium"}):
            job = self.number()
            assert self.tell(Fed(cast.id, job))
            self.jobs[job] = cast.id

    @precondition(lambda self: getattr(self, "jobs", None))
    @rule(data=st.data(), dies=st.booleans())
    def take(self, data, dies):
        job = data.draw(st.sampled_from(sorted(self.jobs)))
        cast = self.jobs.pop(job)
        if dies:  # killed after taking the job and before claiming the cast
            self.dead[("job", job)] = cast
            return
        token = f"t{self.number()}"
        if self.tell(Taken(cast, job, token)):
            self.playing[token] = cast

    @precondition(lambda self: getattr(self, "playing", None))
    @rule(
        data=st.data(),
        outcome=st.sampled_from(["passed", "failed", "cancelled"]),
        stops=st.booleans(),
        reaches=st.booleans(),
    )
    def end(self, data, outcome, stops, reaches):
        token = data.draw(st.sampled_from(sorted(self.playing)))
        cast = self.playing.pop(token)
        event = Ended(cast, token, outcome, stops="It stops." if stops else "")
        if reaches:
            self.tell(event)
        else:  # the database was away: nobody plays it any more, and nobody said so
            self.dead[("taking", token)] = cast

    @precondition(lambda self: getattr(self, "playing", None))
    @rule(data=st.data())
    def die(self, data):
        token = data.draw(st.sampled_from(sorted(self.playing)))
        self.dead[("taking", token)] = self.playing.pop(token)

    @precondition(lambda self: getattr(self, "playing", None))
    @rule(data=st.data())
    def silence(self, data):
        """A station is taken for dead that lives: it plays on and will answer late."""
        token = data.draw(st.sampled_from(sorted(self.playing)))
        self.tell(Lost(self.playing[token], token))

    @precondition(lambda self: hasattr(self, "run"))
    @rule(event=st.sampled_from([CancelAsked(), Stopped("Time.")]))
    def cancel(self, event):
        self.tell(event)

    @rule()
    def reconcile(self):
        for (kind, key), cast in list(getattr(self, "dead", {}).items()):
            self.tell(JobLost(cast, key) if kind == "job" else Lost(cast, key))
        self.dead = {}

    @invariant()
    def under_way_is_what_somebody_answers_for(self):
        if not hasattr(self, "run"):
            return
        known = {*self.playing, *(key for kind, key in self.dead if kind == "taking")}
        assert all(one.token in known for one in self.run.casts if one.state == "running")
        assert self.run.over == all(one.over for one in self.run.casts)
        assert all(one.failures <= self.run.retries for one in self.run.casts)
        steady = [one for one in self.run.casts if one.state == "passed"]
        assert not any(one.failures for one in steady), "what failed first never plainly passed"

    def teardown(self):
        """However it went: with one living station and a reconciler everything comes to an end."""
        if not hasattr(self, "run"):
            return
        for _ in range(60):
            self.reconcile()
            for token, cast in list(self.playing.items()):
                del self.playing[token]
                self.tell(Ended(cast, token, "cancelled" if self.run.ending else "passed"))
            for cast in to_feed(self.run, 1, {"chromium"}):
                job = self.number()
                self.tell(Fed(cast.id, job))
                self.jobs[job] = cast.id
            for job, cast in list(self.jobs.items()):
                del self.jobs[job]
                token = f"t{self.number()}"
                if self.tell(Taken(cast, job, token)):
                    self.playing[token] = cast
            if self.run.over:
                break
        assert self.run.over
        assert self.run.state != "passed" or set(states(self.run)) == {"passed"}


TestWorld = World.TestCase
