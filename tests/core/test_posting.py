"""Telling other programs of runs of plans: events, signatures, and when to try again."""

import hashlib
import hmac

import pytest

from lantern.core.plans.posting import LONGEST, MOST_TRIES, events_of, pause_after, signature


@pytest.mark.parametrize(
    ("before", "now", "last", "told"),
    [
        ("queued", "running", "", ("start",)),
        ("running", "passed", "", ("end",)),
        ("running", "passed", "passed", ("end",)),
        ("running", "passed", "failed", ("end", "fixed")),
        ("running", "unsteady", "failed", ("end",)),
        ("running", "failed", "failed", ("end", "fail")),
        ("running", "interrupted", "", ("end", "fail")),
        ("queued", "cancelled", "", ("start", "end")),
        ("running", "running", "failed", ()),
    ],
)
def test_what_happened_is_told_from_the_states(before, now, last, told):
    assert events_of(before, now, last) == told


def test_a_message_is_signed_with_its_time():
    known = hmac.new(b"key of ours", b"17.{}", hashlib.sha256).hexdigest()
    assert signature("key of ours", 17, b"{}") == f"sha256={known}"
    assert signature("key of ours", 18, b"{}") != f"sha256={known}"


def test_pauses_grow_and_end():
    pauses = [pause_after(tries) for tries in range(1, MOST_TRIES + 1)]
    assert pauses[0] == 10
    assert pauses[-1] is None
    assert pauses[:-1] == sorted(pauses[:-1])
    assert max(pauses[:-1]) <= LONGEST
