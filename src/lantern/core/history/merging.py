"""Taking a change back although others came after it: three states of a thing made one.

`after` is the thing as a change left it, `before` as it was before that change, `now` as it is.
What the change did not touch stays as it is now; what it touched goes back, unless it was changed
again since: that is a clash, which only a person can settle.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any, TypeVar

from lantern.core.data.table import Row
from lantern.core.steps.labels import relabelled
from lantern.core.steps.model import Document, Step
from lantern.core.steps.tree import settled

V = TypeVar("V")
T = TypeVar("T", Step, Row)

SILENT = frozenset({"picture", "box", "page", "idle", "ticked"})
"""Parts that say how something was recorded or what is looked at: nobody is asked about them."""
ORDER = "order"
_PARTS = ("columns", "design", "takes", "gives", "traits", "table", "source", "code", "needs")
"""Parts of a document that go back as a whole, or not at all."""


@dataclass(frozen=True)
class Clash:
    """Something that a change touched and that was changed again since.

    `thing` is "sentence", "row" or the part of the document, `key` the id of the sentence or row,
    `part` what of it.
    """

    thing: str
    key: str = ""
    part: str = ""


@dataclass(frozen=True)
class TakenBack:
    """What taking a change back comes to, and where something was built on it.

    `document` has the change taken back there too: what was built on it goes with it.
    """

    document: Document
    clashes: tuple[Clash, ...] = ()


def taken_back(before: Document, after: Document, now: Document) -> TakenBack:
    """Return the newest document without the change that led from `before` to `after`."""
    clashes: list[Clash] = []
    steps = _things(before.steps, after.steps, now.steps, "sentence", clashes)
    rows = _things(before.rows, after.rows, now.rows, "row", clashes)
    changed: dict[str, Any] = {}
    for name in _PARTS:
        was, left, stands = (getattr(one, name) for one in (before, after, now))
        if was != left:
            if stands not in (left, was):
                clashes.append(Clash(name))
            changed[name] = was
    put_on, taken_off = (
        set(after.labels) - set(before.labels),
        set(before.labels) - set(after.labels),
    )
    settings = _fields(before.settings, after.settings, now.settings)
    clashes += [Clash("settings", part=name) for name in settings.clashes]
    document = replace(
        now,
        **changed,
        steps=settled(steps),
        rows=tuple(rows),
        settings=replace(now.settings, **settings.values),
        labels=relabelled(now.labels, taken_off, put_on),
    )
    return TakenBack(document, tuple(clashes))


@dataclass
class _Fields:
    """The parts that go back, and those that were changed again since."""

    values: dict[str, Any]
    clashes: list[str]


def _fields(before: object, after: object, now: object) -> _Fields:
    """Compare dataclasses of one kind, part by part; mappings key by key."""
    found = _Fields({}, [])
    for one in fields(before):  # type: ignore[arg-type]  # callers give dataclasses
        was, left, stands = (getattr(thing, one.name) for thing in (before, after, now))
        if was == left or stands == was:
            continue
        if isinstance(was, Mapping) and isinstance(stands, Mapping):
            found.values[one.name], again = taken_back_keys(was, left, stands)
            found.clashes += again
            continue
        if stands != left and one.name not in SILENT:
            found.clashes.append(one.name)
        if stands == left or one.name not in SILENT:
            found.values[one.name] = was
    return found


def taken_back_keys(
    before: Mapping[str, V], after: Mapping[str, V], now: Mapping[str, V]
) -> tuple[dict[str, V], list[str]]:
    """Return a mapping with a change of some keys taken back, and the keys changed again since."""
    result, again = dict(now), []
    for key in dict.fromkeys([*before, *after]):
        was, left, stands = before.get(key), after.get(key), now.get(key)
        if was == left:
            continue
        if stands not in (left, was):
            again.append(key)
        if was is None:
            result.pop(key, None)
        else:
            result[key] = was
    return result, again


def _things(
    before: Sequence[T], after: Sequence[T], now: Sequence[T], thing: str, clashes: list[Clash]
) -> tuple[T, ...]:
    """Take the change of a list of things with ids back."""
    if before is after or before == after:
        return tuple(now)
    was: dict[str, T] = _by_id(before)
    left: dict[str, T] = _by_id(after)
    stands: dict[str, T] = _by_id(now)
    result = dict(stands)
    for key in dict.fromkeys([*was, *left]):
        one, other = was.get(key), left.get(key)
        if one is other or one == other:
            continue
        here = stands.get(key)
        if one is None:
            if here is not None and _differs(here, other):
                clashes.append(Clash(thing, key))
            result.pop(key, None)
        elif other is None:
            result.setdefault(key, one)  # what was deleted comes back, once
        elif here is None:
            clashes.append(Clash(thing, key))
            result[key] = one
        else:
            parts = _fields(one, other, here)
            clashes += [Clash(thing, key, name) for name in parts.clashes]
            result[key] = replace(here, **parts.values)
    order, fits = _order(list(was), list(left), list(stands), result.keys())
    if not fits:
        clashes.append(Clash(thing, part=ORDER))
    return tuple(result[key] for key in order)


def _by_id(things: Sequence[T]) -> dict[str, T]:
    return {thing.id: thing for thing in things}


def _differs(here: Step | Row, left: Step | Row | None) -> bool:
    """Tell whether a thing was changed again since, in a way that somebody would miss."""
    quiet = {name: getattr(left, name) for name in SILENT if hasattr(left, name)}
    return replace(here, **quiet) != left


def _order(
    before: Sequence[str], after: Sequence[str], now: Sequence[str], wanted: Iterable[str]
) -> tuple[list[str], bool]:
    """Return the order in which things stand, and whether nobody else had moved them since."""
    kept = set(wanted)

    def common(order: Sequence[str], other: Sequence[str]) -> list[str]:
        known = set(other)
        return [key for key in order if key in known]

    moved = common(before, after) != common(after, before)
    moved_since = common(after, now) != common(now, after)
    base, extra = (before, now) if moved else (now, before)
    placed = [key for key in base if key in kept]
    missing = kept - set(placed)
    for key in extra:
        if key in missing:
            placed.insert(_place(key, extra, placed), key)
    return placed, not (moved and moved_since)


def _place(key: str, order: Sequence[str], placed: Sequence[str]) -> int:
    """Return where a key goes among others: behind the nearest one that stood before it."""
    spots = {one: spot for spot, one in enumerate(placed)}
    for other in reversed(order[: order.index(key)]):
        if other in spots:
            return spots[other] + 1
    return 0
