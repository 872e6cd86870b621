"""A run as one HTML file that needs nothing else: no script, pictures inside."""

from __future__ import annotations

import base64

from jinja2 import Environment, PackageLoader, Template

from lantern.core.review.records import PlanRecord, RunRecord

POLICY = "default-src 'none'; img-src data:; style-src 'unsafe-inline'"
"""What the file may do when it is opened: show itself. Text of pages under test is hostile."""

MARKS = {
    "passed": "●",
    "unsteady": "◆",
    "failed": "▲",
    "skipped": "○",
    "interrupted": "■",
    "cancelled": "■",
    "waiting": "·",
    "running": "·",
}


def _data(picture: bytes) -> str:
    return "data:image/jpeg;base64," + base64.b64encode(picture).decode()


def _template(name: str) -> Template:
    environment = Environment(
        autoescape=True,
        trim_blocks=True,
        lstrip_blocks=True,
        loader=PackageLoader("lantern.exchange", ""),
    )
    environment.filters["data"] = _data
    return environment.get_template(name)


def write_plan(told: PlanRecord) -> str:
    """Return a run of a plan as an HTML document: the matrix, and what did not plainly pass."""
    worst = [
        (run, row)
        for run in told.runs
        for row in run.rows
        if row.outcome in ("failed", "interrupted", "unsteady", "cancelled")
    ]
    return _template("plan.html").render(told=told, worst=worst, marks=MARKS, policy=POLICY)


def write(run: RunRecord) -> str:
    """Return the run as an HTML document."""
    counts: dict[str, int] = {}
    for row in run.rows:
        counts[row.outcome] = counts.get(row.outcome, 0) + 1
    return _template("report.html").render(run=run, counts=counts, marks=MARKS, policy=POLICY)
