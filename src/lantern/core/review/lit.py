"""Where two pictures of a page differ."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from io import BytesIO

import numpy as np
from PIL import Image, ImageChops

from lantern.core.problems import BadInput

Shares = tuple[float, float, float, float]
"""x, y, width and height as shares of a picture, 0 to 1."""
CELL = 16
"""Pixels of the squares in which differences are looked for: finer ones say no more to people."""
FAINT = 32
"""By how much, of 255, a colour differs at least: less is how pictures are packed."""
FEW = 4
"""Pixels of a square that differ at least."""
MOST = 60
"""Most places that are told, the largest first."""
MOST_PIXELS = 40_000_000


@dataclass(frozen=True)
class Lit:
    """Where two pictures differ, and the share of the picture that this is, 0 to 1."""

    places: tuple[Shares, ...]
    share: float


def _opened(content: bytes) -> Image.Image:
    try:
        picture = Image.open(BytesIO(content))
        if picture.width * picture.height > MOST_PIXELS:
            raise BadInput("That picture is too large to be compared.")
        return picture.convert("RGB")
    except (OSError, Image.DecompressionBombError) as error:
        raise BadInput("That picture can not be read.") from error


def _differing(one: bytes, other: bytes) -> tuple[np.ndarray, tuple[int, int]]:
    """Return which squares differ (rows of them, top to bottom), and the size that was compared.

    Pictures of different sizes are laid on one another at the top left; what only one has differs.
    """
    first, second = _opened(one), _opened(other)
    size = max(first.width, second.width), max(first.height, second.height)
    blank = [Image.new("RGB", size, colour) for colour in ("black", "white")]
    blank[0].paste(first)
    blank[1].paste(second)
    pixels = np.asarray(ImageChops.difference(*blank)).max(axis=2) >= FAINT
    height, width = (-(-side // CELL) * CELL for side in pixels.shape)
    whole = np.zeros((height, width), dtype=bool)
    whole[: pixels.shape[0], : pixels.shape[1]] = pixels
    counts = whole.reshape(height // CELL, CELL, width // CELL, CELL).sum(axis=(1, 3))
    return counts >= FEW, size


def lit(
    one: bytes,
    other: bytes,
    masks: Sequence[Shares] = (),
    alike: tuple[bytes, bytes] | None = None,
) -> Lit:
    """Return where two pictures differ, but for `masks` and where two that passed differ as well.

    Raises BadInput for pictures that can not be read.
    """
    cells, size = _differing(one, other)
    for x, y, width, height in masks:
        left, top = int(x * size[0]) // CELL, int(y * size[1]) // CELL
        right, bottom = (
            -(-int((x + width) * size[0]) // CELL),
            -(-int((y + height) * size[1]) // CELL),
        )
        cells[top:bottom, left:right] = False
    if alike:
        moving, _ = _differing(*alike)
        rows, columns = (min(a, b) for a, b in zip(cells.shape, moving.shape, strict=True))
        cells[:rows, :columns] &= ~moving[:rows, :columns]
    boxes = _joined(cells)
    places = [
        (
            x * CELL / size[0],
            y * CELL / size[1],
            min(1.0, width * CELL / size[0]),
            min(1.0, height * CELL / size[1]),
        )
        for x, y, width, height in boxes[:MOST]
    ]
    return Lit(tuple(places), round(float(cells.mean()), 4) if cells.size else 0.0)


def _joined(cells: np.ndarray) -> list[tuple[int, int, int, int]]:
    """Return boxes (x, y, width, height) around squares that touch, the largest first."""
    left = {(int(y), int(x)) for y, x in zip(*np.nonzero(cells), strict=True)}
    found = []
    while left:
        waiting = [left.pop()]
        group = []
        while waiting:
            y, x = waiting.pop()
            group.append((y, x))
            near = {(y + dy, x + dx) for dy in (-1, 0, 1) for dx in (-1, 0, 1)} & left
            left -= near
            waiting += near
        ys, xs = [y for y, _ in group], [x for _, x in group]
        found.append((min(xs), min(ys), max(xs) - min(xs) + 1, max(ys) - min(ys) + 1))
    return sorted(found, key=lambda box: -box[2] * box[3])
