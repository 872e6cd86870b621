"""What a page shows, as lines of text, and what came of a sentence: how those lines changed."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from lantern.core.addresses import parts_of
from lantern.core.elements.facts import tidy

MOST_LINES = 2000
LONGEST = 160
"""Letters of a line that are kept."""
FIELD = " = "
"""What stands between the name of a field and what it holds, in the line of a field."""


@dataclass(frozen=True)
class Shown:
    """What a document shows: its title, its address, and its lines from top to bottom.

    Each field, tick box and list has a line of its own, such as "Town = Ember".
    """

    title: str = ""
    address: str = ""
    lines: tuple[str, ...] = ()

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Shown:
        """Build it from the probe's JSON object; odd entries become empty ones."""
        lines = (tidy(line)[:LONGEST] for line in (raw.get("lines") or ())[:MOST_LINES])
        return cls(
            tidy(raw.get("title")),
            place_of(str(raw.get("address") or "")),
            tuple(filter(None, lines)),
        )

    def masked(self, hide: Callable[[str], str]) -> Shown:
        """Return it with something done to every text, such as hiding secrets."""
        return replace(
            self,
            title=hide(self.title),
            address=hide(self.address),
            lines=tuple(map(hide, self.lines)),
        )


def place_of(address: str) -> str:
    """Return where in an application an address is: its path and fragment, without numbers."""
    parts = parts_of(address)
    fragment = f"#{parts.fragment}" if parts.fragment else ""
    return re.sub(r"\d+", "#", f"{parts.path}{fragment}")


@dataclass(frozen=True)
class Effect:
    """What came of a sentence: lines that appeared, that went, and that stand elsewhere now.

    `moved` holds pairs of a line and the one that it stands behind now, "" for the top.
    """

    title: str
    address: str
    added: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    moved: tuple[tuple[str, str], ...] = ()

    @property
    def nothing(self) -> bool:
        """Whether no line changed."""
        return not (self.added or self.gone or self.moved)

    def as_json(self) -> dict[str, Any]:
        """Return it as an object that `read` accepts."""
        return {
            "title": self.title,
            "address": self.address,
            "added": list(self.added),
            "gone": list(self.gone),
            "moved": [list(pair) for pair in self.moved],
        }

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Effect:
        """Build it from what `as_json` returned."""
        return cls(
            raw["title"],
            raw["address"],
            tuple(raw["added"]),
            tuple(raw["gone"]),
            tuple((line, behind) for line, behind in raw["moved"]),
        )


def effect(before: Shown | None, after: Shown) -> Effect:
    """Return how a document changed; `before` is None when nothing was shown there."""
    old, new = Counter(before.lines if before else ()), Counter(after.lines)
    return Effect(
        after.title,
        after.address,
        tuple(in_order(after.lines, new - old)),
        tuple(in_order(before.lines if before else (), old - new)),
        tuple(_moved(before.lines if before else (), after.lines)),
    )


def in_order(lines: Sequence[str], counted: Counter[str]) -> list[str]:
    """Return as many of each line as counted, in the order in which they stand."""
    left = Counter(counted)
    found = []
    for line in lines:
        if left[line] > 0:
            left[line] -= 1
            found.append(line)
    return found


def _moved(before: Sequence[str], after: Sequence[str]) -> list[tuple[str, str]]:
    """Return the lines that stand in another order now: all but the longest run that does not."""
    old, new = Counter(before), Counter(after)
    both = {line for line, count in old.items() if count == 1 and new[line] == 1}
    places = {line: place for place, line in enumerate(line for line in before if line in both)}
    order = [places[line] for line in after if line in both]
    kept = _longest_rising(order)
    lines = [line for line in after if line in both]
    moved = {line for line, place in zip(lines, order, strict=True) if place not in kept}
    behind = dict(zip(after, ["", *after], strict=False))
    return [(line, behind[line]) for line in after if line in moved]


def _longest_rising(numbers: Sequence[int]) -> set[int]:
    """Return the numbers of a longest rising subsequence (patience sorting)."""
    tops: list[int] = []
    before: dict[int, int | None] = {}
    for number in numbers:
        at = bisect_left(tops, number)
        before[number] = tops[at - 1] if at else None
        tops[at : at + 1] = [number]
    kept = set()
    last = tops[-1] if tops else None
    while last is not None:
        kept.add(last)
        last = before[last]
    return kept
