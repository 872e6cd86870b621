"""Spreadsheets: what goes out comes back, what is odd in them is read right or refused."""

import csv
import io
import zipfile
from datetime import date, datetime

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lantern.core.data.taking import take
from lantern.core.problems import BadInput
from lantern.exchange import csv_rows, reading, sheets

WORDS = st.text(st.characters(blacklist_categories=("Cs", "Cc")), min_size=1, max_size=12)


@pytest.mark.parametrize("ending", sheets.FORMATS)
@settings(max_examples=20)
@given(rows=st.lists(st.tuples(WORDS, WORDS), min_size=1, max_size=5))
def test_rows_come_back_from_every_format_as_they_were(ending, rows):
    rows = [(f"n{n}", " ".join(text.split()) or "x") for n, (_, text) in enumerate(rows)]
    values = [dict(zip(("piece", "note"), row, strict=True)) for row in rows]
    content = sheets.FORMATS[ending].write(("piece", "note"), values)
    (grid,) = sheets.read_book(content, f"rows.{ending}").values()
    assert list(take(grid, header=1).rows) == values


@pytest.mark.parametrize("ending", sheets.FORMATS)
def test_a_value_that_looks_like_a_formula_stays_a_text(ending):
    content = sheets.FORMATS[ending].write(("piece",), [{"piece": "=1+1"}, {"piece": "@SUM(A1)"}])
    (grid,) = sheets.read_book(content, f"rows.{ending}").values()
    assert grid[1:] == [["=1+1"], ["@SUM(A1)"]]


@given(st.lists(st.text(st.characters(blacklist_categories=("Cs",))), min_size=1, max_size=9))
def test_escaped_csv_holds_nothing_that_a_spreadsheet_program_carries_out(values):
    text = csv_rows.write(("=piece",), [{"=piece": value} for value in values], escape=True)
    header, *cells = [row[0] for row in csv.reader(io.StringIO(text, newline=""))]
    assert header == "'=piece"
    assert not any(cell.startswith(csv_rows.FORMULA) for cell in cells)
    for cell, value in zip(cells, values, strict=True):
        assert cell in (value, f"'{value}")


def test_a_header_that_looks_like_a_formula_stays_a_text():
    content = sheets.FORMATS["xlsx"].write(("=1+1",), [{"=1+1": "x"}])
    assert openpyxl.load_workbook(io.BytesIO(content)).active["A1"].data_type == "s"


@pytest.mark.parametrize("ending", reading.APART)
def test_a_file_is_read_apart_as_it_is_read_here(ending):
    content = sheets.FORMATS[ending].write(("piece", "note"), [{"piece": "Möja", "note": "=1"}])
    assert reading.read_apart(content, f"rows.{ending}") == sheets.read_book(
        content, f"rows.{ending}"
    )
    with pytest.raises(BadInput, match="not a file of the kind"):
        reading.read_apart(b"nonsense", f"rows.{ending}")


def test_a_small_file_that_takes_for_ever_is_given_up(monkeypatch):
    """Some hundred kilobytes that unpack to millions of empty rows."""
    head = b"""<office:document-content
      xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"
      xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"><office:body>
      <office:spreadsheet><table:table table:name="rows">"""
    tail = b"</table:table></office:spreadsheet></office:body></office:document-content>"
    listed = """<m:manifest xmlns:m="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">
      <m:file-entry m:full-path="content.xml" m:media-type="text/xml"/></m:manifest>"""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", listed)
        archive.writestr("content.xml", head + b"<table:table-row/>" * 8_000_000 + tail)
    assert len(out.getvalue()) < 500_000
    monkeypatch.setattr(reading, "SECONDS", 3.0)
    with pytest.raises(BadInput, match="is not read: "):
        reading.read_apart(out.getvalue(), "rows.ods")
    monkeypatch.setattr(reading, "SECONDS", 60.0)
    monkeypatch.setattr(reading, "MEMORY", 200 << 20)
    with pytest.raises(BadInput, match="200 MB of memory"):
        reading.read_apart(out.getvalue(), "rows.ods")


def xlsx(*rows, shape=None):
    book = openpyxl.Workbook()
    book.create_sheet("Second").append(["other"])
    for row in rows:
        book.active.append(row)
    for place, style in (shape or {}).items():
        book.active[place].number_format = style
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_dates_numbers_and_leading_zeros_of_a_workbook_are_read_as_they_are_meant():
    content = xlsx(
        ["cone", "code", "day", "when", "share", "rush", "count"],
        ["06", 7, date(2026, 11, 26), datetime(2026, 11, 26, 9, 30), 2.5, True, 12.0],
        shape={"B2": "0000"},
    )
    book = sheets.read_book(content, "rows.XLSX")
    assert list(book) == ["Sheet", "Second"]
    assert book["Sheet"][1] == [
        "06", "0007", "2026-11-26", "2026-11-26 09:30:00", "2.5", "yes", "12",
    ]  # fmt: skip


def test_a_formula_without_a_value_says_where_it_is():
    with pytest.raises(BadInput, match="formula in B2 has no value") as said:
        sheets.read_book(xlsx(["a", "b"], [1, "=A2*2"]), "rows.xlsx")
    assert "save it there once" in said.value.hint


def macros():
    out = io.BytesIO(xlsx(["a"], ["b"]))
    with zipfile.ZipFile(out, "a") as archive:
        archive.writestr("xl/vbaProject.bin", "x")
    return out.getvalue()


def bomb():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/worksheets/sheet1.xml", b"0" * (sheets.MOST_UNPACKED + 1))
    return out.getvalue()


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("rows.xlsx", lambda: sheets._ENCRYPTED + b"...", "encrypted"),
        ("rows.xlsx", lambda: b"not a workbook", "not a file of the kind .xlsx"),
        ("rows.xlsx", lambda: xlsx(["a"], ["b"])[:-80], "not a file|can not be read"),
        ("rows.xlsx", macros, "carries macros"),
        ("rows.xlsx", bomb, "unpacks to"),
        ("rows.xlsm", lambda: b"", "can carry macros"),
        ("rows.ods", lambda: b"nothing", "not a file of the kind .ods"),
        ("rows.ods", lambda: xlsx(["a"], ["b"]), "can not be read"),
        ("rows.csv", lambda: b'a,b\n"1', "Line 2 can not be read"),
        ("rows.csv", lambda: b"a\0b", "not a text file"),
        ("rows.csv", lambda: b"\n\n", "nothing in"),
        ("rows.pdf", lambda: b"", "none of .csv, .xlsx, .ods"),
        ("rows", lambda: b"", "none of"),
    ],
)
def test_what_is_no_table_is_refused_with_what_it_is(name, content, words):
    with pytest.raises(BadInput, match=words):
        sheets.read_book(content(), name)


def test_text_of_an_older_coding_and_other_separators_is_read():
    (grid,) = sheets.read_book("Stück;Preis\nDose;3,50".encode("cp1252"), "rows.csv").values()
    assert grid == [["Stück", "Preis"], ["Dose", "3,50"]]
    (grid,) = sheets.read_book("a\tb\n1\t2".encode("utf-16"), "rows.tsv").values()
    assert grid == [["a", "b"], ["1", "2"]]
