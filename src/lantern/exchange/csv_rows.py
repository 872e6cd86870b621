"""Rows as CSV (RFC 4180), in and out; also what a spreadsheet puts on the clipboard."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping, Sequence

from lantern.core.problems import BadInput
from lantern.core.values.templates import check_name

MOST_ROWS = 100_000
MOST_COLUMNS = 500


FORMULA = tuple("=+-@\t\r")
"""What a cell begins with that spreadsheet programs take for a formula.

Source: https://owasp.org/www-community/attacks/CSV_Injection
"""


def write(
    columns: Sequence[str], rows: Iterable[Mapping[str, str]], *, escape: bool = False
) -> str:
    """Return the rows as CSV with a header line, lines ended by CR LF.

    With `escape` an apostrophe stands before whatever a spreadsheet program would carry out.
    """
    if escape:
        columns, rows = _escaped(columns, rows)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(columns)
    for row in rows:
        values = [row.get(column, "") for column in columns]
        # A line that is empty but for one empty value would be read as no row at all.
        out.write('""\r\n') if values == [""] else writer.writerow(values)
    return out.getvalue()


def _escaped(
    columns: Sequence[str], rows: Iterable[Mapping[str, str]]
) -> tuple[list[str], list[dict[str, str]]]:
    def safe(text: str) -> str:
        return f"'{text}" if text.startswith(FORMULA) else text

    escaped = [{safe(column): safe(row.get(column, "")) for column in columns} for row in rows]
    return [safe(column) for column in columns], escaped


def read(text: str) -> tuple[list[str], list[dict[str, str]]]:
    """Return the columns and rows of a CSV text; the separator (, ; or tab) is found out.

    Raises BadInput, with the line, when the text is not a table: no header, a name that is no
    name, a line with more values than columns, too large.
    """
    text = text.removeprefix("\ufeff")
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator(text), strict=True)
    columns: list[str] = []
    rows: list[dict[str, str]] = []
    try:
        for values in reader:
            if not columns:
                columns = _header(values)
                continue
            if not values:
                continue
            if len(values) > len(columns):
                raise BadInput(
                    f"Line {reader.line_num} has {len(values)} values, but there are "
                    f"{len(columns)} columns.",
                    where=f"line {reader.line_num}",
                    hint="Put values that hold the separator between double quotes.",
                )
            if len(rows) >= MOST_ROWS:
                raise BadInput(f"A table can have {MOST_ROWS} rows at the most.")
            rows.append(dict(zip(columns, values, strict=False)))
    except csv.Error as error:
        raise BadInput(
            f"Line {reader.line_num} can not be read: {error}.", where=f"line {reader.line_num}"
        ) from error
    if not columns:
        raise BadInput("The text has no header line.", hint="Begin with the columns' names.")
    return columns, rows


def separator(text: str) -> str:
    """Return which of , ; and tab parts the values of the first line."""
    header = text.split("\n", 1)[0]
    return max(",;\t", key=header.count)


def _header(values: Sequence[str]) -> list[str]:
    columns = [check_name(value.strip()) for value in values]
    if len(columns) > MOST_COLUMNS:
        raise BadInput(f"A table can have {MOST_COLUMNS} columns at the most.", where="line 1")
    double = next((name for name in columns if columns.count(name) > 1), None)
    if double:
        raise BadInput(f"Two columns are named {double!r}.", where="line 1")
    return columns
