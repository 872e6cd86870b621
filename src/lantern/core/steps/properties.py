"""Properties of elements that can be checked, and how a value is compared with what is wanted."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from lantern.core.channel import PropertySaid
from lantern.core.elements.facts import Facts, tidy
from lantern.core.patterns import matches
from lantern.core.problems import UnknownName
from lantern.core.steps.numbers import first_number
from lantern.core.steps.tables import ASPECTS, READ, Table, aspect
from lantern.core.steps.tables import offered as offered_of_table

Holds = Literal["text", "number", "yes/no"]


@dataclass(frozen=True)
class Property:
    """A property; `kinds` are those for which it comes first (empty: for all)."""

    name: str
    holds: Holds
    kinds: frozenset[str] = frozenset()


def _property(name: str, holds: Holds, kinds: Sequence[str] = ()) -> tuple[str, Property]:
    return name, Property(name, holds, frozenset(kinds))


PROPERTIES: dict[str, Property] = dict(
    [
        _property("text", "text", ["text", "button", "link", "heading", "dialog", "option"]),
        _property("value", "text", ["text box", "choice list", "slider"]),
        _property("selected option", "text", ["choice list"]),
        _property("ticked", "yes/no", ["tick box", "radio"]),
        _property("number of rows", "number", ["table", "list"]),
        _property("number of options", "number", ["choice list"]),
        _property("shown", "yes/no"),
        _property("enabled", "yes/no", ["button", "text box", "choice list", "tick box", "radio"]),
        _property("name", "text", ["picture"]),
    ]
)
"""Properties that Lantern names; all others are there on demand ("attribute href")."""

ON_DEMAND = ("attribute ", "property ")
"""What the names of all other properties begin with: markup, and plain values in script."""

AVOIDED_CLUES = {"text": ("text", "name"), "name": ("name", "text"), "value": ()}
"""Facts that a check of a property must not rely on to find the element."""


def avoided(kind: str, name: str) -> tuple[str, ...]:
    """Return the facts by which a check of a property must not find a thing of that kind."""
    return AVOIDED_CLUES.get(name, ()) if kind == "text" else ()


def check_property(name: str) -> str:
    """Return the name of a property; raises UnknownName when there is none such."""
    if name in PROPERTIES or any(name.startswith(o) and name != o for o in ON_DEMAND):
        return name
    if aspect(name):
        return name
    more = [f"{begins}…" for begins in (*ON_DEMAND, *ASPECTS)]
    raise UnknownName("property", name, [*PROPERTIES, *more])


TICKED_FIRST: Mapping[str, tuple[str, ...]] = {
    "button": ("shown", "enabled"),
    "link": ("shown",),
    "picture": ("shown",),
    "table": ("number of rows",),
    "list": ("number of rows",),
    "choice list": ("selected option", "value"),
    "dialog": ("shown", "text"),
    "tick box": ("ticked",),
    "radio": ("ticked",),
    "text box": ("value",),
    "slider": ("value",),
}
"""What is most likely meant by a check of a kind; for all other kinds it is the text."""


def _first_of(kind: str, values: Mapping[str, Any]) -> set[str]:
    """Return the properties that a check of a thing begins with; buttons with words say theirs."""
    chosen = [name for name in TICKED_FIRST.get(kind, ("text",)) if values.get(name)]
    if kind in ("button", "link") and values.get("text"):
        chosen = ["text", *chosen[1:]]
    if kind == "choice list":
        chosen = chosen[:1]
    return set(chosen or [name for name in ("shown",) if values.get(name)])


def common_for(kind: str) -> list[str]:
    """Return the properties that testers mostly check on a kind of element, best first."""
    own = [entry.name for entry in PROPERTIES.values() if kind in entry.kinds]
    return own + [entry.name for entry in PROPERTIES.values() if not entry.kinds]


COMPARISONS: dict[str, Callable[[str, str], bool]] = {
    "is": lambda found, wanted: found == wanted,
    "is not": lambda found, wanted: found != wanted,
    "contains": lambda found, wanted: wanted in found,
    "does not contain": lambda found, wanted: wanted not in found,
    "starts with": lambda found, wanted: found.startswith(wanted),
    "ends with": lambda found, wanted: found.endswith(wanted),
    "matches": matches,
    "is at least": lambda found, wanted: first_number(found) >= first_number(wanted),
    "is at most": lambda found, wanted: first_number(found) <= first_number(wanted),
}
"""How a check compares, by name: (found, wanted) -> holds."""


def compare(found: str, operator: str, wanted: str) -> bool:
    """Tell whether what was found is as wanted; white space is tidied on both sides.

    Raises UnknownName for an unknown operator, BadInput for a value that can not be compared.
    """
    if operator not in COMPARISONS:
        raise UnknownName("comparison", operator, COMPARISONS)
    return COMPARISONS[operator](tidy(found), tidy(wanted))


def offered(kind: str, values: Mapping[str, Any]) -> list[PropertySaid]:
    """Return the properties of a node as choices for checks, the common ones first.

    `values` are the present values by property name, as the probe read them. Each choice has
    `name`, `value`, `holds`, `common`, and `first` for what a check of the thing begins with.
    """
    values = dict(values)
    whole = values.pop(READ, "")
    common = [name for name in common_for(kind) if name in values]
    if kind in ("table", "list") and whole:
        told = offered_of_table(Table.read(str(whole)))
        values |= told
        common = [*common, *told]
    first = _first_of(kind, values)
    rest = sorted(name for name in values if name not in common)
    return [
        {
            "name": name,
            "value": tidy(values[name]),
            "holds": PROPERTIES[name].holds if name in PROPERTIES else "text",
            "common": name in common,
            "first": name in first,
        }
        for name in [*common, *rest]
    ]


def shown_by(facts: Facts) -> dict[str, str]:
    """Return the properties that facts of a saved page tell by themselves, by name.

    What a thing held when the page was saved, such as a ticked box, its facts do not tell.
    """
    shows = {
        "text": facts.text,
        "name": facts.name,
        "shown": "yes" if facts.visible else "no",
        "enabled": "yes" if facts.enabled else "no",
    }
    if facts.options:
        shows["number of options"] = str(len(facts.options))
    return shows
