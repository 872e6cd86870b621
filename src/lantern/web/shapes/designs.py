"""Designing rows of a test."""

from __future__ import annotations

from pydantic import Field

from lantern.web.shapes.base import Shape
from lantern.web.shapes.tests import TestOut


class DesignInput(Shape):
    """A column with the values to combine, and those that the application is to refuse."""

    name: str
    values: list[str] = Field(max_length=100)
    invalid: list[str] = Field(default=[], max_length=100)


class DesignGroup(Shape):
    """Columns that are combined among each other with another strength."""

    inputs: list[str] = Field(max_length=200)
    strength: int = Field(ge=1, le=6)


class Design(Shape):
    """How rows are to be designed; `how` is a name of core.data.variations.plans.WAYS."""

    inputs: list[DesignInput] = Field(max_length=200)
    constraints: list[str] = Field(default=[], max_length=200)
    how: str = "pairs"
    seed: int = 1
    groups: list[DesignGroup] = Field(default=[], max_length=50)


class DesignAsk(Design):
    """Design rows for version `base` of a test; with `write` they go into its table."""

    base: int
    write: bool = False


class DesignedRow(Shape):
    """A row; `origin` is kept (made by a person), designed or invalid.

    `comes` tells that it is not in the table yet.
    """

    values: dict[str, str]
    origin: str
    comes: bool


class GoingRow(Shape):
    """A row of the table that designing again takes away: its number from 1, and its values."""

    number: int
    values: dict[str, str]


class CoveredOut(Shape):
    """A combination of values; `row` counts from 1, None for none."""

    values: dict[str, str]
    row: int | None
    forbidden: bool


class DesignOut(Shape):
    """What came out; `combinations` holds the first of them, `test` the test once written.

    `stay` counts the rows of the table that stay, `go` lists those that go.
    """

    rows: list[DesignedRow]
    stay: int
    go: list[GoingRow]
    covered: int
    forbidden: int
    missing: int
    combinations: list[CoveredOut]
    test: TestOut | None = None


class DesignStart(Shape):
    """What to begin with: the design that was used last, or one proposed from what is known."""

    design: Design
    ways: list[str]
    comparisons: list[str]


class RulePart(Shape):
    """A column compared with a value or another column; `comparison` is one of DesignStart's."""

    name: str = Field(max_length=400)
    comparison: str
    value: str = Field(max_length=400)


class RuleAsk(Shape):
    """A constraint in parts: where all of `when` hold, so does `then`."""

    inputs: list[DesignInput] = Field(max_length=200)
    when: list[RulePart] = Field(default=[], max_length=10)
    then: RulePart


class RuleOut(Shape):
    """A constraint as it is written."""

    text: str
