"""A run as Markdown: what failed, whose fault it is, and nothing that pages say is Markdown."""

from datetime import UTC, datetime

from hypothesis import given
from hypothesis import strategies as st

from lantern.core.review.records import (
    CauseRecord,
    CommentRecord,
    RowRecord,
    RunRecord,
    StepRecord,
)
from lantern.core.review.reporting import TEMPLATES, of_run
from lantern.core.review.reporting.parts import MOST_FAILED
from lantern.exchange.reports import markdown
from lantern.exchange.reports.markdown import plain


def write(told):
    return markdown.write(of_run(told, TEMPLATES["short"])).decode()


AT = datetime(2026, 11, 28, tzinfo=UTC)


def run(*rows, **more):
    return RunRecord(
        7,
        "Quotes",
        "failed",
        "Kiln Desk",
        "http://desk",
        "Chromium",
        "spring",
        AT,
        3.0,
        rows,
        **more,
    )


def row(number, outcome="failed", message="was “€ 7.30”"):
    step = StepRecord(
        "Check the *price*", outcome, 0.4, 4, message=message, expected="€ 7.25", found="€ 7.30"
    )
    return RowRecord(number, {"piece": "Moon jar"}, outcome, 1.0, [step])


def test_it_says_what_failed_with_expected_and_found_and_whose_fault_it_is():
    causes = [CauseRecord("product", 0.8, 2, "Check the price", "The page says so.", "Wren", "x")]
    said = [CommentRecord("Odo", "Look\nhere", AT, "the run", looked=True)]
    text = write(run(row(1, "passed"), row(2), causes=causes, comments=said))
    assert text.startswith("## Quotes: failed\n")
    assert "1 row passed · 1 row failed" in text
    assert "### Row 2: failed" in text
    assert "Row 1" not in text
    assert "Expected “€ 7.25”, Found “€ 7.30”" in text
    assert "Check the \\*price\\*" in text
    assert "**product** says Wren: “x” · 2 failures" in text
    assert "- **Odo** looked at it\n" in text
    assert "  Look here" in text


def test_of_many_rows_the_first_are_told_and_how_many_more_there_are():
    text = write(run(*(row(n) for n in range(1, MOST_FAILED + 4))))
    assert text.count("### Row") == MOST_FAILED
    assert "3 more rows did not plainly pass." in text


@given(st.text())
def test_no_text_of_a_page_begins_a_line_or_a_mark(text):
    told = plain(text)
    assert "\n" not in told
    for mark in "`*_[<#":
        assert told.count(mark) == told.count(f"\\{mark}")
