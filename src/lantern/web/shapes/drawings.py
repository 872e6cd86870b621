"""The shape of a test, as boxes and arrows."""

from __future__ import annotations

from lantern.web.shapes.base import Shape


class ShapeOut(Shape):
    """A box: its middle above at x, y; see core.steps.shape for sizes and looks."""

    look: str
    words: str
    steps: list[str]
    x: float
    y: float
    width: float
    height: float


class ArrowOut(Shape):
    """An arrow through points, with a word at its beginning."""

    points: list[tuple[float, float]]
    word: str


class DrawingOut(Shape):
    """The whole shape."""

    shapes: list[ShapeOut]
    arrows: list[ArrowOut]
    width: float
    height: float
