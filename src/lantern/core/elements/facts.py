"""Facts: what the probe reports of one node of a page under test."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

from lantern.core.engine.browsers import BROWSERS, USUAL

MOST_OPTIONS = 50
"""Most options that are kept of a list."""
USUAL_VIEW = BROWSERS[USUAL].viewport
"""Width and height of the window that a test usually sees, in CSS pixels."""
LONGEST = 400
"""Longest text that is kept of any fact, in characters; pages under test may hold megabytes."""
_NUMBERS = re.compile(r"[#\d]+")


def tidy(text: object) -> str:
    """Return `text` with runs of white space as one blank, trimmed, at most LONGEST long."""
    return "" if text is None or text == "" else " ".join(str(text).split())[:LONGEST]


def numbers_open(text: object) -> str:
    """Return a tidied text in which every number is one #: "Firing no. 5" -> "Firing no. #"."""
    return _NUMBERS.sub("#", tidy(text))


def _texts(value: Any, change: Callable[[str], str]) -> Any:  # noqa: ANN401 - any JSON value
    """Return a JSON value with its texts changed; names of entries stay as they are."""
    if isinstance(value, str):
        return change(value)
    if isinstance(value, dict):
        return {name: _texts(entry, change) for name, entry in value.items()}
    if isinstance(value, list | tuple):
        return [_texts(entry, change) for entry in value]
    return value


@dataclass(frozen=True)
class Box:
    """Where a node is in the viewport, in CSS pixels from its top left corner."""

    x: float = 0
    y: float = 0
    width: float = 0
    height: float = 0

    @property
    def centre(self) -> tuple[float, float]:
        """The middle of the box."""
        return self.x + self.width / 2, self.y + self.height / 2

    def shares(self, viewport: tuple[int, int]) -> tuple[float, float, float, float]:
        """The box as shares (0 to 1) of a window so wide and high, in CSS pixels."""
        width, height = viewport
        return self.x / width, self.y / height, self.width / width, self.height / height


