"""A run as Markdown, short enough to be pasted into a message: what failed, why, what people say.

CommonMark 0.31, with no HTML and no tables, which not everything that shows Markdown knows.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator

from lantern.core.review.records import RowRecord, RunRecord

MOST_FAILED = 20
"""Rows that are told one by one."""
_SPECIAL = re.compile(r"([\\`*_{}\[\]()#+!|<>~&-])")


def plain(text: str) -> str:
    """Return a text in one line in which nothing is Markdown."""
    return _SPECIAL.sub(r"\\\1", " ".join(text.split()))


def write(run: RunRecord) -> str:
    """Return a run as a Markdown document."""
    return "\n".join(_lines(run)) + "\n"


def _lines(run: RunRecord) -> Iterator[str]:
    counts = Counter(row.outcome for row in run.rows)
    told = ", ".join(f"{count} {outcome}" for outcome, count in counts.items())
    yield f"## {plain(run.test)}: {run.state}"
    yield ""
    yield f"Run {run.id}: {told}, {run.seconds:.1f} s"
    yield ""
    yield f"- Environment: {plain(run.environment)} ({plain(run.address)})"
    yield f"- Browser: {plain(run.browser)}"
    if run.release:
        yield f"- Release: {plain(run.release)}"
    if run.message:
        yield f"- {plain(run.message)}"
    yield from _causes(run)
    failed = [row for row in run.rows if row.outcome in ("failed", "interrupted")]
    for row in failed[:MOST_FAILED]:
        yield from _row(row)
    if len(failed) > MOST_FAILED:
        yield ""
        yield f"{len(failed) - MOST_FAILED} more rows failed."
    if run.comments:
        yield ""
        yield "### Comments"
        yield ""
        for one in run.comments:
            looked = " looked at it" if one.looked else ""
            yield f"- **{plain(one.author or 'somebody')}**{looked}: {plain(one.text)}".rstrip(": ")


def _causes(run: RunRecord) -> Iterator[str]:
    if not run.causes:
        return
    yield ""
    yield "### Whose fault"
    yield ""
    for one in run.causes:
        failures = "failure" if one.count == 1 else "failures"
        said = f" (says {plain(one.author)})" if one.author else ""
        yield f"- **{one.kind}**{said}, {one.count} {failures}: {plain(one.sentence)}"
        if one.reason:
            yield f"  {plain(one.reason)}"


def _row(row: RowRecord) -> Iterator[str]:
    yield ""
    within = f" in {plain(row.browser)}" if row.browser else ""
    yield f"### Row {row.number}: {row.outcome}{within}" if row.number else f"### {row.outcome}"
    yield ""
    if row.values:
        yield ", ".join(f"{plain(name)}: {plain(value)}" for name, value in row.values.items())
        yield ""
    if row.message:
        yield plain(row.message)
    for step in row.steps:
        if step.outcome == "failed":
            yield f"- {plain(step.sentence)}"
            yield f"  {plain(step.message)}"
            if step.expected or step.found:
                yield f"  expected “{plain(step.expected)}”, found “{plain(step.found)}”"
