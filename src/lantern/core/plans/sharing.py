"""Sharing the stations: in which order the queue gives out what waits (start-time fair queuing).

Goyal, Vin and Cheng, "Start-time Fair Queuing" (1996): whatever is offered gets a start tag, the
queue gives out the lowest one first, and the tag of whoever offered it rises by 1 / weight. The
virtual time is the start tag of what was given out last; what was idle begins there, so nobody
saves up. What shares the stations gets of them as its weight says, and nothing starves. What people
wait for may begin `ahead` of the virtual time: it goes first until it has used that up.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

TRIES_WEIGHT, TRIES_AHEAD = 9, 5.0
"""Tries go before all else until 45 of them came at once; then nine of ten are tries."""
RUN_AHEAD = 1.0
"""The first row of a run that a person started goes before those of plans."""
SCALE = 100
"""Steps of priority to one of a tag."""
BAND = 1_000_000_000
"""What moving something before or after all others adds to its priority, which has 32 bits."""


@dataclass(frozen=True)
class Share:
    """Who shares the stations, such as all runs of one plan: `tag` is that of the next offer.

    `boost` is 1 where a lead moved it before all others, -1 where behind them.
    """

    weight: int = 1
    ahead: float = 0.0
    boost: int = 0
    tag: float = 0.0


def offered(share: Share, now: float) -> tuple[Share, int]:
    """Return a share after one more offer at the virtual time, and the priority of that offer.

    The highest priority is given out first.
    """
    start = max(share.tag, now - share.ahead)
    return replace(share, tag=start + 1 / share.weight), priority_of(start, share.boost)


def priority_of(tag: float, boost: int) -> int:
    """Return the priority of an offer with a start tag."""
    return boost * BAND - round(tag * SCALE)


def tag_of(priority: int, boost: int) -> float:
    """Return the start tag of an offer of some priority, as it is moved."""
    return (boost * BAND - priority) / SCALE
