"""What reports consist of: blocks that know no format."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

MARKS = {
    "passed": "●", "unsteady": "◆", "failed": "▲", "skipped": "○", "interrupted": "■",
    "cancelled": "■", "waiting": "·", "running": "·",
}  # fmt: skip
"""The shapes of outcomes, which always stand beside their words."""


@dataclass(frozen=True)
class Heading:
    """A heading of a level (2 or 3), with an outcome before it and something quiet behind it."""

    text: str
    level: int = 2
    outcome: str = ""
    aside: str = ""


@dataclass(frozen=True)
class Words:
    """A paragraph; `quiet` is said by the way, `said` is what a program answered, as it stands."""

    text: str
    quiet: bool = False
    said: bool = False


@dataclass(frozen=True)
class Facts:
    """Names with what they are."""

    pairs: Sequence[tuple[str, str]]


@dataclass(frozen=True)
class Cell:
    """What stands in a table; an `outcome` has its shape and colour."""

    text: str
    outcome: str = ""


@dataclass(frozen=True)
class Grid:
    """A table."""

    head: Sequence[str]
    rows: Sequence[Sequence[Cell]]


@dataclass(frozen=True)
class Item:
    """A line of a list: an outcome, what matters, what it says, and what lies below it."""

    text: str
    strong: str = ""
    outcome: str = ""
    aside: str = ""
    below: tuple[Words | Facts | Shown, ...] = ()


@dataclass(frozen=True)
class Listed:
    """A list, in an order that is counted or not."""

    items: Sequence[Item]
    counted: bool = False


@dataclass(frozen=True)
class Shown:
    """A picture, as a JPEG; it opens folded where it is not `open`."""

    picture: bytes = field(repr=False)
    caption: str
    open: bool = True


@dataclass(frozen=True)
class Frame:
    """A sentence on a film strip, with its picture and the one from before, b"" for none."""

    caption: str
    outcome: str
    now: bytes = field(repr=False)
    then: bytes = field(default=b"", repr=False)


@dataclass(frozen=True)
class Strip:
    """A film strip of one row, to be walked."""

    name: str
    frames: Sequence[Frame]


Block = Heading | Words | Facts | Grid | Listed | Shown | Strip


@dataclass(frozen=True)
class Report:
    """A report: what it is of, what it says first, and its blocks."""

    title: str
    aside: str
    state: str
    verdict: str
    blocks: Sequence[Block]
