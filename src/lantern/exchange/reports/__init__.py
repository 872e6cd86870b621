"""What reports are given out as: each form is one entry in `FORMS`."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass

from lantern.core.problems import BadInput
from lantern.core.review import reporting
from lantern.core.review.records import RunRecord, Told, TrendRecord, plain
from lantern.core.review.reporting import Template
from lantern.exchange import junit
from lantern.exchange.reports import docx, html, markdown, rows

Print = Callable[[bytes], bytes]
"""Makes a PDF of an HTML document."""


@dataclass(frozen=True)
class Form:
    """A form: its title, the kind of its files, and how one is made of what is told.

    `templated` forms have templates; the others are always whole. `printed` ones need a browser.
    """

    title: str
    mime: str
    make: Callable[[Told, Template, Print], bytes]
    templated: bool = True
    printed: bool = False


def _json(told: Told) -> bytes:
    return json.dumps(plain(told), ensure_ascii=False, indent=1).encode()


def _junit(told: Told) -> bytes:
    if isinstance(told, TrendRecord):
        raise BadInput("Trends are no test run: JUnit has no form for them.", where="form")
    return junit.write([told] if isinstance(told, RunRecord) else told.runs).encode()


FORMS: dict[str, Form] = {
    "html": Form("HTML, one file", "text/html", lambda t, p, _: html.write(reporting.of(t, p))),
    "pdf": Form(
        "PDF",
        "application/pdf",
        lambda t, p, pdf: pdf(html.write(reporting.of(t, p), paper=True)),
        printed=True,
    ),
    "docx": Form(
        "Word processor (DOCX)", docx.MIME, lambda t, p, _: docx.write(reporting.of(t, p))
    ),
    "md": Form(
        "Markdown, for pasting",
        "text/markdown; charset=utf-8",
        lambda t, p, _: markdown.write(reporting.of(t, p)),
    ),
    "xlsx": Form(
        "Rows and sentences (XLSX)",
        "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        lambda t, _, __: rows.xlsx(t),
        templated=False,
    ),
    "csv": Form("Rows (CSV)", "text/csv", lambda t, _, __: rows.csv(t), templated=False),
    "ods": Form(
        "Rows (ODS)",
        "application/vnd.oasis.opendocument.spreadsheet",
        lambda t, _, __: rows.ods(t),
        templated=False,
    ),
    "json": Form("JSON", "application/json", lambda t, _, __: _json(t), templated=False),
    "xml": Form("JUnit XML", "application/xml", lambda t, _, __: _junit(t), templated=False),
}
"""Every form by the ending of its files."""
