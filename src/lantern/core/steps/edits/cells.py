"""Edits of cells and rows: each names the rows it is about, so that two people can work at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, NotRequired, Self

from typing_extensions import TypedDict

from lantern.core.data.table import Row
from lantern.core.problems import BadInput, Missing
from lantern.core.steps.edits.asked import CellAsked, RowAsked
from lantern.core.steps.edits.base import Edit, NewId, row_part
from lantern.core.steps.edits.columns import column_of
from lantern.core.steps.model import Document


def _ids(raw: Mapping[str, Any]) -> tuple[str, ...]:
    ids = tuple(str(row) for row in raw.get("rows") or ())
    if not ids:
        raise BadInput("Say which rows are meant.", where="rows")
    return ids


def _there(document: Document, ids: set[str]) -> None:
    gone = ids - {row.id for row in document.rows}
    if gone:
        raise Missing("That row is no longer in the table.", where=min(gone))


class SetCellsAsked(TypedDict):
    """What `SetCells` is read from."""

    do: Literal["set cells"]
    cells: list[CellAsked]


@dataclass(frozen=True)
class SetCells(Edit):
    """Set values: by the id of the row, by column.

    A designed row that gets another input is a person's from then on: designing again leaves it.
    """

    do = "set cells"
    asked = SetCellsAsked
    told = "values changed"
    cells: Mapping[str, Mapping[str, str]]

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        cells: dict[str, dict[str, str]] = {}
        for cell in raw.get("cells") or ():
            row = cells.setdefault(str(cell.get("row") or ""), {})
            row[str(cell.get("column") or "")] = str(cell.get("value") or "")
        if not cells:
            raise BadInput("Say which cells are meant.", where="cells")
        return cls(cells)

    def touches(self) -> frozenset[str]:
        """Return the rows."""
        return frozenset(map(row_part, self.cells))

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the values."""
        _there(document, set(self.cells))
        for column in {name for values in self.cells.values() for name in values}:
            column_of(document, column)
        inputs = designed_inputs(document)
        rows = tuple(
            touched(row, self.cells[row.id], inputs) if row.id in self.cells else row
            for row in document.rows
        )
        return replace(document, rows=rows)


def designed_inputs(document: Document) -> frozenset[str]:
    """Return the columns that the design of a table combines."""
    inputs = document.design.get("inputs") or ()
    return frozenset(str(one.get("name")) for one in inputs if one.get("values"))


def touched(row: Row, values: Mapping[str, str], inputs: frozenset[str]) -> Row:
    """Return a row with values that a person gave it."""
    changed = {name for name, value in values.items() if row.values.get(name, "") != value}
    designed = row.designed and not (changed & inputs)
    return replace(row, values={**row.values, **values}, designed=designed)


class AddRowsAsked(TypedDict):
    """What `AddRows` is read from."""

    do: Literal["add rows"]
    rows: list[RowAsked]
    after: NotRequired[str | None]


@dataclass(frozen=True)
class AddRows(Edit):
    """Put rows behind the row `after`; None means at the end, "" at the start."""

    do = "add rows"
    asked = AddRowsAsked
    told = "rows added"
    rows: tuple[Row, ...]
    after: str | None = None

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        rows = tuple(Row.read(row) for row in raw.get("rows") or ())
        return cls(rows, None if raw.get("after") is None else str(raw["after"]))

    def touches(self) -> frozenset[str]:
        """Return nothing: further rows are in nobody's way."""
        return frozenset()

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the rows; one behind a row that is gone goes to the end."""
        if not document.columns:
            raise BadInput("The table has no columns yet.", hint="Add a column first.")
        known = {row.id: place for place, row in enumerate(document.rows)}
        if any(row.id in known for row in self.rows):
            raise BadInput("A row with that id is already in the table.", where="rows")
        place = known.get(self.after or "", len(document.rows) - 1) + 1
        place = 0 if self.after == "" else place
        fresh = [
            replace(
                row,
                id=row.id or new_id(),
                values={column: row.values.get(column, "") for column in document.columns},
            )
            for row in self.rows
        ]
        return replace(document, rows=(*document.rows[:place], *fresh, *document.rows[place:]))


class RemoveRowsAsked(TypedDict):
    """What `RemoveRows` is read from."""

    do: Literal["remove rows"]
    rows: list[str]


@dataclass(frozen=True)
class RemoveRows(Edit):
    """Take rows away."""

    do = "remove rows"
    asked = RemoveRowsAsked
    told = "rows deleted"
    rows: tuple[str, ...]

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(_ids(raw))

    def touches(self) -> frozenset[str]:
        """Return the rows."""
        return frozenset(map(row_part, self.rows))

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document without the rows."""
        gone = set(self.rows)
        _there(document, gone)
        return replace(document, rows=tuple(row for row in document.rows if row.id not in gone))


class TickRowsAsked(TypedDict):
    """What `TickRows` is read from."""

    do: Literal["tick rows"]
    rows: list[str]
    on: bool


@dataclass(frozen=True)
class TickRows(Edit):
    """Tick rows, or take their ticks away; without rows, all of them."""

    do = "tick rows"
    asked = TickRowsAsked
    told = "rows ticked"
    on: bool
    rows: tuple[str, ...] = ()

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(bool(raw.get("on", True)), tuple(str(row) for row in raw.get("rows") or ()))

    def touches(self) -> frozenset[str]:
        """Return nothing: a tick changes no value."""
        return frozenset()

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the ticks; rows that are gone are passed over."""
        meant = set(self.rows) or {row.id for row in document.rows}
        rows = tuple(
            replace(row, ticked=self.on) if row.id in meant else row for row in document.rows
        )
        return replace(document, rows=rows)


class SortRowsAsked(TypedDict):
    """What `SortRows` is read from."""

    do: Literal["sort rows"]
    column: str
    down: bool


@dataclass(frozen=True)
class SortRows(Edit):
    """Put the rows in the order of a column: numbers as numbers before texts, empty ones last."""

    do = "sort rows"
    asked = SortRowsAsked
    told = "rows sorted"
    column: str
    down: bool = False

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(str(raw.get("column") or ""), bool(raw.get("down", False)))

    def touches(self) -> frozenset[str]:
        """Return nothing: the order changes no value."""
        return frozenset()

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with its rows in order; equal ones stay as they are."""
        column = column_of(document, self.column)

        def key(row: Row) -> tuple[int, float, str]:
            value = row.values.get(column, "").strip()
            try:
                return 0, float(value), ""
            except ValueError:
                return 1, 0.0, value.casefold()

        there = [row for row in document.rows if row.values.get(column, "").strip()]
        empty = [row for row in document.rows if not row.values.get(column, "").strip()]
        return replace(document, rows=(*sorted(there, key=key, reverse=self.down), *empty))


ENTRIES: tuple[type[Edit], ...] = (SetCells, AddRows, RemoveRows, TickRows, SortRows)
