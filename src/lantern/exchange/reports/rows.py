"""The rows of a report as tables: a line for each row, and in a workbook each sentence too."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import asdict

import openpyxl
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from lantern.core.review.records import RunRecord, Told, TrendRecord
from lantern.core.review.tables import SENTENCES, sentences_of, table_of, table_of_all
from lantern.exchange import csv_rows
from lantern.exchange.sheets import FORMATS, text_cell

Line = Mapping[str, str]
WIDEST = 60
LOOKED = 500
"""Lines that are looked at to find out how wide a column is."""
NUMBERS = frozenset({"run", "row", "no", "seconds", "limit"})


def table(told: Told) -> tuple[list[str], list[dict[str, str]]]:
    """Return the rows of a run, of all runs of a plan, or the days of trends as one table."""
    match told:
        case RunRecord():
            return table_of(told)
        case TrendRecord():
            return _days(told)
        case _:
            return table_of_all(told.runs)


def _days(told: TrendRecord) -> tuple[list[str], list[dict[str, str]]]:
    outcomes = list(dict.fromkeys(name for _, counts in told.by_day for name in counts))
    lines = [
        {"day": day, **{name: str(counts.get(name, 0)) for name in outcomes}}
        for day, counts in told.by_day
    ]
    return ["day", *outcomes], lines


def _tests(told: TrendRecord) -> list[dict[str, str]]:
    return [
        {name: "" if value is None else str(value) for name, value in asdict(one).items()}
        for one in told.tests
    ]


def csv(told: Told) -> bytes:
    """Return the rows as CSV; what a page says may look like a formula, which is escaped."""
    columns, lines = table(told)
    return csv_rows.write(columns, lines, escape=True).encode()


def ods(told: Told) -> bytes:
    """Return the rows as a spreadsheet of OpenDocument."""
    return FORMATS["ods"].write(*table(told))


def xlsx(told: Told) -> bytes:
    """Return a workbook: rows and sentences of runs, or days and tests of trends."""
    book = openpyxl.Workbook(write_only=True)
    if isinstance(told, TrendRecord):
        _sheet(book, "days", *table(told))
        tests = _tests(told)
        _sheet(book, "tests", list(tests[0]) if tests else ["name"], tests)
    else:
        runs = [told] if isinstance(told, RunRecord) else told.runs
        _sheet(book, "rows", *table(told))
        _sheet(book, "sentences", SENTENCES, sentences_of(runs))
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _sheet(
    book: openpyxl.Workbook, name: str, columns: Sequence[str], lines: Sequence[Line]
) -> None:
    sheet = book.create_sheet(name)
    sheet.freeze_panes = "A2"
    for place, column in enumerate(columns, 1):
        longest = max([len(column), *(len(line.get(column, "")) for line in lines[:LOOKED])])
        sheet.column_dimensions[get_column_letter(place)].width = min(WIDEST, longest + 2)
    heads = [text_cell(sheet, column) for column in columns]
    for head in heads:
        head.font = Font(bold=True)
    sheet.append(heads)
    for line in lines:
        sheet.append([_cell(sheet, column, line.get(column, "")) for column in columns])


def _cell(sheet: object, column: str, value: str) -> object:
    if column in NUMBERS and value:
        try:
            return float(value)
        except ValueError:
            pass
    return text_cell(sheet, value)
