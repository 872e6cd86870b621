"""Telling other programs of runs of plans: events, signatures, and when to try again.

A message is signed with HMAC-SHA256 (RFC 2104) of its time and body, so that who gets it knows that
it comes from here and is not an old one sent again.
"""

from __future__ import annotations

import hashlib
import hmac
from typing import Literal, get_args

Event = Literal["start", "end", "fail", "fixed"]
EVENTS: tuple[Event, ...] = get_args(Event)
FIRST, LONGEST = 10.0, 3600.0
"""Seconds until the first and the later tries."""
MOST_TRIES = 8
"""How often a message is tried: the last time about four hours after the first."""
BAD = frozenset({"failed", "interrupted"})
GOOD = frozenset({"passed"})


def signature(secret: str, at: int, body: bytes) -> str:
    """Return the signature of a message that is sent at a time (seconds since 1970, UTC)."""
    signed = f"{at}.".encode() + body
    return "sha256=" + hmac.new(secret.encode(), signed, hashlib.sha256).hexdigest()


def pause_after(tries: int) -> float | None:
    """Return the seconds until the next try after so many; None when it is given up."""
    return None if tries >= MOST_TRIES else min(LONGEST, FIRST * 3.0 ** (tries - 1))


def events_of(before: str, now: str, last: str) -> tuple[Event, ...]:
    """Return what happened when a run of a plan went from one state to another.

    `last` is how the run of the plan before it ended, "" for none.
    """
    if before == now:
        return ()
    if now == "running":
        return ("start",)
    if now == "queued":
        return ()
    found: list[Event] = ["end"] if before != "queued" else ["start", "end"]
    if now in BAD:
        found.append("fail")
    if now in GOOD and last in BAD:
        found.append("fixed")
    return tuple(found)
