"""Edits of the table."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Self

from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.edits.base import TABLE, Edit, NewId
from lantern.core.steps.model import Document, Row
from lantern.core.values.templates import check_name, renamed


@dataclass(frozen=True)
class SetTable(Edit):
    """Replace the table's columns and rows."""

    do = "set table"
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
class RenameColumn(Edit):
    """Give a column another name, in the table and in every sentence that uses it."""

    do = "rename column"
    told = "column renamed"
    column: str
    name: str

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput for the new name."""
        return cls(str(raw.get("column") or ""), check_name(str(raw.get("name") or "").strip()))

    def touches(self) -> frozenset[str]:
        """Return the table."""
        return frozenset({TABLE})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the column renamed everywhere."""
        old, new = self.column, self.name
        if old not in document.columns:
            raise UnknownName("column", old, document.columns)
        if new != old and new in document.columns:
            raise BadInput(f"There is a column named {new!r} already.", where=new)
        steps = tuple(
            replace(
                step,
                inputs={
                    name: renamed(value, "row", old, new) for name, value in step.inputs.items()
                },
            )
            for step in document.steps
        )
        columns = [new if name == old else name for name in document.columns]
        rows = [
            replace(row, values={new if n == old else n: v for n, v in row.values.items()})
            for row in document.rows
        ]
        design = _renamed_design(document.design, old, new)
        return with_table(replace(document, steps=steps, design=design), columns, rows, new_id)


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
    return replace(document, columns=tuple(columns), rows=fresh)


def _renamed_design(design: Mapping[str, Any], old: str, new: str) -> dict[str, Any]:
    """Return what is kept of a design with a column renamed where it stands for an input."""
    changed = dict(design)
    inputs = changed.get("inputs")
    if isinstance(inputs, Mapping):
        changed["inputs"] = {new if name == old else name: v for name, v in inputs.items()}
    return changed


ENTRIES: tuple[type[Edit], ...] = (SetTable, RenameColumn, WriteDesign)
