"""Two plays of a test side by side, down to the first sentence at which they part."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Literal

from lantern.core.elements.facts import numbers_open

What = Literal["there", "sentence", "outcome", "found", "texts", "requests", "console", "time"]
SLOWER = 2.0
"""How many times as long something takes before that is a difference,"""
NOTABLE = 1.0
"""and by how many seconds at least."""
MOST_TEXTS = 40
"""Texts of a page that are named."""
_MOVING = re.compile(
    r"\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?(?:Z|[+-]\d\d:?\d\d)?)?"
    r"|\d{1,2}[./]\d{1,2}[./]\d{2,4}"
    r"|\b\d{1,2}:\d\d(?::\d\d)?\b"
    r"|\b\d{1,2}\.? (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)[a-z]*\.?(?: \d{4})?"
    r"|\b(?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)[a-z]*\.? \d{1,2},? \d{4}"
    r"|\b[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}\b"
    r"|\b(?=[0-9a-f]*\d)(?=[0-9a-f]*[a-f])[0-9a-f]{12,}\b",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Beat:
    """A sentence as it was played: what it said with its values, how it ended, what it met.

    `texts` are what its page showed, None where that was not kept; `used` is in seconds; `result`
    is the number of the result.
    """

    step: str
    sentence: str
    outcome: str
    used: float = 0.0
    found: str = ""
    expected: str = ""
    message: str = ""
    requests: tuple[str, ...] = ()
    console: tuple[str, ...] = ()
    texts: tuple[str, ...] | None = None
    result: int = 0


@dataclass(frozen=True)
class Differing:
    """Something in which two sentences differ; of lists only what the other one lacks."""

    what: What
    one: tuple[str, ...]
    other: tuple[str, ...]


@dataclass(frozen=True)
class Pair:
    """The same sentence in two plays; None where one has none. `aside` counts texts that move."""

    one: Beat | None
    other: Beat | None
    differs: tuple[Differing, ...] = ()
    aside: int = 0

    @property
    def parts(self) -> bool:
        """Whether the plays part here: in more than the time that it took."""
        return any(one.what != "time" for one in self.differs)


def still(text: str) -> str:
    """Return a text in which what moves by itself is open: dates, times, long ids.

    "Fired 2026-11-28 at 09:15" -> "Fired … at …".
    """
    return _MOVING.sub("…", text)


def side_by_side(
    one: Sequence[Beat], other: Sequence[Beat], moving: Collection[str] = ()
) -> list[Pair]:
    """Return the sentences of two plays in pairs, each with what differs.

    `moving` are texts, with their numbers open, that differed between plays that passed as well:
    they say nothing.
    """
    pairs: list[Pair] = []
    matcher = SequenceMatcher(None, [a.step for a in one], [b.step for b in other], autojunk=False)
    for tag, a, until_a, b, until_b in matcher.get_opcodes():
        if tag == "equal":
            pairs += (
                _pair(x, y, moving) for x, y in zip(one[a:until_a], other[b:until_b], strict=True)
            )
            continue
        pairs += (Pair(x, None, (Differing("there", (x.sentence,), ()),)) for x in one[a:until_a])
        pairs += (Pair(None, y, (Differing("there", (), (y.sentence,)),)) for y in other[b:until_b])
    return pairs


def first_parting(pairs: Sequence[Pair]) -> int | None:
    """Return the place of the first pair in which the plays part; None where they never do."""
    return next((place for place, pair in enumerate(pairs) if pair.parts), None)


def _pair(one: Beat, other: Beat, moving: Collection[str]) -> Pair:
    texts, aside = _texts(one, other, moving)
    return Pair(one, other, (*_plainly(one, other), *texts, *_noise(one, other)), aside)


def _plainly(one: Beat, other: Beat) -> Iterator[Differing]:
    if still(one.sentence) != still(other.sentence):
        yield Differing("sentence", (one.sentence,), (other.sentence,))
    if one.outcome != other.outcome:
        said = [f"{x.outcome}: {x.message}" if x.message else x.outcome for x in (one, other)]
        yield Differing("outcome", (said[0],), (said[1],))
    if still(one.found) != still(other.found):
        yield Differing("found", (one.found,), (other.found,))


def _texts(one: Beat, other: Beat, moving: Collection[str]) -> tuple[list[Differing], int]:
    """Return which texts only one of the pages shows, and how many differ only in what moves."""
    if one.texts is None or other.texts is None:
        return [], 0
    there, here = set(one.texts), set(other.texts)
    only = [text for text in dict.fromkeys(one.texts) if text not in here]
    more = [text for text in dict.fromkeys(other.texts) if text not in there]
    calm = {still(text) for text in only} & {still(text) for text in more}

    def says(text: str) -> bool:
        return still(text) not in calm and numbers_open(text) not in moving

    left, right = [t for t in only if says(t)], [t for t in more if says(t)]
    aside = len(only) + len(more) - len(left) - len(right)
    if not left and not right:
        return [], aside
    return [Differing("texts", tuple(left[:MOST_TEXTS]), tuple(right[:MOST_TEXTS]))], aside


def _noise(one: Beat, other: Beat) -> Iterator[Differing]:
    for what, own, its in (
        ("requests", one.requests, other.requests),
        ("console", one.console, other.console),
    ):
        mine, theirs = {still(x) for x in own}, {still(x) for x in its}
        left = tuple(x for x in own if still(x) not in theirs)
        right = tuple(x for x in its if still(x) not in mine)
        if left or right:
            yield Differing(what, left, right)  # type: ignore[arg-type]
    slow, quick = max(one.used, other.used), min(one.used, other.used)
    if slow - quick >= NOTABLE and slow >= SLOWER * quick:
        yield Differing("time", (f"{one.used:.1f} s",), (f"{other.used:.1f} s",))


def moving_between(one: Collection[str], other: Collection[str]) -> set[str]:
    """Return the texts, with their numbers open, that only one of two pages shows that passed."""
    return {numbers_open(text) for text in set(one) ^ set(other)}
