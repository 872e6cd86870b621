"""The rows of a report as tables: a line for each row, and in a workbook one for each sentence."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence

import openpyxl
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from lantern.core.review.records import PlanRecord, RunRecord
from lantern.core.review.tables import SENTENCES, sentences_of, table_of, table_of_all
from lantern.exchange import csv_rows
from lantern.exchange.sheets import text_cell

Line = Mapping[str, str]
WIDEST = 60
LOOKED = 500
"""Lines that are looked at to find out how wide a column is."""
NUMBERS = frozenset({"run", "row", "no", "seconds", "limit"})


def table(told: RunRecord | PlanRecord) -> tuple[list[str], list[dict[str, str]]]:
    """Return the rows of a run, or of all runs of a plan, as one table."""
    return table_of(told) if isinstance(told, RunRecord) else table_of_all(told.runs)


def csv(told: RunRecord | PlanRecord) -> bytes:
    """Return the rows as CSV; what a page says may look like a formula, which is escaped."""
    columns, lines = table(told)
    return csv_rows.write(columns, lines, escape=True).encode()


def xlsx(told: RunRecord | PlanRecord) -> bytes:
    """Return rows and sentences as two sheets of a workbook."""
    runs = [told] if isinstance(told, RunRecord) else told.runs
    book = openpyxl.Workbook(write_only=True)
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
    return text_cell(sheet, value)  # type: ignore[arg-type]
