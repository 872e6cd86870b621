"""Constraints put together from parts, as a form gives them, into the text that `rules` reads."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from lantern.core.data.variations.rules import RESERVED
from lantern.core.problems import BadInput, UnknownName

COMPARISONS = {
    "is": "=",
    "is not": "!=",
    "is below": "<",
    "is at most": "<=",
    "is above": ">",
    "is at least": ">=",
}
"""What a form offers, and the sign that says it."""

_PLAIN = re.compile(r"[^\s\"'<>=!(),]+")


@dataclass(frozen=True)
class Part:
    """One comparison of a constraint: an input, a key of COMPARISONS, a value or another input."""

    name: str
    comparison: str
    value: str

    def text(self) -> str:
        """Return the part as text; raises UnknownName, or BadInput for what can not be quoted."""
        if self.comparison not in COMPARISONS:
            raise UnknownName("comparison", self.comparison, COMPARISONS)
        return f"{quoted(self.name)} {COMPARISONS[self.comparison]} {quoted(self.value)}"


def quoted(text: str) -> str:
    """Return a name or value as constraints write it: in quotes where it is not one plain word."""
    if _PLAIN.fullmatch(text) and text.lower() not in RESERVED:
        return text
    for mark in "\"'":
        if mark not in text:
            return f"{mark}{text}{mark}"
    raise BadInput(
        f"{text!r} has both kinds of quotes: a constraint can not name it.",
        where="constraints",
        hint="Take one kind of quotes out of it in the table.",
    )


def wording(when: Sequence[Part], then: Part) -> str:
    """Return the constraint that `then` holds wherever all of `when` do (everywhere without)."""
    if not when:
        return then.text()
    return f"if {' and '.join(part.text() for part in when)} then {then.text()}"
