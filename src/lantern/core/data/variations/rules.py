"""Constraints in words: `if clay = raku then rush = no`, `shelf != "Small" or count <= 6`.

    rule      = "if" condition "then" condition | condition
    condition = both { "or" both }
    both      = single { "and" single }
    single    = "not" single | "(" condition ")" | name compare value | name "in" "(" value, … ")"
    compare   = "=" | "!=" | "<" | "<=" | ">" | ">="

Names and values of several words stand in quotes. What is compared with may be another input.
Equal means the same text ("06" is not "6"); smaller and greater compare numbers as numbers.
"""

from __future__ import annotations

import operator
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from lantern.core.problems import BadInput, NearMiss, UnknownName, listed, nearest

_TOKEN = re.compile(r"""\s*(?:"([^"]*)"|'([^']*)'|(<=|>=|!=|=|<|>|\(|\)|,)|([^\s"'<>=!(),]+))""")
RESERVED = frozenset("if then and or not in".split())
_COMPARE: dict[str, Callable[[Any, Any], bool]] = {
    "=": operator.eq,
    "!=": operator.ne,
    "<": operator.lt,
    "<=": operator.le,
    ">": operator.gt,
    ">=": operator.ge,
}
ORDERED = frozenset("< <= > >=".split())


@dataclass(frozen=True)
class Atom:
    """One or two inputs and the (tuples of) places of values for which it holds."""

    inputs: tuple[int, ...]
    allowed: frozenset[tuple[int, ...]]


@dataclass(frozen=True)
class Every:
    """All parts hold; without parts, it holds."""

    parts: tuple[Condition, ...]


@dataclass(frozen=True)
class Some:
    """At least one part holds; without parts, none does."""

    parts: tuple[Condition, ...]


@dataclass(frozen=True)
class Not:
    """The part does not hold."""

    part: Condition


Condition = Atom | Every | Some | Not


@dataclass(frozen=True)
class Rule:
    """A constraint as it was written, and what it says."""

    text: str
    condition: Condition

    def inputs(self) -> frozenset[int]:
        """Return the inputs that the rule speaks of."""
        return _inputs(self.condition)


def _inputs(condition: Condition) -> frozenset[int]:
    match condition:
        case Atom():
            return frozenset(condition.inputs)
        case Not():
            return _inputs(condition.part)
        case Every() | Some():
            return frozenset[int]().union(*map(_inputs, condition.parts))


def holds(condition: Condition, row: Sequence[int]) -> bool:
    """Tell whether a condition holds for a full row of places of values."""
    match condition:
        case Atom():
            return tuple(row[one] for one in condition.inputs) in condition.allowed
        case Not():
            return not holds(condition.part, row)
        case Every():
            return all(holds(part, row) for part in condition.parts)
        case Some():
            return any(holds(part, row) for part in condition.parts)


@dataclass(frozen=True)
class Words:
    """What messages call a rule and what it speaks of, where it stands, and how one is written."""

    rule: str = "constraint"
    input: str = "input"
    where: str = "constraints"
    hint: str = "Write for example: if clay = raku then rush = no"


def read_rule(text: str, inputs: Mapping[str, Sequence[str]], words: Words = Words()) -> Rule:
    """Read a constraint over inputs with their values; raises BadInput with the place."""
    return _Reader(text, inputs, words).rule()


def _order(value: str) -> tuple[int, object]:
    """Numbers are compared as numbers, all else as text."""
    try:
        return 0, float(value)
    except ValueError:
        return 1, value


