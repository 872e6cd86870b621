"""Tables of test data: rows, and what is known of their columns."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any, Literal, get_args

from lantern.core.engine.browsers import BROWSERS, browser_named
from lantern.core.problems import BadInput, UnknownName, nearest

ColumnType = Literal["text", "number", "date", "yes/no", "choice"]
Role = Literal["input", "expected", "browser", "note"]
REFUSED = "refused"
"""What an expected column says where the application is to refuse the row, whatever its words."""
MOST_CHOICES = 1000
_NUMBER = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)")


@dataclass(frozen=True)
class Row:
    """A row of test data: values by column, whether a person ticked it, whether it was designed."""

    id: str
    values: Mapping[str, str] = field(default_factory=dict)
    ticked: bool = False
    designed: bool = False

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Row:
        """Build a row from JSON."""
        values = raw.get("values") or {}
        if not isinstance(values, Mapping):
            raise BadInput("The values of a row are columns with values.", where=str(raw.get("id")))
        return cls(
            id=str(raw.get("id") or ""),
            values={str(name): str(value) for name, value in values.items()},
            ticked=bool(raw.get("ticked", False)),
            designed=bool(raw.get("designed", False)),
        )

    def as_json(self) -> dict[str, Any]:
        """Return the row as an object that `read` accepts."""
        return {
            "id": self.id,
            "values": dict(self.values),
            "ticked": self.ticked,
            "designed": self.designed,
        }


def _is_number(value: str) -> bool:
    return _NUMBER.fullmatch(value) is not None


def _is_date(value: str) -> bool:
    try:
        date.fromisoformat(value)
    except ValueError:
        return False
    return True


TYPES: dict[str, tuple[Callable[[str], bool], str]] = {
    "text": (lambda _: True, ""),
    "number": (_is_number, "a number such as 12 or 3.5"),
    "date": (_is_date, "a date such as 2026-11-25"),
    "yes/no": (lambda value: value in ("yes", "no"), "yes or no"),
}
"""What a column may hold, by type: (does a value fit, how one is written); choices apart."""


@dataclass(frozen=True)
class Trait:
    """What is known of a column: its type, what it is for, and the values of a choice."""

    type: ColumnType = "text"
    role: Role = "input"
    choices: tuple[str, ...] = ()

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Trait:
        """Build a trait from JSON; raises UnknownName or BadInput."""
        kind, role = raw.get("type", "text"), raw.get("role", "input")
        if kind not in get_args(ColumnType):
            raise UnknownName("type of a column", str(kind), get_args(ColumnType))
        if role not in get_args(Role):
            raise UnknownName("role of a column", str(role), get_args(Role))
        choices = tuple(dict.fromkeys(str(one) for one in raw.get("choices") or ()))
        if len(choices) > MOST_CHOICES:
            raise BadInput(f"A column can offer {MOST_CHOICES} choices at the most.")
        return cls(kind, role, choices if kind == "choice" else ())

    def as_json(self) -> dict[str, Any]:
        """Return the trait as an object that `read` accepts."""
        return {"type": self.type, "role": self.role, "choices": list(self.choices)}

    @property
    def offers(self) -> tuple[str, ...]:
        """The values that a cell may hold, where they can be listed."""
        return tuple(BROWSERS) if self.role == "browser" else self.choices

    def problem(self, value: str) -> tuple[str, str]:
        """Return what is wrong with a value and a hint, empty when it fits; "" always fits.

        So does what holds names, and what an expected column says instead of a value.
        """
        if not value or "${" in value or (self.role == "expected" and self.type != "choice"):
            return "", ""
        if self.role == "browser":
            try:
                browser_named(value)
            except UnknownName:
                known = f"Known: {', '.join(BROWSERS)}, and “remote NAME”."
                return f"There is no browser “{value}”.", known
        if self.type == "choice":
            if value in self.choices or not self.choices:
                return "", ""
            close = nearest(value, self.choices)
            listed = ", ".join(self.choices[:12])
            return (
                f"“{value}” is not among the choices: {listed}.",
                f"Did you mean “{close}”?" if close else "",
            )
        fits, example = TYPES[self.type]
        return ("", "") if fits(value) else (f"“{value}” is not {example}.", "")


PLAIN = Trait()
"""What holds for a column of which nothing else was said."""


def guess(values: list[str]) -> ColumnType:
    """Return the type that all values that are not empty fit, "text" when none or no other does.

    Numbers with leading zeros are text: their zeros matter.
    """
    there = [value for value in values if value]
    if not there:
        return "text"
    if all(_is_number(value) for value in there):
        plain = all(not re.match(r"[+-]?0\d", value) for value in there)
        return "number" if plain else "text"
    for name in ("date", "yes/no"):
        if all(TYPES[name][0](value) for value in there):
            return name
    return "text"
