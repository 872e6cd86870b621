"""Breakpoints: sentences before which a person's rehearsals stop, and on what conditions."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from lantern.core.problems import BadInput, Problem, UnknownName
from lantern.core.steps.properties import COMPARISONS, compare
from lantern.core.values.sources import Names
from lantern.core.values.templates import places, resolve, shown

MOST_TIMES = 100_000


@dataclass(frozen=True)
class Condition:
    """When a breakpoint stops: from its `times`-th passing on, in row `row` (0: any).

    With a `value` only where it compares with what is `expected` as said.
    """

    value: str = ""
    comparison: str = "is"
    expected: str = ""
    times: int = 1
    row: int = 0

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Condition:
        """Build a condition from JSON; raises BadInput when a part makes no sense."""
        made = cls(
            str(raw.get("value") or ""),
            str(raw.get("comparison") or "is"),
            str(raw.get("expected") or ""),
            _number(raw.get("times") or 1, 1, "From which time on it stops"),
            _number(raw.get("row") or 0, 0, "The number of a row"),
        )
        if made.comparison not in COMPARISONS:
            raise UnknownName("comparison", made.comparison, COMPARISONS, where="comparison")
        places(made.value)
        places(made.expected)
        return made

    def as_json(self) -> dict[str, Any]:
        """Return the condition as JSON."""
        return asdict(self)

    def words(self) -> str:
        """Return the condition in words, "" for none."""
        said = []
        if self.times > 1:
            said.append(f"from time {self.times} on")
        if self.row:
            said.append(f"in row {self.row}")
        if self.value:
            said.append(f"if {self.value} {self.comparison} {self.expected or 'empty'}")
        return ", ".join(said)


def _number(raw: object, least: int, what: str) -> int:
    try:
        number = int(str(raw))
    except ValueError as error:
        raise BadInput(f"{what} is a whole number, not {raw!r}.", where="condition") from error
    if not least <= number <= MOST_TIMES:
        raise BadInput(f"{what} is between {least} and {MOST_TIMES}.", where="condition")
    return number


@dataclass(frozen=True)
class Breakpoint:
    """A breakpoint at a sentence of the test or flow `place`.

    It stops in whatever calls that flow, or `only_in` the rehearsals of one test.
    """

    place: int
    step: str
    only_in: int | None = None
    enabled: bool = True
    condition: Condition = Condition()

    def concerns(self, test: int, place: int, step: str) -> bool:
        """Tell whether it is at a sentence, in a rehearsal of a test."""
        here = (self.place, self.step) == (place, step)
        return here and self.only_in in (None, test)


@dataclass(frozen=True)
class Met:
    """Whether a breakpoint stops now; `why` tells where its condition could not be told."""

    stops: bool
    why: str = ""


def meets(point: Breakpoint, names: Names, times: int, row: int) -> Met:
    """Tell whether a breakpoint stops at its `times`-th passing in row `row`.

    A condition that can not be told stops, and says why: silence would look like a pass.
    """
    condition = point.condition
    if not point.enabled or times < condition.times:
        return Met(False)
    if condition.row and condition.row != row:
        return Met(False)
    if not condition.value:
        return Met(True)
    try:
        left, right = resolve(condition.value, names), resolve(condition.expected, names)
        return Met(compare(left, condition.comparison, right))
    except Problem as error:
        told = shown_or(condition.value, names)
        return Met(True, f"Its condition on {told} can not be told: {error.message}")


def shown_or(template: str, names: Names) -> str:
    """Return a template with its values, secrets masked; as it is where they are not known."""
    try:
        return shown(template, names)
    except Problem:
        return template
