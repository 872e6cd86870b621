"""Comparing what came of a sentence when it is played with what came of it while recording.

Lines are compared, not pages: what was there before, such as the orders of last week, plays no
part. Numbers that move by themselves (times, dates, running numbers, counts that went on by as
much as they did before) are no difference; a value that the test put in itself is one.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import zip_longest
from typing import Literal

from lantern.core.proving.shown import FIELD, Effect, Shown, effect, in_order
from lantern.core.steps.actions.navigating import title_pattern

MOST_TOLD = 40
"""Differences of one sentence that are kept."""
MOST_OF_NEW = 2
"""Lines of a new page that are told beside those that it lacks."""
MOST_ALIKE = 12
"""Lines of one shape that are held against another of that shape."""
MOST_BY_VALUE = 60
"""Lines that are looked through for values of the data."""
WHOLE = 0.5
"""Share of a document's lines from which on an effect counts as a new page."""
_NUMBER = re.compile(r"\d+(?:[.,]\d+)*")
_BY_ITSELF = re.compile(
    r"\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?)?"  # a date, with its time
    r"|\d{1,2}[./]\d{1,2}[./]\d{2,4}"
    r"|\d{1,2} \w{3,9} \d{4}|\w{3,9} \d{1,2}, \d{4}"
    r"|\d{1,2}:\d\d(?::\d\d)?(?:\s?[ap]m\b)?"
    r"|\d+\s?(?:ms|s|sec|seconds?)\b|\d+\s?(?:min|minutes?|h|hours?|days?) ago\b"
    r"|(?:\b(?:no|nr|id|number|ref)\b\.?|#|№)\s*[:.]?\s*[\w-]*\d[\w-]*"
    r"|\b(?=[0-9a-f-]*\d)(?=[0-9a-f-]*[a-f])[0-9a-f]{4,}(?:-[0-9a-f]{2,})*\b"
    r"|\b[A-Z]{1,4}-?\d{3,}\b|\d{5,}",
    re.IGNORECASE,
)
"""Texts that are others each time: days, times, ages, running numbers, keys."""


@dataclass(frozen=True)
class Aside:
    """What is no difference: shapes of lines that move by themselves, and values of names.

    `lasting` are the lines that the recording saw appear: only of these is known that they stayed.
    `fleeting` are shapes of lines that went at some sentence of the recording, as messages do that
    go by themselves; `values` are what rows, secrets and made-up values put in when the test was
    played.
    """

    shapes: frozenset[str] = frozenset()
    lasting: frozenset[str] = frozenset()
    fleeting: frozenset[str] = frozenset()
    values: tuple[str, ...] = ()


NOTHING_ASIDE = Aside()
Sort = Literal["missing", "extra", "stayed", "vanished", "misplaced", "page", "address"]


@dataclass(frozen=True)
class Difference:
    """One way in which a page is another than while recording.

    `line` is what it is about, for a page or an address what it is now; `wanted` what that was
    while recording, for a line in another place the one that it stood behind; `behind` the one
    that it stands behind now.
    """

    sort: Sort
    line: str
    wanted: str = ""
    behind: str = ""

    @property
    def said(self) -> str:
        """The difference as a sentence."""
        return _SAID[self.sort].format(line=self.line, wanted=self.wanted, behind=self.behind)


_SAID: dict[Sort, str] = {
    "missing": "“{line}” did not appear.",
    "extra": "“{line}” appeared.",
    "stayed": "“{line}” is still there.",
    "vanished": "“{line}” disappeared.",
    "misplaced": "“{line}” stands behind “{behind}”, not behind “{wanted}”.",
    "page": "The page was “{wanted}”; now it is “{line}”.",
    "address": "The address was like {wanted}; now it is like {line}.",
}


@lru_cache(maxsize=20_000)
def shape_of(line: str) -> str:
    """Return a line without its numbers: what stays of it when they move."""
    return _NUMBER.sub("#", _still(line))


@lru_cache(maxsize=20_000)
def _still(line: str) -> str:
    """Return a line without what is another each time."""
    return _BY_ITSELF.sub("#", line)


def differences(
    recorded: Sequence[Effect],
    before: Shown | None,
    after: Shown,
    aside: Aside = NOTHING_ASIDE,
    following: Sequence[Effect] = (),
) -> tuple[Difference, ...]:
    """Return how a document differs from what the recording saw; () for not at all.

    `recorded` is what came of the sentence while recording, seen once or twice: when the page had
    come to rest, and when the next act began. Only what both saw has to be there; what one of
    them saw may be. `before` and `after` are what the document shows around the same sentence
    when it is played, `before` None for a new one; `following` is what came of the next sentence
    while recording: somebody who was quick saw some of it only then.
    """
    if not recorded:
        return ()
    if another := _another_page(recorded, after):
        return (another,)
    pair = _Pair(recorded[-1], effect(before, after), aside)
    first, last = recorded[0], recorded[-1]
    common = Counter(first.added) & Counter(last.added)
    later = Counter(line for one in following for line in (*one.added, *one.gone))
    allowed = Counter(first.added) | Counter(last.added) | later
    shown = Counter(after.lines)
    told = [
        Difference("missing", line)
        for line in pair.missing(in_order(last.added, common), after.lines)
        if not shown[line]
    ]
    whole = sum(common.values()) > WHOLE * max(1, len(after.lines))
    if before and (told or not whole):  # a new page may well list more than it did
        extra = pair.unexpected(allowed)
        told += [Difference("extra", line) for line in extra[: MOST_OF_NEW if whole else None]]
    old = Counter(before.lines if before else ())
    told += [
        Difference("stayed", line)
        for line in (Counter(first.gone) & Counter(last.gone))
        if old[line] and shown[line] >= old[line] and shape_of(line) not in aside.shapes
    ]
    if before and not whole:
        told += [Difference("vanished", line) for line in pair.vanished(first)]
    moved = [both for both in last.moved if both in first.moved]
    return (*told, *_misplaced(moved, after, aside))[:MOST_TOLD]


