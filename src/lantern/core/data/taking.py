"""Taking a table out of a sheet, and holding it against the table that there is."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, replace
from typing import Literal

from lantern.core.data import matching
from lantern.core.data.matching import Match
from lantern.core.data.table import PLAIN, Row, Trait, guess
from lantern.core.problems import BadInput
from lantern.core.values.templates import propose_name

_RANGE = re.compile(r"([A-Z]{1,3})([1-9]\d{0,6})(?::([A-Z]{1,3})([1-9]\d{0,6})?)?")
NOTHING: Mapping[str, Trait] = {}
LOOKED = 20
"""How many rows at the top are looked at for the header."""


@dataclass(frozen=True)
class Taken:
    """A table out of a sheet: columns with their types, and values by column.

    `headers` are the texts that became the names of the columns, `header_row` the number (from 1)
    of the row that they stood in.
    """

    columns: tuple[str, ...]
    headers: tuple[str, ...]
    types: Mapping[str, Trait]
    rows: tuple[Mapping[str, str], ...]
    header_row: int


def _column_number(letters: str) -> int:
    number = 0
    for letter in letters:
        number = number * 26 + ord(letter) - ord("A") + 1
    return number


def part(grid: Sequence[Sequence[str]], area: str) -> list[list[str]]:
    """Return a part of a sheet, such as B2:F40 or B2:F; all of it for "". Raises BadInput."""
    area = area.strip().upper()
    if not area:
        return [list(row) for row in grid]
    match = _RANGE.fullmatch(area)
    if not match:
        raise BadInput(f"“{area}” is not a range.", where="range", hint="Write for example B2:F40.")
    left, top = _column_number(match[1]), int(match[2])
    right = _column_number(match[3]) if match[3] else left
    bottom = int(match[4]) if match[4] else len(grid) if match[3] else top
    if right < left or bottom < top:
        raise BadInput(f"“{area}” ends before it begins.", where="range")
    rows = [list(row[left - 1 : right]) for row in grid[top - 1 : bottom]]
    if not any(value for row in rows for value in row):
        raise BadInput(f"There is nothing in {area}.", where="range")
    return rows


def header_at(grid: Sequence[Sequence[str]]) -> int:
    """Return the place (from 0) of the row that most likely holds the names of the columns.

    That is the first of the top rows that is as full as any of them.
    """
    filled = [sum(bool(value.strip()) for value in row) for row in grid[:LOOKED]]
    return filled.index(max(filled)) if filled else 0


def take(grid: Sequence[Sequence[str]], area: str = "", header: int | None = None) -> Taken:
    """Take a table out of a sheet; `header` is the number (from 1) of its header's row.

    Raises BadInput when there is no table in it.
    """
    rows = part(grid, area)
    place = header_at(rows) if header is None else header - 1
    if not 0 <= place < len(rows):
        raise BadInput(f"There is no row {header} for the header.", where="header")
    names = [value.strip() for value in rows[place]]
    used = [n for n, name in enumerate(names) if name]
    if not used:
        raise BadInput(f"Row {place + 1} has no names for columns.", where="header")
    columns = _unique(
        [propose_name(names[n]) if not names[n].isidentifier() else names[n] for n in used]
    )
    found = []
    for row in rows[place + 1 :]:
        values = {
            column: row[n].strip() if n < len(row) else ""
            for column, n in zip(columns, used, strict=True)
        }
        if any(values.values()):
            found.append(values)
    types = {column: Trait(guess([values[column] for values in found])) for column in columns}
    headers = tuple(names[n] for n in used)
    return Taken(tuple(columns), headers, types, tuple(found), place + 1)


def _unique(names: Sequence[str]) -> list[str]:
    """Return the names made different: a second “clay” becomes “clay_2”."""
    found: list[str] = []
    for name in names:
        fresh, number = name, 2
        while fresh in found:
            fresh, number = f"{name}_{number}", number + 1
        found.append(fresh)
    return found


What = Literal["added", "changed", "removed"]


@dataclass(frozen=True)
class CellChange:
    """A cell before and after; a `stays` one was kept although the row around it changed."""

    column: str
    before: str
    after: str
    stays: bool = False


@dataclass(frozen=True)
class RowChange:
    """What taking a table in does to a row.

    `before` and `after` are its places (from 1) in both tables, None where it is in one alone.
    `by_hand` tells that a person made or ticked the row that changes or goes, `expected` that
    values which it is held against change, go, or stay with other inputs than they were made for.
    """

    what: What
    before: int | None
    after: int | None
    cells: tuple[CellChange, ...]
    by_hand: bool = False
    expected: bool = False


@dataclass(frozen=True)
class Merge:
    """A table after another was taken in: its rows, and what becomes of which row."""

    columns: tuple[str, ...]
    rows: tuple[Row, ...]
    changes: tuple[RowChange, ...]

    def count(self, what: What) -> int:
        """Return how many rows are added, changed or removed."""
        return sum(one.what == what for one in self.changes)


def fitted(taken: Taken, columns: Sequence[str]) -> Taken:
    """Return a table with its columns named as those that there are, whatever their case."""
    known = {name.casefold(): name for name in columns}
    names = {name: known.get(name.casefold(), name) for name in taken.columns}
    if len(set(names.values())) < len(names):
        return taken
    return replace(
        taken,
        columns=tuple(names.values()),
        types={names[name]: one for name, one in taken.types.items()},
        rows=tuple({names[name]: value for name, value in row.items()} for row in taken.rows),
    )


def merge(
    columns: Sequence[str],
    rows: Sequence[Row],
    taken: Taken,
    match: Match,
    traits: Mapping[str, Trait] = NOTHING,
) -> Merge:
    """Return the table after taking another in its place; `match` says which rows are the same.

    What was the same row keeps its id, its tick and its values in columns that the other table
    does not have.
    """
    common = [name for name in taken.columns if name in columns]
    same = matching.pairs(match, common, rows, taken.rows)
    all_columns = (*taken.columns, *(name for name in columns if name not in taken.columns))
    told = _Telling(all_columns, {n for n in all_columns if _is_expected(n, traits)})
    found: list[Row] = []
    changes: list[RowChange] = []
    for n, values in enumerate(taken.rows):
        was = rows[same[n]] if n in same else None
        if was is None:
            found.append(Row("", {name: values.get(name, "") for name in all_columns}))
            changes.append(told.of(None, found[-1], None, n + 1))
            continue
        now = {name: values.get(name, was.values.get(name, "")) for name in all_columns}
        own = told.inputs_differ(was.values, now)
        found.append(replace(was, values=now, designed=was.designed and not own))
        if any(was.values.get(name, "") != value for name, value in now.items()):
            changes.append(told.of(was, found[-1], same[n] + 1, n + 1))
    stayed = set(same.values())
    gone = [(n, row) for n, row in enumerate(rows, 1) if n - 1 not in stayed]
    changes += [told.of(row, None, n, None) for n, row in gone]
    return Merge(all_columns, tuple(found), tuple(changes))


def _is_expected(name: str, traits: Mapping[str, Trait]) -> bool:
    return traits.get(name, PLAIN).role == "expected"


@dataclass(frozen=True)
class _Telling:
    """Tells of changed rows; `expected` are the columns that hold expected values."""

    columns: Sequence[str]
    expected: Set[str]

    def inputs_differ(self, old: Mapping[str, str], new: Mapping[str, str]) -> bool:
        """Tell whether a row has other inputs than it had."""
        names = [name for name in self.columns if name not in self.expected]
        return any(old.get(name, "") != new.get(name, "") for name in names)

    def of(
        self, was: Row | None, now: Row | None, before: int | None, after: int | None
    ) -> RowChange:
        old, new = was.values if was else {}, now.values if now else {}
        cells = [
            CellChange(name, old.get(name, ""), new.get(name, ""))
            for name in self.columns
            if old.get(name, "") != new.get(name, "")
        ]
        touched = any(cell.column in self.expected and cell.before for cell in cells)
        if was and now and any(cell.column not in self.expected for cell in cells):
            kept = [name for name in self.columns if name in self.expected and old.get(name)]
            kept = [name for name in kept if old.get(name) == new.get(name)]
            cells += [CellChange(name, old[name], old[name], stays=True) for name in kept]
            touched = touched or bool(kept)
        what: What = "added" if was is None else "removed" if now is None else "changed"
        by_hand = was is not None and (was.ticked or not was.designed)
        return RowChange(what, before, after, tuple(cells), by_hand, touched)


def traits_after(old: Mapping[str, Trait], taken: Taken) -> dict[str, Trait]:
    """Return what is known of columns: as it was where it was said, as guessed elsewhere."""
    return {**{name: one for name, one in taken.types.items() if one != PLAIN}, **old}
