"""Boxes as they are said: in CSS pixels of the viewport."""

from __future__ import annotations

from typing_extensions import TypedDict

from lantern.core.elements.facts import Box


class BoxSaid(TypedDict):
    """A box in the window."""

    x: float
    y: float
    width: float
    height: float


def box_said(box: Box) -> BoxSaid:
    """Return a box as it is said."""
    return {"x": box.x, "y": box.y, "width": box.width, "height": box.height}
