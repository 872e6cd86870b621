"""A report as Markdown, short enough to be pasted into a message.

CommonMark 0.31, with no HTML and no tables, which not everything that shows Markdown knows.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from lantern.core.review.reporting.blocks import (
    Block,
    Facts,
    Grid,
    Heading,
    Item,
    Listed,
    Report,
    Words,
)

_SPECIAL = re.compile(r"([\\`*_{}\[\]()#+!|<>~&-])")


def plain(text: str) -> str:
    """Return a text in one line in which nothing is Markdown."""
    return _SPECIAL.sub(r"\\\1", " ".join(text.split()))


def write(report: Report) -> bytes:
    """Return the report as a Markdown document; it has no pictures."""
    return ("\n".join(_lines(report)) + "\n").encode()


def _lines(report: Report) -> Iterator[str]:
    yield f"## {plain(report.title)}" + (f": {plain(report.state)}" if report.state else "")
    yield ""
    yield plain(report.aside)
    if report.verdict:
        yield ""
        yield plain(report.verdict)
    for block in report.blocks:
        lines = list(_block(block))
        if lines:
            yield ""
            yield from lines


def _block(block: Block) -> Iterator[str]:
    match block:
        case Heading():
            outcome = f": {block.outcome}" if block.outcome else ""
            yield f"### {plain(block.text)}{outcome}"
        case Words():
            yield plain(block.text)
        case Facts():
            yield from (f"- {plain(name)}: {plain(value)}" for name, value in block.pairs)
        case Grid():
            for row in block.rows:
                yield "- " + ", ".join(plain(cell.text) for cell in row if cell.text)
        case Listed():
            for number, item in enumerate(block.items, 1):
                yield from _item(item, f"{number}. " if block.counted else "- ")


def _item(item: Item, mark: str) -> Iterator[str]:
    strong = f"**{plain(item.strong)}**" if item.strong else ""
    outcome = f"{item.outcome}: " if item.outcome else ""
    said = f"{mark}{outcome}" + " ".join(filter(None, (strong, plain(item.text))))
    yield said.rstrip()
    within = " " * len(mark)
    if item.aside and not item.outcome:
        yield within + plain(item.aside)
    for one in item.below:
        if isinstance(one, Words):
            yield within + plain(one.text)
        elif isinstance(one, Facts):
            yield within + ", ".join(f"{plain(name)} “{plain(value)}”" for name, value in one.pairs)
