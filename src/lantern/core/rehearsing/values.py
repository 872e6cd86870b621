"""The values in reach of a sentence: in one list, with what they were, and changed by hand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import cast

from lantern.core.engine.requests import Spot
from lantern.core.problems import BadInput, Problem, UnknownName
from lantern.core.values.made import call_in
from lantern.core.values.redaction import MASK
from lantern.core.values.sources import SOURCES, Names
from lantern.core.values.templates import made_in

MADE = "made up"
"""What stands as the source of made-up values."""
MOST_BEFORE = 50
_ORDER = {"each": -4, "input": -3, "kept": -2, "row": -1, MADE: 1, "env": 2, "secret": 3}
"""In which order sources are listed: first what differs from sentence to sentence."""


@dataclass(frozen=True)
class Before:
    """What a value was, up to a sentence."""

    value: str
    sentence: str


@dataclass(frozen=True)
class Value:
    """A value in reach: `name` within its `source`, `changed` by hand, `hidden` for a secret.

    `what` says in words where it comes from; `before` is what it was earlier, the oldest first.
    """

    source: str
    name: str
    value: str
    what: str
    changed: bool = False
    hidden: bool = False
    before: tuple[Before, ...] = ()


@dataclass
class Ledger:
    """Keeps what values were over the sentences of a rehearsal, and what was changed by hand."""

    _now: dict[tuple[str, str], str] = field(default_factory=dict)
    _before: dict[tuple[str, str], list[Before]] = field(default_factory=dict)
    _changed: set[tuple[str, str]] = field(default_factory=set)

    def note(self, spot: Spot, sentence: str) -> None:
        """Note what the values are when a sentence is come to."""
        for one in _listed(spot):
            key = (f"{'/'.join(spot.calls)} {one.source}", one.name)
            was = self._now.get(key)
            if was is not None and was != one.value and not one.hidden:
                self._before.setdefault(key, []).append(Before(was, sentence))
                del self._before[key][:-MOST_BEFORE]
            self._now[key] = one.value

    def in_reach(self, spot: Spot) -> list[Value]:
        """List what is in reach of a sentence, by source, secrets masked."""
        found = []
        for one in _listed(spot):
            key = (f"{'/'.join(spot.calls)} {one.source}", one.name)
            before = tuple(self._before.get(key, ()))
            found.append(
                Value(
                    one.source,
                    one.name,
                    one.value,
                    one.what,
                    key in self._changed,
                    one.hidden,
                    before,
                )
            )
        return found

    def refresh(self, names: Names, row: Mapping[str, str]) -> None:
        """Take the values of a row as they are in the table now, but those changed by hand."""
        for name, value in row.items():
            if (" row", name) not in self._changed:
                cast("dict[str, str]", names.row)[name] = value

    def change(self, spot: Spot, source: str, name: str, value: str) -> None:
        """Change a value in reach, for the rest of this rehearsal.

        Raises BadInput for a secret, UnknownName for what is not in reach.
        """
        names = spot.script.names
        if source == MADE:
            cast("dict[str, str]", names.instead)[name] = value
        else:
            known = _mapping(names, source)
            if name not in known:
                raise UnknownName(SOURCES[source].what, name, known)
            cast("dict[str, str]", known)[name] = value
        self._changed.add((f"{'/'.join(spot.calls)} {source}", name))


def _mapping(names: Names, source: str) -> Mapping[str, str]:
    if source not in SOURCES:
        raise UnknownName("source of values", source, SOURCES)
    if SOURCES[source].hidden:
        raise BadInput(
            "A secret can not be changed in a rehearsal.",
            where=source,
            hint="Change it in the settings of the environment.",
        )
    return SOURCES[source].reach(names)


def _listed(spot: Spot) -> list[Value]:
    names = spot.script.names
    found = [
        Value(
            source, name, MASK if its.hidden else value, its.tells.format(name), hidden=its.hidden
        )
        for source, its in SOURCES.items()
        for name, value in its.reach(names).items()
    ]
    found += _made(spot)
    return sorted(found, key=lambda one: _ORDER.get(one.source, 0))


def _made(spot: Spot) -> list[Value]:
    """List what is made up for a sentence, as it will be used."""
    found = []
    for template in spot.step.inputs.values():
        try:
            made = made_in(template, spot.script.names, spot.step.id)
        except Problem:
            continue  # playing the sentence says what is wrong with it
        for key, call, value in made:
            called = call_in(call)
            what = f"Made up by {called[0] if called else call}, from the seed “{key}”."
            found.append(Value(MADE, key, value, what))
    return found
