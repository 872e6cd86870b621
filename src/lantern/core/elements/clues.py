"""Clues: one way each to recognise an element, and whether a node satisfies them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from lantern.core.elements.facts import Facts, tidy
from lantern.core.elements.kinds import KINDS, kind_of
from lantern.core.problems import BadInput, UnknownName

Operator = Callable[[str, str], bool]

OPERATORS: dict[str, Operator] = {
    "is": lambda found, wanted: found == wanted,
    "contains": lambda found, wanted: wanted in found,
    "starts with": lambda found, wanted: found.startswith(wanted),
    "ends with": lambda found, wanted: found.endswith(wanted),
    "matches": lambda found, wanted: re.search(wanted, found) is not None,
}
"""How a clue compares, by name: (found, wanted) -> holds."""

POSITION = "position"
"""The clue that picks the n-th (from 1) of those that satisfy all other clues."""


@dataclass(frozen=True)
class Clue:
    """A fact, an operator and a value."""

    fact: str
    operator: str
    value: str

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Clue:
        """Build a clue from JSON; raises BadInput when it cannot ever hold."""
        clue = cls(str(raw.get("fact", "")), str(raw.get("operator", "is")), tidy(raw.get("value")))
        if not clue.fact:
            raise BadInput("A clue needs a fact.", hint="Say what to look at, for example name.")
        if clue.operator not in OPERATORS:
            raise UnknownName("operator", clue.operator, OPERATORS)
        if clue.operator == "matches":
            try:
                re.compile(clue.value)
            except re.error as error:
                raise BadInput(
                    f"The regular expression {clue.value!r} does not compile: {error}.",
                    where=clue.fact,
                ) from error
        if clue.fact == POSITION and not (clue.value.isdigit() and int(clue.value) > 0):
            raise BadInput(f"A position is a number from 1, not {clue.value!r}.", where=POSITION)
        return clue

    def as_json(self) -> dict[str, str]:
        """Return the clue as an object that `read` accepts."""
        return {"fact": self.fact, "operator": self.operator, "value": self.value}

    def holds(self, facts: Facts) -> bool:
        """Tell whether the node satisfies this clue; a list-like fact needs one that does."""
        found = facts.get(self.fact)
        compare = OPERATORS[self.operator]
        if isinstance(found, tuple):
            return any(compare(cell, self.value) for cell in found)
        return bool(found) and compare(found, self.value)

    def sentence(self) -> str:
        """Say the clue in words."""
        if self.fact == POSITION:
            return f"number {self.value} of those that match"
        if self.fact == "row":
            return f"in the row with a cell that {self.operator} “{self.value}”"
        return f"{self.fact} {self.operator} “{self.value}”"


@dataclass(frozen=True)
class Element:
    """A named thing on a page: a kind plus the clues that must all hold, plus spare ones."""

    id: str
    name: str
    kind: str
    clues: tuple[Clue, ...]
    spare: tuple[Clue, ...] = ()
    page: str = ""

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Element:
        """Build an element from JSON; raises BadInput or UnknownName when it makes no sense."""
        kind = str(raw.get("kind", ""))
        if kind not in KINDS:
            raise UnknownName("kind", kind, KINDS)
        return cls(
            id=str(raw.get("id", "")),
            name=tidy(raw.get("name")) or "unnamed",
            kind=kind,
            clues=tuple(Clue.read(clue) for clue in raw.get("clues") or ()),
            spare=tuple(Clue.read(clue) for clue in raw.get("spare") or ()),
            page=str(raw.get("page") or ""),
        )

    def as_json(self) -> dict[str, Any]:
        """Return the element as an object that `read` accepts."""
        return {
            "id": self.id,
            "name": self.name,
            "kind": self.kind,
            "clues": [clue.as_json() for clue in self.clues],
            "spare": [clue.as_json() for clue in self.spare],
            "page": self.page,
        }


def matching(kind: str, clues: Sequence[Clue], candidates: Iterable[Facts]) -> list[Facts]:
    """Return the candidates of that kind that satisfy all clues, in document order.

    Nodes that are not shown count only when none that is shown matches: pages keep hidden
    templates and closed panels with the same texts.
    """
    plain = [clue for clue in clues if clue.fact != POSITION]
    found = [
        facts
        for facts in candidates
        if kind_of(facts) == kind and all(clue.holds(facts) for clue in plain)
    ]
    found.sort(key=lambda facts: facts.order)
    found = [facts for facts in found if facts.visible] or found
    for clue in clues:
        if clue.fact == POSITION:
            place = int(clue.value) - 1
            found = found[place : place + 1]
    return found


def held_by(kind: str, clues: Sequence[Clue], candidates: Sequence[Facts]) -> list[dict[str, Any]]:
    """Tell for each clue how many candidates of that kind satisfy it on its own.

    Returns objects with `clue` (words) and `held_by` (a count): the evidence of a lookup.
    """
    of_kind = [facts for facts in candidates if kind_of(facts) == kind]
    return [
        {
            "clue": clue.sentence(),
            "held_by": len(of_kind)
            if clue.fact == POSITION
            else sum(clue.holds(facts) for facts in of_kind),
        }
        for clue in clues
    ]
