"""Clues: one way each to recognise an element, and whether a node satisfies them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from lantern.core.elements.facts import CELL, Facts, tidy
from lantern.core.elements.kinds import KINDS, kind_of
from lantern.core.patterns import check_pattern, matches
from lantern.core.problems import BadInput, UnknownName

Operator = Callable[[str, str], bool]

_EDGES = re.compile(r"^\W+|\W+$")
_GAPS = re.compile(r"[\s\-_]+")


def loosened(text: str) -> str:
    """Return a text as it is compared when case and spacing are ignored.

    Punctuation at its ends goes as well: "Piece name:" and "piece  name" are the same words.
    """
    return _GAPS.sub("", _EDGES.sub("", text)).casefold() or text.strip()


OPERATORS: dict[str, Operator] = {
    "is": lambda found, wanted: found == wanted,
    "contains": lambda found, wanted: wanted in found,
    "starts with": lambda found, wanted: found.startswith(wanted),
    "ends with": lambda found, wanted: found.endswith(wanted),
    "matches": matches,
}
"""How a clue compares, by name: (found, wanted) -> holds."""

POSITION = "position"
"""The clue that picks among those that satisfy all other clues.

Its value is a place in document order from 1 ("2"), from a side ("2 from the end", "1 from the
top", "3 from the left"), or an area of the window ("in the top right").
"""
_PLACE = re.compile(r"(\d+)(?: from the (end|top|left))?|in the ((?:top|bottom)? ?(?:left|right)?)")
_SIDES: dict[str, Callable[[Facts], float]] = {
    "top": lambda facts: facts.box.y,
    "left": lambda facts: facts.box.x,
    "end": lambda facts: -facts.order,
}


def placed(value: str, found: list[Facts]) -> list[Facts]:
    """Return those of the nodes (in document order) that a position means; raises BadInput."""
    match = _PLACE.fullmatch(value)
    if not match or (match[1] and int(match[1]) < 1) or not value.removeprefix("in the").strip():
        raise BadInput(
            f"“{value}” is not a position.",
            where=POSITION,
            hint="Write 2, 2 from the end, 1 from the top, 3 from the left, or in the top right.",
        )
    number, side, area = match.groups()
    if number is None:
        return [facts for facts in found if _within(area.split(), facts)]
    if side:
        found = sorted(found, key=_SIDES[side])
    return found[int(number) - 1 : int(number)]


def _within(area: Sequence[str], facts: Facts) -> bool:
    x, y = facts.box.centre
    width, height = facts.view
    holds = {
        "left": x < width / 2,
        "right": x >= width / 2,
        "top": y < height / 2,
        "bottom": y >= height / 2,
    }
    return all(holds[word] for word in area)


@dataclass(frozen=True)
class Clue:
    """A fact, an operator and a value; `loose` ignores case, spacing and closing punctuation."""

    fact: str
    operator: str
    value: str
    loose: bool = False

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Clue:
        """Build a clue from JSON; raises BadInput when it cannot ever hold."""
        clue = cls(
            str(raw.get("fact", "")),
            str(raw.get("operator", "is")),
            tidy(raw.get("value")),
            bool(raw.get("loose", False)),
        )
        if not clue.fact:
            raise BadInput("A clue needs a fact.", hint="Say what to look at, for example name.")
        if clue.operator not in OPERATORS:
            raise UnknownName("operator", clue.operator, OPERATORS)
        if clue.operator == "matches":
            check_pattern(clue.value, clue.fact)
        if clue.fact == POSITION:
            placed(clue.value, [])
        return clue

    def as_json(self) -> dict[str, Any]:
        """Return the clue as an object that `read` accepts."""
        raw: dict[str, Any] = {"fact": self.fact, "operator": self.operator, "value": self.value}
        return raw | {"loose": True} if self.loose else raw

    def holds(self, facts: Facts) -> bool:
        """Tell whether the node satisfies this clue; a list-like fact needs one that does."""
        found = facts.get(self.fact)
        written = facts.attributes.get(f"written {self.fact}")
        if written and self._compares(written):
            return True  # an address as the page writes it, not as it leads
        if isinstance(found, tuple):
            return any(self._compares(cell) for cell in found)
        return bool(found) and self._compares(found)

    def _compares(self, found: str) -> bool:
        if self.operator == "matches":
            return matches(found, self.value, loose=self.loose)
        if self.loose:
            return OPERATORS[self.operator](loosened(found), loosened(self.value))
        return OPERATORS[self.operator](found, self.value)

    def sentence(self) -> str:
        """Say the clue in words."""
        if self.fact == POSITION:
            plain = self.value.isdigit()
            return f"number {self.value} of those that match" if plain else self.value
        if self.fact.startswith(CELL):
            head = self.fact.removeprefix(CELL)
            return f"in the row where {head} {self.operator} “{self.value}”"
        words = f"{NEIGHBOURS.get(self.fact, self.fact)} {self.operator} “{self.value}”"
        return words.replace(" is “", " “", 1) if self.fact in NEIGHBOURS else words


NEIGHBOURS = {
    "label": "labelled by",
    "row": "in the row of",
    "column": "in the column",
    "section": "inside",
    "frames": "in the frame",
    "after": "right after",
    "followed": "right before",
    "right of": "right of",
    "below": "below",
    "class word": "of the class",
    "own": "with its own text",
}
"""Facts that are about something near the node, with how they read."""


@dataclass(frozen=True)
class Element:
    """A named thing on a page: a kind plus the clues that must all hold, plus spare ones.

    `seen` are its facts when it was learned, `lookalikes` those of the nodes that were most like
    it then: what it is and what it is not, for telling it from others when clues fail.
    """

    id: str
    name: str
    kind: str
    clues: tuple[Clue, ...]
    spare: tuple[Clue, ...] = ()
    page: str = ""
    seen: Facts | None = None
    lookalikes: tuple[Facts, ...] = ()

    def filled(self, fill: Callable[[str], str]) -> Element:
        """Return the element with the values of its clues filled in by `fill`."""
        if not any("${" in clue.value for clue in self.clues):
            return self
        return replace(
            self, clues=tuple(replace(clue, value=fill(clue.value)) for clue in self.clues)
        )

    def among(self, candidates: Iterable[Facts]) -> list[Facts]:
        """Return the candidates that the element means; see `matching`."""
        tag = self.seen.tag if self.seen else ""
        return matching(self.kind, self.clues, candidates, prefer=tag)

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
            seen=Facts.read(raw["seen"]) if raw.get("seen") else None,
            lookalikes=tuple(Facts.read(facts) for facts in raw.get("lookalikes") or ()),
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
            "seen": self.seen.brief() if self.seen else None,
            "lookalikes": [facts.brief() for facts in self.lookalikes],
        }


def matching(
    kind: str, clues: Sequence[Clue], candidates: Iterable[Facts], *, prefer: str = ""
) -> list[Facts]:
    """Return the candidates of that kind that satisfy all clues, in document order.

    Nodes that are not shown count only when none that is shown matches: pages keep hidden
    templates and closed panels with the same texts. Of a node and a wrapper around it with the
    same text only one counts: the one whose tag is `prefer`, else the outer one.
    """
    plain = [clue for clue in clues if clue.fact != POSITION]
    found = [
        facts
        for facts in candidates
        if kind_of(facts) == kind and all(clue.holds(facts) for clue in plain)
    ]
    found.sort(key=lambda facts: facts.order)
    found = [facts for facts in found if facts.visible] or found
    if len(found) > 1:
        found = _without_wrappers(found, prefer)
    for clue in clues:
        if clue.fact == POSITION:
            found = placed(clue.value, found)
    return found


def _without_wrappers(found: Sequence[Facts], prefer: str) -> list[Facts]:
    """Keep one of each set of nested nodes that repeat one text: a wrapper is no second thing."""
    dropped: set[int] = set()
    for a, outer in enumerate(found):
        for b, inner in enumerate(found):
            if a != b and _wraps(outer, inner):
                inner_wins = inner.tag == prefer and outer.tag != prefer
                dropped.add(a if inner_wins else b)
    return [facts for place, facts in enumerate(found) if place not in dropped]


def _wraps(outer: Facts, inner: Facts) -> bool:
    if outer.text != inner.text or outer.order >= inner.order:
        return False
    if outer.frame != inner.frame or outer.role == "row" or inner.role in ("button", "link"):
        return False
    if inner.path.startswith((f"{outer.path} > ", f"#{outer.attributes.get('id')} > ")):
        return True
    a, b = outer.box, inner.box
    return b.width > 0 and (
        a.x <= b.x
        and a.y <= b.y
        and a.x + a.width >= b.x + b.width
        and a.y + a.height >= b.y + b.height
    )


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
