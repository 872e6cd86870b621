"""Reports: a template says what is told, every form tells it, and none runs what pages say."""

import io
import json
import zipfile
from datetime import UTC, datetime

import jsonschema
import openpyxl
import pytest
from docx import Document
from PIL import Image

from lantern.core.problems import BadInput, UnknownName
from lantern.core.review.records import (
    CauseRecord,
    ChangeRecord,
    CommentRecord,
    DefectRecord,
    MatrixLine,
    PlanRecord,
    RowRecord,
    RunRecord,
    SlowRecord,
    StandingRecord,
    StepRecord,
    TrendRecord,
    plain,
)
from lantern.core.review.reporting import TEMPLATES, template
from lantern.core.review.reporting.parts import MOST_FAILED
from lantern.core.review.schema import report_schema
from lantern.exchange.reports import FORMS

AT = datetime(2026, 11, 28, 2, 30, tzinfo=UTC)
HOSTILE = "<script>alert(1)</script>\x00=HYPERLINK(1)"


def picture():
    out = io.BytesIO()
    Image.new("RGB", (8, 6), "teal").save(out, "JPEG")
    return out.getvalue()


def step(sentence, outcome="passed", **more):
    return StepRecord(sentence, outcome, 0.4, 4, picture=picture(), then=picture(), **more)


FAILED = step("Check the price", "failed", message=HOSTILE, expected="€ 7.25", found="€ 7.30")
ROWS = [
    RowRecord(1, {"piece": "Moon jar"}, "passed", 1.0, [step("Open “/quote”")], started_at=AT),
    RowRecord(2, {"piece": HOSTILE, "run": "in"}, "failed", 2.0, [step("Open “/quote”"), FAILED],
              kept={"price": "€ 7.30"}),
]  # fmt: skip
RUN = RunRecord(
    7, "Quotes", "failed", "Kiln Desk", "http://desk", "Chromium", "spring", AT, 3.0, ROWS,
    causes=[CauseRecord("product", 0.8, 1, "Check the price", "The page says so.")],
    comments=[CommentRecord("Odo", "Look here", AT, "the run", looked=True)],
    changes=[ChangeRecord("Quotes", "fails newly", "failed")],
    defects=[DefectRecord(5, "A finial costs more", "open", "minor", "Odo Fennick", "SLATE-1")],
)  # fmt: skip
PLAN = PlanRecord(
    3, "Every night", "failed", "1 of 1 tests failed.", "clay", AT, 9.0, {"passed": 1, "failed": 1},
    ["chromium"], [MatrixLine("Quotes", "Kiln Desk", ["failed"])], [RUN],
    causes=RUN.causes, changes=RUN.changes, defects=RUN.defects,
)  # fmt: skip
TRENDS = TrendRecord(
    30, AT, [("2026-11-27", {"passed": 3}), ("2026-11-28", {"passed": 2, "failed": 1})],
    [StandingRecord("Quotes", "new", AT, 6, 1, 0.1, 0.01, 0.3)],
    [SlowRecord("Quotes", "Open “/quote”", 2.0, 0.5, True)],
)  # fmt: skip
ALL = {"run": RUN, "plan": PLAN, "trends": TRENDS}


def made(form, told, name="full"):
    return FORMS[form].make(told, template(name), lambda html: b"%PDF-" + html)


def said(form, content):
    """Return the words of a file, whatever form it has."""
    if form == "docx":
        paper = Document(io.BytesIO(content))
        cells = [cell.text for table in paper.tables for row in table.rows for cell in row.cells]
        return "\n".join([*(one.text for one in paper.paragraphs), *cells])
    if form == "xlsx":
        book = openpyxl.load_workbook(io.BytesIO(content))
        return "\n".join(
            str(cell.value) for sheet in book for row in sheet.iter_rows() for cell in row
        )
    return content.decode()


