"""Open formats: CSV, JUnit XML and the HTML report, with hostile content."""

from dataclasses import replace
from datetime import UTC, datetime
from xml.etree import ElementTree as Xml

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.problems import BadInput
from lantern.core.review.defects import Failure, fingerprint, steps_to_repeat, title
from lantern.core.review.records import RowRecord, RunRecord, StepRecord
from lantern.core.review.reporting import TEMPLATES, of_run
from lantern.core.review.tables import table_of
from lantern.exchange import csv_rows, junit, sheets
from lantern.exchange.reports import html

names = st.lists(
    st.from_regex(r"[a-z_][a-z0-9_]{0,8}", fullmatch=True), min_size=1, max_size=4, unique=True
)
cells = st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\x00"), max_size=12)


@given(names, st.data())
def test_rows_survive_csv(columns, data):
    rows = data.draw(st.lists(st.fixed_dictionaries(dict.fromkeys(columns, cells)), max_size=5))
    read_columns, read_rows = csv_rows.read(csv_rows.write(columns, rows))
    assert (read_columns, read_rows) == (columns, rows)


@pytest.mark.parametrize("separator", [",", ";", "\t"])
def test_the_separator_is_found_out(separator):
    text = separator.join(["piece", "clay"]) + "\n" + separator.join(["Moon jar", "Raku"])
    assert csv_rows.read("\ufeff" + text) == (
        ["piece", "clay"],
        [{"piece": "Moon jar", "clay": "Raku"}],
    )


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no header"),
        ("piece,piece\nx,y", "Two columns"),
        ("piece name\nx", "can not be the name"),
        ("piece\nMoon,jar", "Line 2 has 2 values"),
        ('piece\n"Moon', "Line 2 can not be read"),
    ],
)
def test_a_malformed_table_says_what_and_where(text, words):
    with pytest.raises(BadInput, match=words):
        csv_rows.read(text)


HOSTILE = '</script><script>alert("x")</script>&\x00\x1b'


def run(state="failed", **more):
    failed = StepRecord(
        f"Check that text of {HOSTILE} is “1”", "failed", 2.0, 2.0, "check differed", HOSTILE,
        expected="1", found=HOSTILE, console=[HOSTILE], picture=b"\xff\xd8jpeg",
    )  # fmt: skip
    rows = [
        RowRecord(
            1, {"piece": "Moon jar"}, "passed", 1.5, [StepRecord("Open “/”", "passed", 0.1, 2)]
        ),
        RowRecord(2, {"piece": HOSTILE}, "failed", 2.5, [failed]),
        RowRecord(3, {}, "skipped", 0, []),
        RowRecord(4, {}, "interrupted", 0, []),
    ]
    facts = {
        "browser": "Chromium",
        "release": "spring",
        "started_at": datetime(2026, 11, 2, tzinfo=UTC),
    }
    return RunRecord(
        7, "Quotes", state, "Kiln Desk", "http://desk", seconds=4, rows=rows, **facts, **more
    )


def test_junit_counts_and_holds_what_failed():
    suite = Xml.fromstring(junit.write([run()])).find("testsuite")
    assert {k: suite.get(k) for k in ("tests", "failures", "errors", "skipped")} == {
        "tests": "4",
        "failures": "1",
        "errors": "1",
        "skipped": "1",
    }
    cases = suite.findall("testcase")
    assert cases[0].get("name") == "row 1 (piece=Moon jar)"
    assert cases[1].find("failure").get("type") == "check differed"
    assert "expected: 1" in cases[1].find("failure").text
    assert cases[3].find("error").get("type") == "interrupted"


@given(st.text())
def test_junit_is_always_well_formed(text):
    step = StepRecord(text, "failed", 1, 1, message=text, found=text)
    record = RunRecord(
        1,
        text,
        "failed",
        text,
        text,
        text,
        text,
        None,
        1,
        [RowRecord(1, {"a": text}, "failed", 1, [step])],
    )
    Xml.fromstring(junit.write([record]))


def test_the_report_never_runs_what_a_page_said():
    text = html.write(of_run(run(), TEMPLATES["full"])).decode()
    assert "<script" not in text
    assert "&lt;/script&gt;" in text
    assert "default-src &#39;none&#39;" in text or "default-src 'none'" in text
    assert "data:image/jpeg;base64," in text
    assert "http://" not in text.replace("http://desk", "")


def failure(**more):
    facts = {
        "test": "3", "step_id": "s1", "sentence": "Check that text of Price is “€ 9.95”",
        "reason": "check differed", "expected": "€ 9.95", "found": "€ 7.00",
        "message": "The text of “Price” was “€ 7.00” for 2 s, but “€ 9.95” was expected.",
        "before": ["Open “/”"],
    }  # fmt: skip
    return Failure(**{**facts, **more})


def test_the_same_failure_on_another_row_has_the_same_fingerprint():
    other = failure(message="The text of “Price” was “€ 8.10” for 10 s, but “€ 1.00” was expected.")
    assert fingerprint(failure()) == fingerprint(other)


@pytest.mark.parametrize("change", [{"step_id": "s2"}, {"test": "4"}, {"reason": "not found"}])
def test_another_step_test_or_reason_is_another_failure(change):
    assert fingerprint(failure()) != fingerprint(failure(**change))


def test_a_defect_is_drafted_from_the_sentences():
    assert steps_to_repeat(failure()) == "1. Open “/”\n2. Check that text of Price is “€ 9.95”"
    assert title(failure()) == "Check that text of Price is “€ 9.95”: was “€ 7.00”"
    assert len(title(failure(found="x" * 500))) == 120


def test_the_rows_of_a_run_are_a_table_that_says_how_far_each_came():
    def steps(*outcomes):
        return [StepRecord("", one, 1, 2, step=f"s{n}") for n, one in enumerate(outcomes)]

    failed = steps("passed", "passed", "failed", "skipped", "skipped")
    failed[2] = replace(failed[2], sentence="Press Ask", expected="1", found="2", message="No.")
    rows = [
        RowRecord(1, {"piece": "Moon jar", "outcome": "x"}, "passed", 1.5,
                  steps("passed", "passed", "passed", "skipped", "passed"), {"total": "9"}),
        RowRecord(2, {"piece": "Vase"}, "failed", 2.5, failed),
        RowRecord(3, {}, "interrupted", 0, [], message="The station stopped."),
    ]  # fmt: skip
    record = replace(run(), rows=rows, sentences=[f"s{n}" for n in range(5)])
    columns, table = table_of(record)
    assert columns[:7] == [
        "row", "browser", "outcome", "sentences", "piece", "input outcome", "kept total",
    ]  # fmt: skip
    assert [row["sentences"] for row in table] == ["5 of 5", "3 of 5", "0 of 5"]
    assert (table[0]["input outcome"], table[0]["kept total"]) == ("x", "9")
    assert [table[1][name] for name in ("stopped at", "expected", "found", "message")] == [
        "Press Ask", "1", "2", "No.",
    ]  # fmt: skip
    assert table[2]["message"] == "The station stopped."
    for form in sheets.FORMATS.values():
        content = form.write(columns, table)
        assert content