@dataclass(frozen=True)
class Facts:
    """What is known of one node.

    `row` holds the texts of the other cells of the table row it is in, `cells` the same by the
    headers of their columns, `column` the header above the node itself, `section` the nearest
    heading, legend or dialog name above it, `order` its place among the nodes that the probe
    looked at (document order, from 0), `handle` the probe's number for the node, valid until the
    document goes away. `after` and `followed` are the texts that come right before and right
    behind it in reading order, `own` the text that is directly in it, not in what it holds,
    `calendar` whether it is a day of a calendar, `parts` how many of the nodes right inside it show
    a text, `options` the choices that a list offers, `frames` the names of
    the frames it is in, outermost first, `blocks` how many blocks of one shape it holds side by
    side that say what they are of, `grouped` whether `section` is a group of few things (a dialog,
    a fieldset) rather than the page, `leads` whether it is in the cell that says what its row is
    of, or in a heading, `view` the width and height in CSS pixels of the window its box is in.
    Of a node of a whole page `inside` is the number (order, from 1) of the nearest node around it,
    `in_row` the number of its row, which is that of the first node in it; 0 for none.
    """

    tag: str
    role: str = ""
    name: str = ""
    text: str = ""
    label: str = ""
    attributes: Mapping[str, str] = field(default_factory=dict)
    row: tuple[str, ...] = ()
    column: str = ""
    cells: Mapping[str, str] = field(default_factory=dict)
    section: str = ""
    path: str = ""
    visible: bool = True
    enabled: bool = True
    order: int = 0
    box: Box = Box()
    handle: int = 0
    frame: str = ""
    after: str = ""
    followed: str = ""
    options: tuple[str, ...] = ()
    frames: tuple[str, ...] = ()
    blocks: int = 0
    own: str = ""
    calendar: bool = False
    parts: int = 0
    grouped: bool = False
    leads: bool = False
    view: tuple[int, int] = USUAL_VIEW
    inside: int = 0
    in_row: int = 0

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Facts:
        """Build facts from the probe's JSON object; missing or odd entries become empty ones."""
        attributes = raw.get("attributes")
        box = raw.get("box") or {}
        return cls(
            tag=tidy(raw.get("tag")).lower(),
            role=tidy(raw.get("role")).lower(),
            name=tidy(raw.get("name")),
            text=tidy(raw.get("text")),
            label=tidy(raw.get("label")),
            attributes={
                str(key): tidy(value)
                for key, value in (attributes if isinstance(attributes, dict) else {}).items()
            },
            row=tuple(tidy(cell) for cell in raw.get("row") or ()),
            column=tidy(raw.get("column")),
            cells={tidy(head): tidy(cell) for head, cell in (raw.get("cells") or {}).items()},
            section=tidy(raw.get("section")),
            path=tidy(raw.get("path")),
            visible=bool(raw.get("visible", True)),
            enabled=bool(raw.get("enabled", True)),
            order=int(raw.get("order") or 0),
            box=Box(*(float(box.get(side) or 0) for side in ("x", "y", "width", "height"))),
            handle=int(raw.get("handle") or 0),
            frame=str(raw.get("frame") or ""),
            after=tidy(raw.get("after")),
            followed=tidy(raw.get("followed")),
            options=tuple(tidy(option) for option in (raw.get("options") or ())[:MOST_OPTIONS]),
            frames=tuple(tidy(frame) for frame in raw.get("frames") or ()),
            blocks=int(raw.get("blocks") or 0),
            own=tidy(raw.get("own")),
            calendar=bool(raw.get("calendar")),
            parts=int(raw.get("parts") or 0),
            grouped=bool(raw.get("grouped")),
            leads=bool(raw.get("leads")),
            view=_view(raw.get("view")),
            inside=int(raw.get("inside") or 0),
            in_row=int(raw.get("in_row") or 0),
        )

    def as_json(self) -> dict[str, Any]:
        """Return the facts as an object that `read` accepts."""
        return asdict(self) | {
            "attributes": dict(self.attributes),
            "row": list(self.row),
            "cells": dict(self.cells),
            "options": list(self.options),
            "frames": list(self.frames),
            "view": list(self.view),
        }

    def masked(self, hide: Callable[[str], str]) -> Facts:
        """Return the facts with `hide` applied to every text in them."""
        return Facts.read(_texts(self.as_json(), hide))

    def brief(self) -> dict[str, Any]:
        """Return what is worth keeping of the facts, without what is empty or of the moment."""
        raw = self.as_json()
        kept = {name: value for name, value in raw.items() if value}
        for name in ("handle", "frame", "inside", "in_row"):
            kept.pop(name, None)
        if self.view == USUAL_VIEW:
            kept.pop("view")
        for name in ("visible", "enabled"):
            if raw[name]:
                kept.pop(name)
            else:
                kept[name] = False
        return kept

    def get(self, fact: str) -> str | tuple[str, ...]:
        """Return the value of a fact by the name that clues use; "" when the node lacks it."""
        if fact in OWN_FACTS:
            value: str | tuple[str, ...] = getattr(self, fact)
            return value
        if fact == CLASS_WORD:
            return tuple(self.attributes.get("class", "").split())
        if fact.startswith(CELL):
            return self.cells.get(fact.removeprefix(CELL), "")
        return self.attributes.get(ATTRIBUTE_OF.get(fact, fact), "")


def _view(raw: Sequence[float] | None) -> tuple[int, int]:
    width, height = raw or USUAL_VIEW
    return int(width), int(height)


CLASS_WORD = "class word"
"""The fact that a node is of a class of the style sheet: one of the words of that attribute."""
CELL = "cell "
"""What the names of facts about a row's cells begin with: "cell Piece" is the one under Piece."""

OWN_FACTS = frozenset(
    "tag role name text label row column section path after followed frames options own".split()
)
"""Facts that the probe works out; every other fact is an attribute."""

ATTRIBUTE_OF = {"test id": "data-testid", "field name": "name", "hint text": "placeholder"}
"""Facts that are attributes under a name that testers know better.

The probe reports the usual spellings of a test id (data-test, data-test-id, data-qa, …) as
data-testid.
"""