class _Reader:
    def __init__(self, text: str, inputs: Mapping[str, Sequence[str]], words: Words) -> None:
        self._text, self._inputs, self._words = text.strip(), inputs, words
        self._names = list(inputs)
        self._tokens = self._split()
        self._at = 0

    def _split(self) -> list[tuple[str, str]]:
        tokens, place = [], 0
        while place < len(self._text):
            match = _TOKEN.match(self._text, place)
            if not match:
                raise self._error(f"does not go on at “{self._text[place : place + 20]}”")
            double, single, sign, word = match.groups()
            if sign:
                tokens.append(("sign", sign))
            elif word and word.lower() in RESERVED:
                tokens.append(("word", word.lower()))
            else:
                tokens.append(
                    ("text", next(one for one in (double, single, word) if one is not None))
                )
            place = match.end()
        return tokens

    def _error(self, what: str, hint: str = "") -> BadInput:
        return BadInput(
            f"The {self._words.rule} “{self._text}” {what}.",
            where=self._words.where,
            hint=hint or self._words.hint,
        )

    def _next(self, kind: str, text: str = "") -> bool:
        if self._at < len(self._tokens):
            found = self._tokens[self._at]
            if found[0] == kind and text in ("", found[1]):
                self._at += 1
                return True
        return False

    def _last(self) -> str:
        return self._tokens[self._at - 1][1]

    def _need(self, kind: str, text: str, what: str) -> str:
        if not self._next(kind, text):
            found = self._tokens[self._at][1] if self._at < len(self._tokens) else "its end"
            raise self._error(f"needs {what} before “{found}”")
        return self._last()

    def rule(self) -> Rule:
        if self._next("word", "if"):
            when = self._condition()
            self._need("word", "then", "“then”")
            found: Condition = Some((Not(when), self._condition()))
        else:
            found = self._condition()
        if self._at < len(self._tokens):
            raise self._error(f"goes on with “{self._tokens[self._at][1]}” where it should end")
        return Rule(self._text, found)

    def _condition(self) -> Condition:
        parts = [self._both()]
        while self._next("word", "or"):
            parts.append(self._both())
        return parts[0] if len(parts) == 1 else Some(tuple(parts))

    def _both(self) -> Condition:
        parts = [self._single()]
        while self._next("word", "and"):
            parts.append(self._single())
        return parts[0] if len(parts) == 1 else Every(tuple(parts))

    def _single(self) -> Condition:
        if self._next("word", "not"):
            return Not(self._single())
        if self._next("sign", "("):
            inner = self._condition()
            self._need("sign", ")", "“)”")
            return inner
        name = self._input(self._need("text", "", "the name of an input"))
        if self._next("word", "in"):
            return self._one_of(name)
        for sign in _COMPARE:
            if self._next("sign", sign):
                return self._compare(name, sign, self._need("text", "", "a value"))
        raise self._error(
            f"says nothing of {self._names[name]}", "Compare with = != < <= > >= or in."
        )

    def _input(self, name: str) -> int:
        if name not in self._inputs:
            where = f"{self._words.rule} “{self._text}”"
            raise UnknownName(self._words.input, name, self._names, where=where)
        return self._names.index(name)

    def _one_of(self, one: int) -> Atom:
        self._need("sign", "(", "“(”")
        places = [self._value(one, self._need("text", "", "a value"))]
        while self._next("sign", ","):
            places.append(self._value(one, self._need("text", "", "a value")))
        self._need("sign", ")", "“)”")
        return Atom((one,), frozenset((place,) for place in places))

    def _value(self, one: int, value: str) -> int:
        values = self._inputs[self._names[one]]
        if value in values:
            return values.index(value)
        close = nearest(value, values)
        raise NearMiss(
            f"{value!r} in the {self._words.rule} “{self._text}” is not a value of "
            f"{self._names[one]}: {listed(values)}.",
            value,
            close,
            where=self._words.where,
            hint=f"Did you mean {close!r}?" if close else "",
        )

    def _compare(self, one: int, sign: str, other: str) -> Atom:
        values = self._inputs[self._names[one]]
        compare, key = _COMPARE[sign], _order if sign in ORDERED else str
        if other not in values and other in self._inputs:
            two = self._names.index(other)
            pairs = (
                (a, b)
                for a, mine in enumerate(values)
                for b, its in enumerate(self._inputs[other])
                if compare(key(mine), key(its))
            )
            return Atom((one, two), frozenset(pairs))
        if sign not in ORDERED:
            self._value(one, other)  # raises for what is no value
        fit = (place for place, mine in enumerate(values) if compare(key(mine), key(other)))
        return Atom((one,), frozenset((place,) for place in fit))
