"""A report as a document for word processors (Office Open XML, ECMA-376)."""

from __future__ import annotations

import io
import re

from docx import Document
from docx.document import Document as Paper
from docx.opc.constants import CONTENT_TYPE
from docx.shared import Cm, Pt, RGBColor
from docx.text.paragraph import Paragraph
from PIL import Image

from lantern.core.review.reporting.blocks import (
    MARKS,
    Block,
    Facts,
    Grid,
    Heading,
    Item,
    Listed,
    Report,
    Shown,
    Strip,
    Words,
)

MIME = CONTENT_TYPE.WML_DOCUMENT_MAIN.replace(".main+xml", "")
WIDTH = Cm(15.5)
SOFT = RGBColor(0x6B, 0x62, 0x56)
COLOURS = {
    "passed": RGBColor(0x2D, 0x6A, 0x45),
    "failed": RGBColor(0xA3, 0x27, 0x1F),
    "unsteady": RGBColor(0x8A, 0x5A, 0x00),
}
_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")


def write(report: Report) -> bytes:
    """Return the report as a .docx file; its film strips are left out, paper can not be walked."""
    paper = Document()
    paper.core_properties.title = _plain(report.title)[:255]
    paper.core_properties.author = "Lantern"
    paper.add_heading(_plain(report.title), 0)
    _quiet(paper.add_paragraph(), report.aside)
    verdict = paper.add_paragraph()
    _outcome(verdict, report.state)
    verdict.add_run(f" {_plain(report.verdict)}")
    for block in report.blocks:
        _block(paper, block)
    out = io.BytesIO()
    paper.save(out)
    return out.getvalue()


def _plain(text: str) -> str:
    """Return a text without the signs that XML can not hold."""
    return _CONTROL.sub("", text)


def _block(paper: Paper, block: Block) -> None:
    match block:
        case Heading():
            heading = paper.add_heading("", block.level - 1)
            _outcome(heading, block.outcome)
            heading.add_run(_plain(block.text))
            _quiet(heading, f"  {block.aside}" if block.aside else "")
        case Words():
            _words(paper, block)
        case Facts():
            _facts(paper, block)
        case Grid():
            _grid(paper, block)
        case Listed():
            for item in block.items:
                _item(paper, item, "List Number" if block.counted else "List Bullet")
        case Shown():
            _picture(paper, block)
        case Strip():
            pass


def _outcome(at: Paragraph, outcome: str) -> None:
    if outcome:
        run = at.add_run(f"{MARKS.get(outcome, '')} {outcome} ")
        run.bold = True
        if outcome in COLOURS:
            run.font.color.rgb = COLOURS[outcome]


def _quiet(at: Paragraph, text: str) -> None:
    if text:
        run = at.add_run(_plain(text))
        run.font.color.rgb, run.font.size = SOFT, Pt(9)


def _words(paper: Paper, block: Words) -> None:
    at = paper.add_paragraph()
    if block.quiet:
        _quiet(at, block.text)
    else:
        at.add_run(_plain(block.text))
    if block.said:
        at.paragraph_format.left_indent = Cm(1)


def _facts(paper: Paper, block: Facts) -> None:
    if not block.pairs:
        return
    table = paper.add_table(rows=0, cols=2)
    for name, value in block.pairs:
        cells = table.add_row().cells
        _quiet(cells[0].paragraphs[0], name)
        cells[1].paragraphs[0].add_run(_plain(value))
        cells[0].width, cells[1].width = Cm(4), Cm(11.5)


def _grid(paper: Paper, block: Grid) -> None:
    table = paper.add_table(rows=1, cols=len(block.head), style="Light Grid")
    for cell, name in zip(table.rows[0].cells, block.head, strict=True):
        cell.paragraphs[0].add_run(_plain(name)).bold = True
    for row in block.rows:
        for cell, one in zip(table.add_row().cells, row, strict=True):
            if one.outcome:
                _outcome(cell.paragraphs[0], one.outcome)
            else:
                cell.paragraphs[0].add_run(_plain(one.text))


def _item(paper: Paper, item: Item, style: str) -> None:
    at = paper.add_paragraph(style=style)
    _outcome(at, item.outcome)
    if item.strong:
        at.add_run(f"{_plain(item.strong)} ").bold = True
    at.add_run(_plain(item.text))
    _quiet(at, f"  {item.aside}" if item.aside else "")
    for one in item.below:
        _block(paper, one)


def _picture(paper: Paper, block: Shown) -> None:
    try:
        Image.open(io.BytesIO(block.picture)).verify()
    except (OSError, ValueError, SyntaxError):
        return
    paper.add_picture(io.BytesIO(block.picture), width=WIDTH)
