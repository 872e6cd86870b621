"""A run as one HTML file that needs nothing else: no script, pictures inside."""

from __future__ import annotations

import base64
from importlib.resources import files

from jinja2 import Environment

from lantern.core.review.records import RunRecord

POLICY = "default-src 'none'; img-src data:; style-src 'unsafe-inline'"
"""What the file may do when it is opened: show itself. Text of pages under test is hostile."""

MARKS = {
    "passed": "●",
    "failed": "▲",
    "skipped": "○",
    "interrupted": "■",
    "cancelled": "■",
    "waiting": "·",
    "running": "·",
}


def _data(picture: bytes) -> str:
    return "data:image/jpeg;base64," + base64.b64encode(picture).decode()


def write(run: RunRecord) -> str:
    """Return the run as an HTML document."""
    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)
    environment.filters["data"] = _data
    source = files("lantern.exchange").joinpath("report.html").read_text(encoding="utf-8")
    counts: dict[str, int] = {}
    for row in run.rows:
        counts[row.outcome] = counts.get(row.outcome, 0) + 1
    template = environment.from_string(source)
    return template.render(run=run, counts=counts, marks=MARKS, policy=POLICY)
