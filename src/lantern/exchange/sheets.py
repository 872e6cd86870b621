"""Spreadsheets in and out: CSV, XLSX (Office Open XML, ECMA-376) and ODS (OpenDocument, ISO 26300).

Every cell becomes the text that stands for its value: dates as 2026-11-25, numbers without needless
zeros behind the point but with those in front that their format shows, formulas by their value.
"""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from itertools import islice

import openpyxl
from odf import opendocument, table, text
from odf.namespaces import OFFICENS, TABLENS
from openpyxl.cell import WriteOnlyCell
from openpyxl.worksheet._write_only import WriteOnlyWorksheet

from lantern.core.problems import BadInput
from lantern.exchange import csv_rows

Grid = list[list[str]]
MOST_UNPACKED = 300 * 1024 * 1024
"""Bytes that the parts of a file may unpack to: a small file can hold an enormous one."""
MOST_ROWS, MOST_COLUMNS = csv_rows.MOST_ROWS, csv_rows.MOST_COLUMNS
_ENCRYPTED = b"\xd0\xcf\x11\xe0"
_ZEROS = re.compile(r"0{2,}")


@dataclass(frozen=True)
class Format:
    """A format: how it is read into sheets by name, how columns and rows are written."""

    mime: str
    read: Callable[[bytes], dict[str, Grid]]
    write: Callable[[Sequence[str], Sequence[Mapping[str, str]]], bytes]


def ending_of(name: str) -> str:
    """Return the format that a file's name says, in small letters; "" for none."""
    ending = name.rsplit(".", 1)[-1].lower() if "." in name else ""
    return "csv" if ending in ("tsv", "txt") else ending


def read_book(content: bytes, name: str) -> dict[str, Grid]:
    """Return the sheets of a file by name, as rows of texts; raises BadInput with what is wrong."""
    ending = ending_of(name)
    if ending in ("xlsm", "xlsb", "xltm"):
        raise BadInput(
            f"“{name}” can carry macros.", where=name, hint="Save it as .xlsx, without macros."
        )
    if ending not in FORMATS:
        known = ", ".join(f".{one}" for one in FORMATS)
        raise BadInput(f"“{name}” is none of {known}.", where=name)
    sheets = FORMATS[ending].read(content)
    if not any(any(row) for grid in sheets.values() for row in grid):
        raise BadInput(f"There is nothing in “{name}”.", where=name)
    return sheets


# -- CSV -----------------------------------------------------------------------------------------


def _read_csv(content: bytes) -> dict[str, Grid]:
    for coding in (
        ("utf-8-sig", "utf-16")
        if content[:2] in (b"\xff\xfe", b"\xfe\xff")
        else (
            "utf-8-sig",
            "cp1252",
        )
    ):
        try:
            words = content.decode(coding)
            break
        except UnicodeDecodeError:
            continue
    else:
        raise BadInput("The text is in no coding that is known.", hint="Save it as UTF-8.")
    if "\0" in words:
        raise BadInput("This is not a text file.", hint="Save it as CSV.")
    reader = csv.reader(
        io.StringIO(words, newline=""), delimiter=csv_rows.separator(words), strict=True
    )
    try:
        return {"": _bounded([list(row) for row in islice(reader, MOST_ROWS + 2)])}
    except csv.Error as error:
        raise BadInput(
            f"Line {reader.line_num} can not be read: {error}.", where=f"line {reader.line_num}"
        ) from error


def _write_csv(columns: Sequence[str], rows: Sequence[Mapping[str, str]]) -> bytes:
    return csv_rows.write(columns, rows).encode()


# -- XLSX ----------------------------------------------------------------------------------------


def _unpackable(content: bytes, what: str) -> zipfile.ZipFile:
    """Return the archive that a spreadsheet is; raises BadInput for what is none, or too much."""
    if content.startswith(_ENCRYPTED):
        raise BadInput(
            "The file is encrypted, or of an old kind.",
            hint=f"Save it as {what} without a password.",
        )
    try:
        archive = zipfile.ZipFile(io.BytesIO(content))
        size = sum(part.file_size for part in archive.infolist())
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise BadInput(f"This is not a file of the kind {what}, or it is broken.") from error
    if size > MOST_UNPACKED:
        raise BadInput(f"The file unpacks to {size >> 20} MB; {MOST_UNPACKED >> 20} are allowed.")
    return archive


def _read_xlsx(content: bytes) -> dict[str, Grid]:
    archive = _unpackable(content, ".xlsx")
    if any(part.filename.endswith("vbaProject.bin") for part in archive.infolist()):
        raise BadInput("The file carries macros.", hint="Save it as .xlsx, without macros.")
    try:
        book = openpyxl.load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        plain = openpyxl.load_workbook(io.BytesIO(content), read_only=True)
        return {
            sheet.title: _bounded(
                [
                    [_xlsx_text(cell, other) for cell, other in zip(row, others, strict=False)]
                    for row, others in islice(
                        zip(sheet.iter_rows(), plain[sheet.title].iter_rows(), strict=False),
                        MOST_ROWS + 2,
                    )
                ]
            )
            for sheet in book.worksheets
        }
    except BadInput:
        raise
    except Exception as error:  # whatever a broken file brings the package to raise
        raise BadInput(f"The file can not be read: {error}.") from error


def _xlsx_text(cell: object, other: object) -> str:
    value = getattr(cell, "value", None)
    if value is None:
        formula = getattr(other, "value", None)
        if isinstance(formula, str) and formula.startswith("="):
            at = getattr(other, "coordinate", "?")
            raise BadInput(
                f"The formula in {at} has no value in the file.",
                where=at,
                hint="Open the file in a spreadsheet program and save it there once.",
            )
        return ""
    return _plain(value, str(getattr(cell, "number_format", "") or ""))


