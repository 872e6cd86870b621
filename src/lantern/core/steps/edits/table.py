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
        held = held_against(document.rows, self.rows)
        rows = [document.rows[place] for place in held.stay]
        fresh = [Row("", self.rows[place], designed=True) for place in held.come]
        columns = tuple(dict.fromkeys([*document.columns, *_inputs_of(self.rows)]))
        changed = with_table(document, columns, [*rows, *fresh], new_id)
        return replace(changed, design=dict(self.design))


@dataclass(frozen=True)
class Held:
    """Designed rows held against a table.

    `stay` and `go` are places of rows of the table, `come` places among the designed ones.
    """

    stay: tuple[int, ...]
    go: tuple[int, ...]
    come: tuple[int, ...]


def _inputs_of(rows: Sequence[Mapping[str, str]]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(name for values in rows for name in values))


def held_against(rows: Sequence[Row], designed: Sequence[Mapping[str, str]]) -> Held:
    """Return which rows of a table stay, go and come when rows are designed (again).

    What a person made stays, and so does a designed row whose inputs are wanted again.
    """
    inputs = _inputs_of(designed)

    def key(values: Mapping[str, str]) -> tuple[str, ...]:
        return tuple(values.get(name, "") for name in inputs)

    wanted = {key(values) for values in designed}
    stay = [n for n, row in enumerate(rows) if not row.designed or key(row.values) in wanted]
    there = {key(rows[n].values) for n in stay}
    come: dict[tuple[str, ...], int] = {}
    for n, values in enumerate(designed):
        if key(values) not in there:
            come.setdefault(key(values), n)
    kept = set(stay)
    go = tuple(n for n in range(len(rows)) if n not in kept)
    return Held(tuple(stay), go, tuple(come.values()))


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
