"""JUnit XML, as common CI systems read it.

Format: https://github.com/testmoapp/junitxml (a description of the format in common use): a
test suite is a run, a test case a row.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from xml.etree import ElementTree as Xml

from lantern.core.review.records import RowRecord, RunRecord, StepRecord

_NOT_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def write(runs: Sequence[RunRecord]) -> str:
    """Return the runs as a JUnit XML document."""
    root = Xml.Element("testsuites", _totals([row for run in runs for row in run.rows]))
    for run in runs:
        _suite(root, run)
    Xml.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(root, encoding="unicode")


def _totals(rows: Sequence[RowRecord]) -> dict[str, str]:
    return {
        "tests": str(len(rows)),
        "failures": str(sum(row.outcome == "failed" for row in rows)),
        "errors": str(sum(row.outcome in ("interrupted", "cancelled") for row in rows)),
        "skipped": str(sum(row.outcome == "skipped" for row in rows)),
        "time": f"{sum(row.seconds for row in rows):.3f}",
    }


def _suite(root: Xml.Element, run: RunRecord) -> None:
    suite = Xml.SubElement(root, "testsuite", {"name": _text(run.test), **_totals(run.rows)})
    if run.started_at:
        suite.set("timestamp", run.started_at.strftime("%Y-%m-%dT%H:%M:%S"))
    properties = Xml.SubElement(suite, "properties")
    for name in ("environment", "address", "browser", "release", "seed"):
        value = _text(str(getattr(run, name)))
        Xml.SubElement(properties, "property", {"name": name, "value": value})
    for row in run.rows:
        _case(suite, run, row)


def _case(suite: Xml.Element, run: RunRecord, row: RowRecord) -> None:
    values = ", ".join(f"{name}={value}" for name, value in row.values.items())
    name = f"row {row.number}" + (f" ({values})" if values else "") if row.number else run.test
    name += f" in {row.browser}" if row.browser else ""
    case = Xml.SubElement(
        suite,
        "testcase",
        {"name": _text(name), "classname": _text(run.test), "time": f"{row.seconds:.3f}"},
    )
    unsteady = {"lantern.unsteady": row.message} if row.outcome == "unsteady" else {}
    told = {**row.kept, **unsteady}
    if told:
        properties = Xml.SubElement(case, "properties")
        for name, value in told.items():
            Xml.SubElement(properties, "property", {"name": name, "value": _text(value)})
    failed = next((step for step in row.steps if step.outcome == "failed"), None)
    if failed:
        attributes = {"message": _text(failed.message), "type": _text(failed.reason or "failed")}
        failure = Xml.SubElement(case, "failure", attributes)
        failure.text = _text(
            "\n".join(
                [
                    *filter(None, (failed.title, failed.comment)),
                    failed.sentence,
                    failed.message,
                    f"expected: {failed.expected}",
                    f"found: {failed.found}",
                    *filter(None, (failed.contrary,)),
                ]
            )
        )
    elif row.outcome == "failed":
        Xml.SubElement(
            case, "failure", {"message": _text(row.message or run.message), "type": "failed"}
        )
    elif row.outcome in ("interrupted", "cancelled"):
        Xml.SubElement(
            case, "error", {"message": _text(row.message or run.message), "type": row.outcome}
        )
    elif row.outcome == "skipped":
        Xml.SubElement(case, "skipped")
    out = Xml.SubElement(case, "system-out")
    out.text = _text("\n".join(line for step in row.steps for line in _told(step)))


def _told(step: StepRecord) -> Iterator[str]:
    if step.title:
        yield f"— {step.title}"
    yield f"[{step.outcome}] {step.sentence}"
    for more in (step.comment, step.contrary):
        if more:
            yield f"    {more}"


def _text(text: str) -> str:
    """Leave out what XML 1.0 can not hold; pages under test may show anything."""
    return _NOT_XML.sub("\ufffd", text)
