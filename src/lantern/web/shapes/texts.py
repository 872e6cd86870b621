"""Tests as text."""

from __future__ import annotations

from pydantic import Field

from lantern.web.shapes.base import Shape
from lantern.web.shapes.tests import TestOut


class FormOut(Shape):
    """A form in which a test is given out; `name` is the last part of its address."""

    name: str
    title: str
    ending: str


class TextOut(Shape):
    """A test as text, the version that it is of, and the other forms it is given out in."""

    text: str
    version: int
    forms: list[FormOut]


class TextAsk(Shape):
    """A text made from version `base`; without `write` it is only looked through."""

    base: int
    text: str = Field(max_length=20_000_000)
    write: bool = False


class TroubleOut(Shape):
    """What is wrong in a text; `line` from 1. What does not `block` can be put in place."""

    line: int
    message: str
    hint: str
    blocks: bool = True


class TextPut(Shape):
    """What is wrong in a text; `test` as it is now when the text was put in its place."""

    troubles: list[TroubleOut]
    test: TestOut | None = None
