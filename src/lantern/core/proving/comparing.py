"""Comparing what came of a sentence when it is played with what came of it while recording.

Lines are compared, not pages: what was there before, such as the orders of last week, plays no
part. Numbers that move by themselves (times, dates, running numbers, counts that went on by as
much as they did before) are no difference; a value that the test put in itself is one.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import zip_longest

from lantern.core.proving.shown import FIELD, Effect, Shown, effect, in_order
from lantern.core.steps.actions.navigating import title_pattern

WHOLE = 0.5
"""Share of a document's lines from which on an effect counts as a new page."""
_NUMBER = re.compile(r"\d+(?:[.,]\d+)*")
_BY_ITSELF = re.compile(
    r"\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?)?"  # a date, with its time
    r"|\d{1,2}[./]\d{1,2}[./]\d{2,4}"
    r"|\d{1,2} \w{3,9} \d{4}|\w{3,9} \d{1,2}, \d{4}"
    r"|\d{1,2}:\d\d(?::\d\d)?(?:\s?[ap]m\b)?"
    r"|\d+\s?(?:ms|s|sec|seconds?|min|minutes?|h|hours?|days?)\b(?: ago)?"
    r"|(?:\b(?:no|nr|id|number|ref)\b\.?|#|№)\s*[:.]?\s*[\w-]*\d[\w-]*"
    r"|\b(?=[0-9a-f-]*\d)(?=[0-9a-f-]*[a-f])[0-9a-f]{4,}(?:-[0-9a-f]{2,})*\b"
    r"|\b[A-Z]{1,4}-?\d{3,}\b|\d{5,}",
    re.IGNORECASE,
)
"""Texts that are others each time: days, times, durations, running numbers, keys."""


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


def shape_of(line: str) -> str:
    """Return a line without its numbers: what stays of it when they move."""
    return _NUMBER.sub("#", _BY_ITSELF.sub("#", line))


def differences(
    recorded: Sequence[Effect],
    before: Shown | None,
    after: Shown,
    aside: Aside = NOTHING_ASIDE,
    following: Sequence[Effect] = (),
) -> tuple[str, ...]:
    """Return how a document differs from what the recording saw, as sentences; () for not at all.

    `recorded` is what came of the sentence while recording, seen once or twice: when the page had
    come to rest, and when the next act began. Only what both saw has to be there; what one of
    them saw may be. `before` and `after` are what the document shows around the same sentence
    when it is played, `before` None for a new one; `following` is what came of the next sentence
    while recording: somebody who was quick saw some of it only then.
    """
    if not recorded:
        return ()
    if elsewhere := _another_page(recorded, after):
        return (elsewhere,)
    played, shown = effect(before, after), Counter(after.lines)
    first, last = recorded[0], recorded[-1]
    common = Counter(first.added) & Counter(last.added)
    needed = replace(last, added=tuple(in_order(last.added, common)))
    later = Counter(line for one in following for line in (*one.added, *one.gone))
    allowed = replace(
        last, added=tuple((Counter(first.added) | Counter(last.added) | later).elements())
    )
    missing = [
        line
        for line in _unmatched(needed.added, (*played.added, *after.lines), last, played, aside)
        if not shown[line]
    ]
    told = [f"“{line}” did not appear." for line in missing]
    whole = len(needed.added) > WHOLE * max(1, len(after.lines))
    if before and (missing or not whole):  # a new page may well list more than it did
        extra = _unmatched(played.added, allowed.added, played, last, aside)
        told += [f"“{line}” appeared." for line in extra[: 2 if whole else None]]
    old = Counter(before.lines if before else ())
    told += [
        f"“{line}” is still there."
        for line in (Counter(first.gone) & Counter(last.gone))
        if old[line] and shown[line] >= old[line] and shape_of(line) not in aside.shapes
    ]
    if before and not whole:
        vanish = (
            {shape_of(line) for line in (*first.gone, *last.gone)} | aside.shapes | aside.fleeting
        )
        told += [
            f"“{line}” disappeared."
            for line in played.gone
            if line in aside.lasting and shape_of(line) not in vanish
        ]
    moved = [pair for pair in last.moved if pair in first.moved]
    return (*told, *_misplaced(moved, after, aside))


def _another_page(recorded: Sequence[Effect], after: Shown) -> str:
    """Return how another page is shown than while recording, "" when it is that one."""
    titles = {title_pattern(one.title) for one in recorded}
    if title_pattern(after.title) not in titles:
        return f"The page was “{recorded[-1].title}”; now it is “{after.title}”."
    places = {one.address for one in recorded}
    if after.address not in places and after.address and all(places):
        return f"The address was like {recorded[-1].address}; now it is like {after.address}."
    return ""


def _misplaced(moved: Sequence[tuple[str, str]], after: Shown, aside: Aside) -> list[str]:
    behind = dict(zip(after.lines, ["", *after.lines], strict=False))
    return [
        f"“{line}” stands behind “{behind[line]}”, not behind “{wanted}”."
        for line, wanted in moved
        if line in behind
        and (wanted in behind or not wanted)
        and behind[line] != wanted
        and shape_of(line) not in aside.shapes
    ]


def _unmatched(
    wanted: Sequence[str], found: Iterable[str], here: Effect, there: Effect, aside: Aside
) -> list[str]:
    """Return the lines that have no like among those found, each of which matches once."""
    left = list(found)
    open_lines = []
    for line in wanted:
        if line in left:
            left.remove(line)
        else:
            open_lines.append(line)
    unmatched = []
    for line in open_lines:
        match = next((one for one in left if _alike(line, one, here, there, aside)), None)
        if match is not None:
            left.remove(match)
        elif shape_of(line) not in aside.shapes:
            unmatched.append(line)
    return unmatched


def _alike(line: str, other: str, here: Effect, there: Effect, aside: Aside) -> bool:
    """Tell whether two lines differ only in what moves by itself, or comes from the data."""
    if shape_of(line) == shape_of(other):
        if shape_of(line) in aside.shapes:
            return True
        if FIELD not in line and _numbers_move(line, other, here, there):
            return True
    return any(_with_value(one, line, other) for one in aside.values)


def _with_value(value: str, line: str, other: str) -> bool:
    """Tell whether one line is the other with a value of the data in it."""
    for filled, plain in ((line, other), (other, line)):
        if len(value) > 1 and value in filled:
            parts = map(re.escape, filled.split(value))
            if re.fullmatch("(.+)".join(parts), plain):
                return True
    return False


def _numbers_move(line: str, other: str, here: Effect, there: Effect) -> bool:
    if _BY_ITSELF.sub("#", line) == _BY_ITSELF.sub("#", other):
        return True
    return _steps(line, here.gone) == _steps(other, there.gone) != None  # noqa: E711 - both sides


def _steps(line: str, gone: Sequence[str]) -> tuple[float, ...] | None:
    """Return by how much each number of a line went on from the line that it took the place of."""
    was = next((one for one in gone if shape_of(one) == shape_of(line)), None)
    if was is None:
        return None
    pairs = zip_longest(_NUMBER.findall(line), _NUMBER.findall(was), fillvalue="0")
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
    told: tuple[str, ...]
