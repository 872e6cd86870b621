"""Where casts can be played: what a station offers, what a cast needs, and whether these meet."""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

from lantern.core.problems import BadInput
from lantern.core.steps.labels import read_labels

Mode = Literal["works", "paused", "draining"]
"""Whether a station takes casts; one that is draining opens no further stages either."""
MODES: tuple[Mode, ...] = ("works", "paused", "draining")
QUEUE = "casts."
"""The name of a queue of casts begins so."""
LONGEST = 16
"""Bytes of an engine, and of labels, in the name of a queue."""
MOST_LABELS = 6
"""Labels of one station: it takes from a queue for each set of them."""


@dataclass(frozen=True)
class Offer:
    """What a station offers: its engines, what it is labelled, whether it takes casts at all."""

    engines: frozenset[str]
    labels: frozenset[str] = frozenset()
    mode: Mode = "works"
    places: int = 1

    def suits(self, engine: str, needs: Collection[str]) -> bool:
        """Tell whether it can be given a cast of that engine with these needs."""
        return self.mode == "works" and engine in self.engines and folded(needs) <= self.labels


def folded(labels: Iterable[str]) -> frozenset[str]:
    """Return labels as they are compared, whatever their case."""
    return frozenset(one.casefold() for one in labels)


def check_labels(labels: Iterable[object]) -> tuple[str, ...]:
    """Return the labels of a station or what is needed of one, tidied; raises BadInput."""
    found = read_labels(labels)
    if len(found) > MOST_LABELS:
        raise BadInput(f"A station has up to {MOST_LABELS} labels.", where="labels")
    return found


def queue_of(engine: str, needs: Collection[str] = ()) -> str:
    """Return the name of the queue for casts of an engine with these needs.

    Of many needs, and of a long engine, it is a digest: the queue tells of a job on a channel of
    PostgreSQL that is named after it, and such names have at most 63 bytes.
    """
    labels, engine = _short(",".join(sorted(folded(needs)))), _short(engine)
    return f"{QUEUE}{engine},{labels}" if labels else f"{QUEUE}{engine}"


def _short(text: str) -> str:
    """Return a text, or what stands for one that is too long for a part of a queue's name."""
    if len(text.encode()) <= LONGEST:
        return text
    return hashlib.sha256(text.encode()).hexdigest()[:LONGEST]


def queues_of(engines: Sequence[str], labels: Collection[str]) -> list[str]:
    """Return the queues from which a station with these engines and labels takes."""
    known = sorted(folded(labels))
    sets = [chosen for size in range(len(known) + 1) for chosen in combinations(known, size)]
    return [queue_of(engine, chosen) for engine in engines for chosen in sets]
