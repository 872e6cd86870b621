"""How plans, runs and tries share the stations: by weight, tries first, nothing starves."""

from collections import Counter

from hypothesis import given
from hypothesis import strategies as st

from lantern.core.plans.sharing import (
    SCALE,
    TRIES_AHEAD,
    TRIES_WEIGHT,
    Share,
    offered,
    priority_of,
    tag_of,
)


class Queue:
    """What is offered and given out, each share having one offer waiting whenever it has work."""

    def __init__(self, **shares):
        self.shares, self.waiting, self.count, self.now = shares, [], 0, 0.0

    def offer(self, name):
        self.shares[name], priority = offered(self.shares[name], self.now)
        self.count += 1
        self.waiting.append((priority, -self.count, name))

    def give(self):
        best = max(self.waiting)
        self.waiting.remove(best)
        self.now = max(self.now, tag_of(best[0], self.shares[best[2]].boost))
        return best[2]


@given(st.lists(st.integers(1, 10), min_size=2, max_size=5))
def test_plans_share_by_weight_and_none_starves(weights):
    queue = Queue(**{f"p{n}": Share(weight=weight) for n, weight in enumerate(weights)})
    for name in queue.shares:
        queue.offer(name)
    given_out = Counter()
    rounds = 20 * sum(weights)
    for _ in range(rounds):
        name = queue.give()
        given_out[name] += 1
        queue.offer(name)
    for n, weight in enumerate(weights):
        assert abs(given_out[f"p{n}"] - rounds * weight / sum(weights)) <= 2


def test_a_try_goes_before_all_plans_however_long_they_have_waited_but_not_for_ever():
    queue = Queue(plan=Share(weight=10), tries=Share(TRIES_WEIGHT, TRIES_AHEAD))
    for _ in range(500):
        queue.offer("plan")
        queue.give()
    for _ in range(30):
        queue.offer("plan")
    for _ in range(10):
        queue.offer("tries")
        assert queue.give() == "tries"
    taken = Counter()
    for _ in range(400):
        queue.offer("tries")
        taken[queue.give()] += 1
    assert taken["plan"] >= 20, "tries without end leave something for plans"


def test_what_a_lead_moved_goes_before_and_what_was_idle_saves_nothing_up():
    queue = Queue(a=Share(), b=Share(boost=1), late=Share())
    for _ in range(50):
        queue.offer("a")
        queue.give()
    for name in ("a", "late", "b"):
        queue.offer(name)
    assert queue.give() == "b"
    for _ in range(4):
        queue.offer("late")
    order = [queue.give() for _ in range(3)]
    assert "a" in order[:2], "what comes late does not make up for the time before"


@given(st.floats(0, 9_000_000), st.sampled_from([-1, 0, 1]))
def test_a_priority_has_32_bits_and_its_tag_is_read_back_wherever_it_is_moved(tag, boost):
    _, priority = offered(Share(boost=boost, tag=tag), 0)
    assert -(2**31) <= priority < 2**31
    assert abs(tag_of(priority, boost) - tag) <= 1 / SCALE
    assert priority_of(9_000_000, 1) > priority_of(0, 0), "moved is before all others, however late"
