"""A table of a page as a thing: rows, columns by header, cells by content."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from lantern.core.elements.facts import tidy
from lantern.core.problems import BadInput, UnknownName, nearest
from lantern.core.steps.numbers import first_number

READ = "table"
"""The property under which a page hands over a whole table, as JSON."""


@dataclass(frozen=True)
class Table:
    """What a table shows: the headers, and the rows of cells; headers may be missing ("")."""

    headers: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]

    @classmethod
    def read(cls, text: str) -> Table:
        """Build a table from the page's JSON."""
        raw = json.loads(text)
        return cls(
            tuple(tidy(head) for head in raw["headers"]),
            tuple(tuple(tidy(cell) for cell in row) for row in raw["rows"]),
        )

    def column(self, name: str) -> list[str]:
        """Return the cells of a column by its header; raises UnknownName with those there are."""
        for place, head in enumerate(self.headers):
            if head.casefold() == name.strip().casefold():
                return [row[place] if place < len(row) else "" for row in self.rows]
        raise UnknownName("column", name, [head for head in self.headers if head])

    def rows_with(self, condition: str) -> list[int]:
        """Return the places of rows for which "COLUMN is VALUE" holds (several with "and")."""
        places = set(range(len(self.rows)))
        for part in re.split(r"\s+and\s+", condition):
            head, mark, value = part.partition(" is ")
            if not mark:
                raise BadInput(
                    f"“{part}” does not say which rows.",
                    hint="Write for example: Piece is Moon jar",
                )
            cells = self.column(head)
            places &= {n for n, cell in enumerate(cells) if cell == tidy(value)}
        return sorted(places)


def _sum(table: Table, column: str) -> str:
    total = sum(first_number(cell) for cell in table.column(column) if cell)
    return f"{round(total, 6):g}"


def _order(table: Table, column: str) -> str:
    cells = [cell for cell in table.column(column) if cell]
    try:
        keys: Sequence[object] = [first_number(cell) for cell in cells]
    except BadInput:
        keys = [cell.casefold() for cell in cells]
    if list(keys) == sorted(keys):  # type: ignore[type-var]
        return "ascending"
    return "descending" if list(keys) == sorted(keys, reverse=True) else "unsorted"  # type: ignore[type-var]


def _cell(table: Table, text: str) -> str:
    column, mark, condition = text.partition(" where ")
    if not mark:
        raise BadInput(
            f"“cell {text}” does not say which row.",
            hint="Write for example: cell Price where Piece is Moon jar",
        )
    cells, rows = table.column(column), table.rows_with(condition)
    if len(rows) != 1:
        known = table.column(condition.partition(" is ")[0])
        close = nearest(condition.partition(" is ")[2], known)
        raise BadInput(
            f"{len(rows)} rows have {condition}, so the cell is not certain.",
            hint=f"Did you mean “{close}”?" if close and not rows else "",
        )
    return cells[rows[0]]


def _cells(table: Table, column: str) -> str:
    return ", ".join(table.column(column))


def _rows_with(table: Table, condition: str) -> str:
    return str(len(table.rows_with(condition)))


ASPECTS: dict[str, Callable[[Table, str], str]] = {
    "cells of ": _cells,
    "sum of ": _sum,
    "order of ": _order,
    "rows with ": _rows_with,
    "cell ": _cell,
}
"""What can be checked of a table beside its number of rows: how the property begins, and what it
gives for the rest of its name. A further one is one entry here."""


def aspect(name: str) -> tuple[Callable[[Table, str], str], str] | None:
    """Return how a property of a table is worked out, and of what; None for another property."""
    for begins, work in ASPECTS.items():
        if name.startswith(begins) and name != begins:
            return work, name.removeprefix(begins).strip()
    return None


def offered(table: Table) -> dict[str, str]:
    """Return properties of a table with their present values, as choices for checks."""
    found: dict[str, str] = {}
    for head in filter(None, table.headers):
        for begins in ("cells of ", "order of ", "sum of "):
            try:
                found[f"{begins}{head}"] = ASPECTS[begins](table, head)
            except BadInput:
                continue  # no numbers in that column
    first = next((head for head in table.headers if head), "")
    if table.rows and first:
        place = table.headers.index(first)
        value = table.rows[0][place]
        found[f"rows with {first} is {value}"] = str(len(table.rows_with(f"{first} is {value}")))
        for head in table.headers[place + 1 :]:
            if head:
                name = f"cell {head} where {first} is {value}"
                try:
                    found[name] = _cell(table, name.removeprefix("cell "))
                except BadInput:
                    break
    return found