def _another_page(recorded: Sequence[Effect], after: Shown) -> Difference | None:
    """Return how another page is shown than while recording, None when it is that one."""
    titles = {title_pattern(one.title) for one in recorded}
    if title_pattern(after.title) not in titles:
        return Difference("page", after.title, recorded[-1].title)
    places = {one.address for one in recorded}
    if after.address not in places and after.address and all(places):
        return Difference("address", after.address, recorded[-1].address)
    return None


def _misplaced(
    moved: Sequence[tuple[str, str]], after: Shown, aside: Aside
) -> Iterator[Difference]:
    behind = dict(zip(after.lines, ["", *after.lines], strict=False))
    for line, wanted in moved:
        there = line in behind and (wanted in behind or not wanted)
        if there and behind[line] != wanted and shape_of(line) not in aside.shapes:
            yield Difference("misplaced", line, wanted, behind[line])


@dataclass(frozen=True)
class _Pair:
    """What came of a sentence while recording, and when it was played."""

    recorded: Effect
    played: Effect
    aside: Aside

    def missing(self, needed: Sequence[str], shown: Sequence[str]) -> list[str]:
        """Return the recorded lines that have no like in what appeared, or is shown at all."""
        return self._unmatched(needed, (*self.played.added, *shown), self.recorded, self.played)

    def unexpected(self, allowed: Counter[str]) -> list[str]:
        """Return the lines that appeared now and have no like among those allowed."""
        return self._unmatched(self.played.added, allowed.elements(), self.played, self.recorded)

    def vanished(self, first: Effect) -> list[str]:
        """Return the lines that went now though the recording saw them appear, and stay."""
        gone = {shape_of(line) for line in (*first.gone, *self.recorded.gone)}
        known = gone | self.aside.shapes | self.aside.fleeting
        return [
            line
            for line in self.played.gone
            if line in self.aside.lasting and shape_of(line) not in known
        ]

    def _unmatched(
        self, wanted: Iterable[str], found: Iterable[str], here: Effect, there: Effect
    ) -> list[str]:
        """Return the lines that have no like among those found, each of which matches once.

        Lines are looked up by their shape, so that long pages take no longer than their length.
        """
        left = Counter(found)
        open_lines = []
        for line in wanted:
            if left[line] > 0:
                left[line] -= 1
            elif shape_of(line) not in self.aside.shapes:
                open_lines.append(line)
        by_shape: dict[str, list[str]] = {}
        for other in left.elements():
            by_shape.setdefault(shape_of(other), []).append(other)
        was, now = _went(here), _went(there)
        unmatched = [line for line in open_lines if not _takes(line, by_shape, was, now)]
        rest = [other for others in by_shape.values() for other in others][:MOST_BY_VALUE]
        by_value = unmatched[:MOST_BY_VALUE]
        return [
            line
            for line in unmatched
            if not (line in by_value and _takes_by_value(line, rest, self.aside.values))
        ]


Was = dict[str, str]
"""The first line of each shape that went: what another of that shape took the place of."""


def _went(seen: Effect) -> Was:
    return {shape_of(line): line for line in reversed(seen.gone)}


def _takes(line: str, by_shape: dict[str, list[str]], here: Was, there: Was) -> bool:
    """Take out the first line that differs only in numbers that move; tell whether there is one."""
    if FIELD in line:
        return False
    others = by_shape.get(shape_of(line), [])
    for place, other in enumerate(others[:MOST_ALIKE]):
        if _numbers_move(line, other, here, there):
            del others[place]
            return True
    return False


def _takes_by_value(line: str, rest: list[str], values: Sequence[str]) -> bool:
    """Take out the first line that is this one but for a value of the data."""
    for place, other in enumerate(rest):
        if any(_with_value(one, line, other) for one in values):
            del rest[place]
            return True
    return False


def _with_value(value: str, line: str, other: str) -> bool:
    """Tell whether one line is the other with a value of the data in it."""
    return any(
        len(value) > 1 and value in filled and _fills(filled.split(value), plain)
        for filled, plain in ((line, other), (other, line))
    )


def _fills(parts: Sequence[str], plain: str) -> bool:
    """Tell whether a line is made of these parts in their order, with something between them."""
    if not (plain.startswith(parts[0]) and plain.endswith(parts[-1])):
        return False
    at = len(parts[0])
    for part in parts[1:-1]:
        at = plain.find(part, at + 1) + len(part)
        if at < len(part):
            return False
    return at < len(plain) - len(parts[-1])


def _numbers_move(line: str, other: str, here: Was, there: Was) -> bool:
    if _still(line) == _still(other):
        return True
    went_on = _steps(line, here)
    return went_on is not None and went_on == _steps(other, there)


def _steps(line: str, was: Was) -> tuple[float, ...] | None:
    """Return by how much each number of a line went on from the line that it took the place of."""
    before = was.get(shape_of(line))
    if before is None:
        return None
    pairs = zip_longest(_NUMBER.findall(line), _NUMBER.findall(before), fillvalue="0")
    return tuple(round(_as_number(a) - _as_number(b), 6) for a, b in pairs)


def _as_number(text: str) -> float:
    bare = text.replace(",", ".")
    whole, _, rest = bare.rpartition(".")
    return float(f"{whole.replace('.', '')}.{rest}" if whole else rest)


@dataclass(frozen=True)
class Found:
    """A sentence that did something else when it was played: which, and how that shows."""

    step: str
    sentence: str
    told: tuple[Difference, ...]
