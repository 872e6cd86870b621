"""What is asked for: inputs with values, constraints, rows to keep, groups with a strength."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Any

from lantern.core.data.variations.rules import Rule, read_rule
from lantern.core.problems import BadInput, UnknownName, nearest

MOST_INPUTS = 200
MOST_VALUES = 100
STRONGEST = 6
MOST_TUPLES = 3_000_000
EACH, ALL, INVALID = "each value once", "all combinations", "one invalid at a time"
WAYS: dict[str, int] = {EACH: 1, "pairs": 2, "triples": 3, ALL: 0, INVALID: 0}
"""How values are combined, by name, with the strength that it stands for."""


@dataclass(frozen=True)
class Input:
    """One input: valid values first, `valid` of them, then those that are to be refused."""

    name: str
    values: tuple[str, ...]
    valid: int


@dataclass(frozen=True)
class Group:
    """Inputs (by place) among which another strength holds."""

    inputs: tuple[int, ...]
    strength: int


@dataclass(frozen=True)
class Plan:
    """All that decides which rows are designed; `keep` holds rows by input, maybe partial."""

    inputs: tuple[Input, ...]
    rules: tuple[Rule, ...] = ()
    keep: tuple[Mapping[str, str], ...] = ()
    groups: tuple[Group, ...] = ()
    strength: int = 2

    @classmethod
    def read(cls, raw: Mapping[str, Any], strength: int = 2) -> Plan:
        """Build a plan from an object with `inputs`, `constraints`, `keep` and `groups`.

        A value may be an object `{value: …, invalid: true}`. Raises BadInput with what is wrong.
        """
        if not isinstance(raw, Mapping):
            raise BadInput(
                "A design is an object with inputs.", hint="Write inputs: {clay: [a, b]}"
            )
        for name in raw:
            if name not in ("inputs", "constraints", "keep", "groups", "strength"):
                known = ["inputs", "constraints", "keep", "groups", "strength"]
                raise UnknownName("part of a design", str(name), known)
        inputs = _inputs(raw.get("inputs"))
        values = {one.name: one.values for one in inputs}
        plan = cls(
            inputs,
            tuple(read_rule(str(text), values) for text in _list(raw, "constraints")),
            tuple(_kept(row, inputs) for row in _list(raw, "keep")),
            tuple(_group(group, inputs) for group in _list(raw, "groups")),
            _strength(raw.get("strength", strength), len(inputs)),
        )
        plan.combinations()
        return plan

    def combinations(self) -> list[tuple[int, ...]]:
        """Return the combinations of inputs of which every allowed tuple is to be covered.

        Raises BadInput when that would be more than `MOST_TUPLES` tuples.
        """
        everywhere = combinations(range(len(self.inputs)), self.strength)
        apart = [frozenset(group.inputs) for group in self.groups]
        found = {
            chosen for chosen in everywhere if not any(set(chosen) <= group for group in apart)
        }
        for group in self.groups:
            found.update(combinations(sorted(group.inputs), group.strength))
        total = 0
        for chosen in found:
            size = 1
            for one in chosen:
                size *= self.inputs[one].valid
            total += size
        if total > MOST_TUPLES:
            raise BadInput(
                f"That is {total:,} combinations to cover; at most {MOST_TUPLES:,} are possible.",
                hint="Ask for pairs, or give the strength to a group of inputs only.",
            )
        return sorted(found)

    def keeps(self, row: Mapping[str, str]) -> list[int]:
        """Return a kept row as places of values, -1 where it is open."""
        return [one.values.index(row[one.name]) if one.name in row else -1 for one in self.inputs]


def _list(raw: Mapping[str, Any], name: str) -> Sequence[Any]:
    found = raw.get(name) or []
    if isinstance(found, str) or not isinstance(found, Sequence):
        raise BadInput(f"{name} is a list.", where=name)
    return found


def text_of(value: object) -> str:
    """Return a value of a file as text: yes and no as such, numbers as they were written."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None else str(value)


def _inputs(raw: object) -> tuple[Input, ...]:
    if not isinstance(raw, Mapping) or not raw:
        raise BadInput("A design needs inputs with their values.", where="inputs",
                       hint="Write inputs: {clay: [Raku, Stoneware], rush: [yes, no]}")  # fmt: skip
    if len(raw) > MOST_INPUTS:
        raise BadInput(f"At most {MOST_INPUTS} inputs can be designed.", where="inputs")
    return tuple(_input(text_of(name), values) for name, values in raw.items())


def _input(name: str, raw: object) -> Input:
    where = f"inputs, {name}"
    if isinstance(raw, str) or not isinstance(raw, Sequence) or not raw:
        raise BadInput(f"{name} needs a list of values.", where=where)
    valid: list[str] = []
    invalid: list[str] = []
    for one in raw:
        bad = isinstance(one, Mapping) and text_of(one.get("invalid")).lower() in ("yes", "true")
        value = text_of(one.get("value") if isinstance(one, Mapping) else one)
        (invalid if bad else valid).append(value)
    values = (*valid, *invalid)
    double = next((value for value in values if values.count(value) > 1), None)
    if double is not None:
        raise BadInput(f"{name} has the value {double!r} twice.", where=where)
    if not valid:
        raise BadInput(f"{name} has no valid value.", where=where)
    if len(values) > MOST_VALUES:
        raise BadInput(f"{name} has more than {MOST_VALUES} values.", where=where)
    return Input(name, values, len(valid))


def _strength(raw: object, most: int) -> int:
    try:
        strength = int(str(raw))
    except ValueError as error:
        raise BadInput(f"A strength is a whole number, not {raw!r}.", where="strength") from error
    if not 1 <= strength <= STRONGEST:
        raise BadInput(f"A strength is between 1 and {STRONGEST}.", where="strength")
    return min(strength, most)


def _kept(raw: object, inputs: Sequence[Input]) -> Mapping[str, str]:
    if not isinstance(raw, Mapping):
        raise BadInput("A row to keep names inputs with values.", where="keep")
    known = {one.name: one for one in inputs}
    row = {text_of(name): text_of(value) for name, value in raw.items()}
    for name, value in row.items():
        if name not in known:
            raise UnknownName("input", name, known, where="keep")
        if value not in known[name].values:
            close = nearest(value, known[name].values)
            raise BadInput(
                f"{value!r} in a row to keep is not a value of {name}: "
                f"{', '.join(known[name].values)}.",
                where="keep",
                hint=f"Did you mean {close!r}?" if close else "",
            )
    return row


def _group(raw: object, inputs: Sequence[Input]) -> Group:
    if not isinstance(raw, Mapping):
        raise BadInput("A group has inputs and a strength.", where="groups")
    names = [one.name for one in inputs]
    chosen = [text_of(name) for name in _list(raw, "inputs")]
    for name in chosen:
        if name not in names:
            raise UnknownName("input", name, names, where="groups")
    if len(set(chosen)) < 2:
        raise BadInput("A group needs at least two inputs.", where="groups")
    places = tuple(sorted({names.index(name) for name in chosen}))
    return Group(places, _strength(raw.get("strength", 2), len(places)))