@pytest.mark.parametrize("form", ["html", "pdf", "docx", "md"])
@pytest.mark.parametrize("name", TEMPLATES)
@pytest.mark.parametrize("what", ALL)
def test_every_template_is_written_in_every_form(form, name, what):
    words = said(form, made(form, ALL[what], name))
    assert {"run": "Quotes", "plan": "Every night", "trends": "Trends"}[what] in words
    if what != "trends":
        assert "Look here" in words, "what was commented is in reports"
        assert "product" in words


def test_a_template_says_which_parts_there_are():
    full, short, managers = (said("md", made("md", RUN, name)) for name in TEMPLATES)
    assert "Open “/quote”" in full
    assert "Open “/quote”" not in short
    assert "€ 7.30" in short
    assert "€ 7.30" not in managers
    assert "1 of 2 rows passed: 50%." in managers
    assert "A finial costs more" in managers
    assert "A finial costs more" not in short
    assert "fails newly" in full


def test_pictures_then_and_now_are_on_a_film_strip_that_needs_no_script():
    text = made("html", RUN).decode()
    assert text.count('type="radio"') == 2, "of the row with two sentences"
    assert '<p class="soft">Then</p>' in text
    assert "<script" not in text.replace("&lt;script", "")
    assert "default-src" in text
    assert 'type="radio"' not in made("html", RUN, "short").decode()
    assert 'type="radio"' not in made("pdf", RUN).decode(), "paper can not be walked"


def test_nothing_that_a_page_said_is_carried_out_by_any_form():
    assert "<script>" not in made("html", PLAN).decode()
    assert "\n=HYPERLINK" not in made("csv", PLAN).decode()
    for form in ("docx", "xlsx"):
        for name in zipfile.ZipFile(io.BytesIO(made(form, RUN))).namelist():
            assert "vba" not in name.lower()
    book = openpyxl.load_workbook(io.BytesIO(made("xlsx", RUN)))
    kinds = {cell.data_type for sheet in book for row in sheet.iter_rows() for cell in row}
    assert "f" not in kinds, "no cell is a formula"


def test_rows_of_a_plan_are_one_table_with_inputs_kept_values_and_why_they_failed():
    book = openpyxl.load_workbook(io.BytesIO(made("xlsx", PLAN)))
    assert book.sheetnames == ["rows", "sentences"]
    heads, *lines = book["rows"].iter_rows(values_only=True)
    row = dict(zip(heads, lines[1], strict=True))
    assert (row["run"], row["test"], row["outcome"]) == (7, "Quotes", "failed")
    assert (row["kept price"], row["expected"], row["found"]) == ("€ 7.30", "€ 7.25", "€ 7.30")
    assert row["input run"] == "in", "a column of the data hides none of the report's own"
    assert len(list(book["sentences"].iter_rows())) == 4


def test_trends_are_a_table_too_but_no_test_run():
    assert made("csv", TRENDS).decode().splitlines()[0] == "day,passed,failed"
    assert openpyxl.load_workbook(io.BytesIO(made("xlsx", TRENDS))).sheetnames == ["days", "tests"]
    with pytest.raises(BadInput):
        made("xml", TRENDS)


@pytest.mark.parametrize("what", ALL)
def test_json_is_as_its_published_schema_says(what):
    schema = report_schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    told = json.loads(made("json", ALL[what]))
    jsonschema.validate(told, schema)
    assert told == plain(ALL[what])
    told["surprise"] = 1
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(told, schema)


def test_of_many_failures_a_short_report_tells_the_first():
    rows = [RowRecord(n, {}, "failed", 1.0, [FAILED]) for n in range(1, 30)]
    many = RunRecord(1, "Q", "failed", "E", "http://e", "C", "", None, 1.0, rows)
    words = said("md", made("md", many, "short"))
    assert f"{29 - MOST_FAILED} more rows did not plainly pass." in words


def test_a_template_that_there_is_not_is_told_with_those_there_are():
    with pytest.raises(UnknownName, match="template"):
        template("long")
