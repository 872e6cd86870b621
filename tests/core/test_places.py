"""Where casts can be played: what a station offers meets what a cast needs, exactly."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.problems import BadInput
from lantern.core.runs.places import MOST_LABELS, Offer, check_labels, folded, queue_of, queues_of

ENGINES = st.sampled_from(["chromium", "firefox", "webkit"])
LABELS = st.sets(st.sampled_from(["lab", "Lab", "with VPN", "near the kiln"]), max_size=3)


@given(st.lists(ENGINES, min_size=1, unique=True), LABELS, ENGINES, LABELS)
def test_a_station_takes_from_the_queues_of_what_suits_it_and_from_no_others(
    engines, labels, engine, needs
):
    offer = Offer(frozenset(engines), folded(labels))
    takes = queues_of(engines, labels)
    assert (queue_of(engine, needs) in takes) == offer.suits(engine, needs)
    assert len(set(takes)) == len(takes)


@given(st.lists(st.text(min_size=1, max_size=40), max_size=6))
def test_names_of_queues_are_short_and_differ_where_the_needs_do(needs):
    name = queue_of("chromium", needs)
    assert len(name.encode()) <= 40
    assert name != queue_of("chromium", [*needs, "more"])


def test_one_that_is_paused_or_draining_suits_nothing():
    for mode in ("paused", "draining"):
        assert not Offer(frozenset({"chromium"}), mode=mode).suits("chromium", ())
    assert Offer(frozenset({"chromium"}), folded(["Lab"])).suits("chromium", ["LAB"])


def test_a_station_has_only_so_many_labels():
    assert check_labels(["with  VPN", "lab"]) == ("lab", "with VPN")
    with pytest.raises(BadInput, match="up to 6"):
        check_labels(f"l{n}" for n in range(MOST_LABELS + 1))