def _plain(value: object, shape: str = "") -> str:
    """Return the text that stands for a value; `shape` is the number format it is shown in."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, datetime):
        at_midnight = value.time() == time()
        return value.date().isoformat() if at_midnight else value.isoformat(" ", "seconds")
    if isinstance(value, date | time):
        return value.isoformat()
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        value = int(value)
    if isinstance(value, int) and _ZEROS.fullmatch(shape):
        return str(value).zfill(len(shape))
    if isinstance(value, float):
        return format(value, ".15g")
    return str(value)


def _write_xlsx(columns: Sequence[str], rows: Sequence[Mapping[str, str]]) -> bytes:
    book = openpyxl.Workbook(write_only=True)
    sheet = book.create_sheet("rows")
    sheet.append([text_cell(sheet, name) for name in columns])
    for row in rows:
        sheet.append([text_cell(sheet, row.get(name, "")) for name in columns])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def text_cell(sheet: WriteOnlyWorksheet, value: str) -> WriteOnlyCell:
    """Return a cell that holds a text, even one that looks like a formula."""
    cell = WriteOnlyCell(sheet, _no_control(value))
    cell.data_type = "s"
    return cell


def _no_control(value: str) -> str:
    """Return a text without the signs that XML can not hold."""
    return re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]", "", value)


# -- ODS -----------------------------------------------------------------------------------------


def _read_ods(content: bytes) -> dict[str, Grid]:
    archive = _unpackable(content, ".ods")
    try:
        manifest = archive.read("META-INF/manifest.xml")
        if b"encryption-data" in manifest:
            raise BadInput("The file is encrypted.", hint="Save it without a password.")
        if any(part.filename.startswith("Basic/") for part in archive.infolist()):
            raise BadInput("The file carries macros.", hint="Save it without macros.")
        document = opendocument.load(io.BytesIO(content))
        return {
            sheet.getAttribute("name"): _bounded(_ods_rows(sheet))
            for sheet in document.getElementsByType(table.Table)
        }
    except BadInput:
        raise
    except Exception as error:  # whatever a broken file brings the package to raise
        raise BadInput(f"The file can not be read: {error}.") from error


def _ods_rows(sheet: table.Table) -> Grid:
    rows: Grid = []
    waiting = 0
    for row in sheet.getElementsByType(table.TableRow):
        cells: list[str] = []
        empty = 0
        for cell in row.childNodes:
            if cell.qname not in ((TABLENS, "table-cell"), (TABLENS, "covered-table-cell")):
                continue
            value = _ods_text(cell)
            count = int(cell.attributes.get((TABLENS, "number-columns-repeated"), 1))
            if value:
                cells += [""] * min(empty, MOST_COLUMNS + 1) + [value] * min(count, MOST_COLUMNS)
                empty = 0
            else:
                empty += count
        count = int(row.attributes.get((TABLENS, "number-rows-repeated"), 1))
        if cells:
            room = MOST_ROWS + 2 - len(rows)
            rows += [[] for _ in range(min(waiting, room))]
            rows += [cells] * min(count, room)
            waiting = 0
        else:
            waiting += count
        if len(rows) > MOST_ROWS + 1:
            break
    return rows


def _ods_text(cell: table.TableCell) -> str:
    kind = cell.attributes.get((OFFICENS, "value-type"), "")
    shown = "\n".join(str(part) for part in cell.getElementsByType(text.P))
    if kind == "date":
        return _plain(datetime.fromisoformat(cell.attributes[OFFICENS, "date-value"]))
    if kind == "boolean":
        return "yes" if cell.attributes[OFFICENS, "boolean-value"] == "true" else "no"
    if kind in ("float", "currency", "percentage"):
        if re.fullmatch(r"0\d+", shown):
            return shown
        return _plain(float(cell.attributes[OFFICENS, "value"]))
    return shown


def _write_ods(columns: Sequence[str], rows: Sequence[Mapping[str, str]]) -> bytes:
    document = opendocument.OpenDocumentSpreadsheet()
    sheet = table.Table(name="rows")
    for values in [list(columns), *([row.get(name, "") for name in columns] for row in rows)]:
        line = table.TableRow()
        for value in values:
            cell = table.TableCell(valuetype="string")
            cell.addElement(text.P(text=_no_control(value)))
            line.addElement(cell)
        sheet.addElement(line)
    document.spreadsheet.addElement(sheet)
    out = io.BytesIO()
    document.write(out)
    return out.getvalue()


def _bounded(rows: Grid) -> Grid:
    """Return rows without empty ones at the end; raises BadInput for a table that is too large."""
    while rows and not any(value.strip() for value in rows[-1]):
        rows.pop()
    if len(rows) > MOST_ROWS + 1:
        raise BadInput(f"A table can have {MOST_ROWS} rows at the most.")
    if any(len(row) > MOST_COLUMNS for row in rows):
        widest = max(len(row) for row in rows)
        raise BadInput(f"A table can have {MOST_COLUMNS} columns at the most, not {widest}.")
    return rows


FORMATS: dict[str, Format] = {
    "csv": Format("text/csv", _read_csv, _write_csv),
    "xlsx": Format(
        "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        _read_xlsx,
        _write_xlsx,
    ),
    "ods": Format("application/vnd.oasis.opendocument.spreadsheet", _read_ods, _write_ods),
}
"""Every format of tables, by the ending of its files."""
