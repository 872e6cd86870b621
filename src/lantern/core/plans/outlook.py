"""How long a plan will take, told from how long its casts took before."""

from __future__ import annotations

import heapq
import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

from lantern.core.plans.model import OrderKind

UNKNOWN = (5.0, 20.0, 90.0)
"""Seconds of a cast that was never played: little, usual, much."""
T = TypeVar("T")


@dataclass(frozen=True)
class Span:
    """Seconds: what is the least to be expected, what is usual, and the most."""

    least: float
    usual: float
    most: float


def span_of(seconds: Sequence[float]) -> Span:
    """Return how long a cast takes, of how long it took before; UNKNOWN where it never did.

    The least and the most are the tenth and the ninetieth percentile (nearest rank).
    """
    if not seconds:
        return Span(*UNKNOWN)
    ranked = sorted(seconds)

    def at(share: float) -> float:
        return ranked[min(len(ranked) - 1, int(share * len(ranked)))]

    return Span(at(0.1), at(0.5), at(0.9))


def whole(casts: Sequence[Span], places: int) -> Span:
    """Return how long casts take that begin in this order, as soon as one of the places is free.

    This is list scheduling: the end of the last one. No places take for ever.
    """
    if places < 1:
        return Span(float("inf"), float("inf"), float("inf"))

    def ends(seconds: Sequence[float]) -> float:
        free = [0.0] * min(places, max(1, len(seconds)))
        for one in seconds:
            heapq.heappush(free, heapq.heappop(free) + one)
        return max(free)

    return Span(
        ends([one.least for one in casts]),
        ends([one.usual for one in casts]),
        ends([one.most for one in casts]),
    )


def in_order(things: Sequence[T], order: OrderKind, seconds: Sequence[float], seed: str) -> list[T]:
    """Return things in the order of a plan; `seconds` are how long each takes, in their order.

    The same `seed` gives the same random order of the same things.
    """
    if order == "longest first":
        places = sorted(range(len(things)), key=lambda place: -seconds[place])
        return [things[place] for place in places]
    found = list(things)
    if order == "random":
        random.Random(f"order {seed}").shuffle(found)  # noqa: S311 - nothing secret
    return found
