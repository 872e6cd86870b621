"""Edits of the table as a whole; see `cells` and `columns` for parts of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal, Self

from typing_extensions import TypedDict

from lantern.core.data.table import Trait
from lantern.core.data.taking import Merge
from lantern.core.problems import BadInput
from lantern.core.steps.edits.asked import RowAsked
from lantern.core.steps.edits.base import TABLE, Edit, NewId
from lantern.core.steps.model import Document, Row
from lantern.core.values.templates import check_name


class SetTableAsked(TypedDict):
    """What `SetTable` is read from."""

    do: Literal["set table"]
    columns: list[str]
    rows: list[RowAsked]


@dataclass(frozen=True)
class SetTable(Edit):
    """Replace the table's columns and rows."""

    do = "set table"
    asked = SetTableAsked
    told = "table changed"
    columns: tuple[str, ...]
    rows: tuple[Row, ...]

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(
            tuple(str(column) for column in raw.get("columns") or ()),
            tuple(Row.read(row) for row in raw.get("rows") or ()),
        )

    def touches(self) -> frozenset[str]:
        """Return the table."""
        return frozenset({TABLE})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the table."""
        return with_table(document, self.columns, self.rows, new_id)


@dataclass(frozen=True)
class TakeTable(Edit):
    """Put a table that was taken out of a file in the place of what there is."""

    told = "table taken in"
    merged: Merge
    traits: Mapping[str, Trait]
    source: Mapping[str, Any]

    def touches(self) -> frozenset[str]:
        """Return the table."""
        return frozenset({TABLE})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the table."""
        described = replace(document, traits=dict(self.traits), source=dict(self.source))
        return with_table(described, self.merged.columns, self.merged.rows, new_id)


@dataclass(frozen=True)
class WriteDesign(Edit):
    """Put designed rows into the table, beside those that people made, and remember the design.

    A designed row that was there already stays as it is, with its expected values.
    """

    told = "variations written"
    design: Mapping[str, Any]
    rows: tuple[Mapping[str, str], ...]

    def touches(self) -> frozenset[str]:
        """Return the table."""
        return frozenset({TABLE})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the designed rows."""
        inputs = tuple(dict.fromkeys(name for values in self.rows for name in values))
        wanted = {tuple(values.get(name, "") for name in inputs): values for values in self.rows}

        def key(row: Row) -> tuple[str, ...]:
            return tuple(row.values.get(name, "") for name in inputs)

        kept = [row for row in document.rows if not row.designed or key(row) in wanted]
        there = {key(row) for row in kept}
        fresh = [Row("", values, designed=True) for at, values in wanted.items() if at not in there]
        columns = tuple(dict.fromkeys([*document.columns, *inputs]))
        changed = with_table(document, columns, [*kept, *fresh], new_id)
        return replace(changed, design=dict(self.design))


def with_table(
    document: Document, columns: Sequence[str], rows: Sequence[Row], new_id: NewId
) -> Document:
    """Return the document with a table; raises BadInput for the name of a column."""
    for column in columns:
        check_name(column)
    if len(set(columns)) != len(columns):
        double = next(column for column in columns if columns.count(column) > 1)
        raise BadInput(f"Two columns are named {double!r}.", where=double)
    fresh = tuple(
        replace(
            row,
            id=row.id or new_id(),
            values={column: row.values.get(column, "") for column in columns},
        )
        for row in rows
    )
    traits = {name: one for name, one in document.traits.items() if name in columns}
    return replace(document, columns=tuple(columns), rows=fresh, traits=traits)


ENTRIES: tuple[type[Edit], ...] = (SetTable, TakeTable, WriteDesign)
