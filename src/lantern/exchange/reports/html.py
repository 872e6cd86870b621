"""A report as one HTML file that needs nothing else: no script, pictures inside.

Its film strips are walked with the arrow keys: each frame is a radio button, and the one that is
chosen shows its pictures.
"""

from __future__ import annotations

import base64
from functools import cache

from jinja2 import Environment, PackageLoader, Template

from lantern.core.review.reporting.blocks import MARKS, Report, Strip

POLICY = "default-src 'none'; img-src data:; style-src 'unsafe-inline'"
"""What the file may do when it is opened: show itself. Text of pages under test is hostile."""


def _data(picture: bytes) -> str:
    return "data:image/jpeg;base64," + base64.b64encode(picture).decode()


@cache
def _template() -> Template:
    environment = Environment(
        autoescape=True,
        trim_blocks=True,
        lstrip_blocks=True,
        loader=PackageLoader("lantern.exchange", ""),
    )
    environment.filters["data"] = _data
    environment.filters["kind"] = lambda block: type(block).__name__
    return environment.get_template("reports/report.html")


def write(report: Report, *, paper: bool = False) -> bytes:
    """Return the report as an HTML document; for `paper` all is unfolded, in the light of day."""
    strips = [one for one in report.blocks if isinstance(one, Strip)]
    text = _template().render(report=report, marks=MARKS, policy=POLICY, paper=paper, strips=strips)
    return text.encode()
