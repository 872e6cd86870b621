"""The stories whose pages are changed: those of the verdicts, and more sorts of checks."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from bench._bench import Place
from bench.verdicts import stories
from bench.verdicts.stories import Bench
from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.demo.data import BOARD, QUOTE

LIMIT = 1.5
TEA = "cell Member where Piece is Tea caddy"


def _check(key: str, element: str, page: str, prop: str, how: str, expected: str) -> Step:
    inputs = {"property": prop, "comparison": how, "expected": expected}
    return Step(key, "check", element, inputs, page=page)


def board() -> Document:
    """Return a look at the board: cells, sums, what is shown and enabled, parts of texts."""
    steps = [
        *stories.signed_in(at="/board"),
        _check("w1", "demo-board", BOARD, "number of rows", "is", "${row.rows}"),
        _check(
            "w2", "demo-board", BOARD, "cell Member where Piece is Tea caddy", "is", "Mara Ellwood"
        ),
        _check("w3", "v-search", BOARD, "enabled", "is", "yes"),
        _check("w4", "v-menu", BOARD, "shown", "is", "yes"),
        _check("w5", "demo-board", BOARD, "text", "contains", "Tea caddy"),
    ]
    rows = (Row("r0", {"rows": "4"}), Row("r1", {"rows": "4"}))
    return Document(tuple(steps), ("rows",), rows, Settings(LIMIT))


def kept() -> Document:
    """Return a price that is kept and held against itself later, and one that only begins right."""
    steps = [
        *stories.signed_in(),
        Step("p1", "type", "demo-piece", {"text": "Moon jar"}, page=QUOTE),
        Step("p2", "type", "demo-count", {"text": "${row.pieces}"}, page=QUOTE),
        Step("p3", "press", "demo-ask", page=QUOTE),
        Step("p4", "keep", "demo-price", {"property": "text", "name": "price"}, page=QUOTE),
        _check("p5", "demo-price", QUOTE, "text", "starts with", "€"),
        _check("p6", "demo-price", QUOTE, "text", "is", "${kept.price}"),
        _check("p7", "demo-book", QUOTE, "shown", "is", "yes"),
    ]
    rows = (Row("r0", {"pieces": "2"}), Row("r1", {"pieces": "9"}))
    return Document(tuple(steps), ("pieces",), rows, Settings(LIMIT))


STORIES: Mapping[str, Callable[[], Document]] = {**stories.STORIES, "board": board, "kept": kept}


def a_bench(place: Place) -> Bench:
    """Return a bench of these stories."""
    return stories.a_bench(place, STORIES)
