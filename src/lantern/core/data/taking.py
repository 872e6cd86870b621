"""Taking a table out of a sheet, and holding it against the table that there is."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from lantern.core.data.table import PLAIN, Row, Trait, guess
from lantern.core.problems import BadInput
from lantern.core.values.templates import propose_name

_RANGE = re.compile(r"([A-Z]{1,3})([1-9]\d{0,6})(?::([A-Z]{1,3})([1-9]\d{0,6})?)?")
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


@dataclass(frozen=True)
class Merge:
    """A table after another was taken in: its rows, and how many are new, differ, or are gone."""

    columns: tuple[str, ...]
    rows: tuple[Row, ...]
    added: int
    changed: int
    removed: int


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


def merge(columns: Sequence[str], rows: Sequence[Row], taken: Taken) -> Merge:
    """Return the table after taking another in its place.

    Rows are the same when their values in one column are: of those that tell all rows apart in
    both tables the one with most values in common. Without such a column, rows are the same when
    they stand in the same place. What was the same row keeps its id, its tick and its values in
    columns that the other table does not have.
    """
    key = _key([name for name in taken.columns if name in columns], rows, taken)
    known = {row.values.get(key, "") if key else str(n): row for n, row in enumerate(rows)}
    all_columns = (*taken.columns, *(name for name in columns if name not in taken.columns))
    found: list[Row] = []
    added = changed = 0
    for n, values in enumerate(taken.rows):
        was = known.pop(values[key] if key else str(n), None)
        if was is None:
            added += 1
            found.append(Row("", {name: values.get(name, "") for name in all_columns}))
            continue
        now = {name: values.get(name, was.values.get(name, "")) for name in all_columns}
        changed += any(was.values.get(name, "") != value for name, value in now.items())
        found.append(replace(was, values=now))
    return Merge(all_columns, tuple(found), added, changed, len(known))


def _key(names: Sequence[str], rows: Sequence[Row], taken: Taken) -> str | None:
    best, most = None, 0
    for name in names:
        ours = {row.values.get(name, "") for row in rows}
        theirs = {values[name] for values in taken.rows}
        apart = len(ours) == len(rows) and len(theirs) == len(taken.rows)
        if apart and len(ours & theirs) > most:
            best, most = name, len(ours & theirs)
    return best


def traits_after(old: Mapping[str, Trait], taken: Taken) -> dict[str, Trait]:
    """Return what is known of columns: as it was where it was said, as guessed elsewhere."""
    return {**{name: one for name, one in taken.types.items() if one != PLAIN}, **old}
