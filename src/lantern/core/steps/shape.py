"""The shape of a test: its flow of control as boxes and arrows, laid out.

Time goes down. A choice opens to the side; a repeat leads back up at its side. Sizes are in units
of the grid: one box is one unit high, a gap between boxes a third.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import Step
from lantern.core.steps.tree import Node, tree

Look = Literal["sentences", "choice", "repeat", "part", "flow", "try", "always", "end"]
WIDE, GAP, ASIDE = 4.0, 0.45, 0.6
"""Width of a box, room between boxes, and between what stands side by side."""
_LOOKS: dict[str, Look] = {
    "if": "choice",
    "else if": "choice",
    "repeat": "repeat",
    "while": "repeat",
    "group": "part",
    "flow": "flow",
    "try": "try",
    "always": "always",
}


@dataclass(frozen=True)
class Shape:
    """A box: what it stands for, the steps in it, and its place (its middle above, and size)."""

    look: Look
    words: str
    steps: tuple[str, ...]
    x: float
    y: float
    width: float = WIDE
    height: float = 1.0


@dataclass(frozen=True)
class Arrow:
    """An arrow through points, with a word at its beginning: yes, no, again or none."""

    points: tuple[tuple[float, float], ...]
    word: str = ""


@dataclass(frozen=True)
class Drawing:
    """All boxes and arrows; nothing is left of or above zero."""

    shapes: tuple[Shape, ...]
    arrows: tuple[Arrow, ...]
    width: float
    height: float


@dataclass
class _Part:
    """A piece of the drawing: its own left, top, bottom, and where arrows come in and go out."""

    shapes: list[Shape] = field(default_factory=list)
    arrows: list[Arrow] = field(default_factory=list)
    left: float = WIDE / 2
    right: float = WIDE / 2
    height: float = 0.0
    """How far it reaches to the left and right of its middle, and how high it is."""

    def moved(self, x: float, y: float) -> _Part:
        """Return the piece somewhere else."""
        shapes = [
            Shape(s.look, s.words, s.steps, s.x + x, s.y + y, s.width, s.height)
            for s in self.shapes
        ]
        arrows = [
            Arrow(tuple((a + x, b + y) for a, b in arrow.points), arrow.word)
            for arrow in self.arrows
        ]
        return _Part(shapes, arrows, self.left, self.right, self.height)

    def take(self, other: _Part) -> None:
        """Add another piece, which has been moved to its place."""
        self.shapes += other.shapes
        self.arrows += other.arrows


def drawing(steps: Sequence[Step], words: Callable[[Step], str]) -> Drawing:
    """Return the shape of steps; `words` tells what a step says. Switched off ones are left out."""
    part = _column(tree(steps), words)
    bottom = part.height
    end = Shape("end", "end", (), 0.0, bottom, 1.4, 0.6)
    if part.shapes:
        part.shapes.append(end)
    else:
        part = _Part([Shape("end", "nothing yet", (), 0.0, 0.0)], [], height=0.4)
    whole = part.moved(part.left, 0.0)
    return Drawing(
        tuple(whole.shapes), tuple(whole.arrows), part.left + part.right, part.height + 0.6
    )


def _column(nodes: Sequence[Node], words: Callable[[Step], str]) -> _Part:
    """Lay pieces out below each other; plain sentences in a row make one box."""
    whole = _Part()
    for group in _groups([node for node in nodes if node.step.enabled]):
        part = _piece(group, words)
        whole.take(part.moved(0.0, whole.height))
        whole.left, whole.right = max(whole.left, part.left), max(whole.right, part.right)
        bottom = whole.height + part.height
        whole.arrows.append(Arrow(((0.0, bottom), (0.0, bottom + GAP))))
        whole.height = bottom + GAP
    return whole


def _groups(nodes: Sequence[Node]) -> list[list[Node]]:
    """Return what is drawn as one: a run of plain sentences, a choice with its other ways."""
    found: list[list[Node]] = []
    for node in nodes:
        block = _block(node)
        last = _block(found[-1][-1]) if found else None
        goes_on = (block == "" and last == "" and _same_page(found[-1], node)) or (
            block in ("else if", "else") and last in ("if", "else if")
        )
        if goes_on:
            found[-1].append(node)
        else:
            found.append([node])
    return found


def _same_page(group: Sequence[Node], node: Node) -> bool:
    """Tell whether a sentence belongs to the scene of a group; opening an address begins one."""
    page = next((one.step.page for one in reversed(group) if one.step.page), "")
    return not page or not node.step.page or node.step.page == page


def _block(node: Node) -> str:
    action = ACTIONS.get(node.step.action)
    return action.block if action else ""


def _piece(group: Sequence[Node], words: Callable[[Step], str]) -> _Part:
    block = _block(group[0])
    if block == "":
        ids = tuple(node.step.id for node in group)
        page = next((node.step.page for node in group if node.step.page), "")
        first = words(group[0].step)
        told = first if len(group) == 1 else f"{page or first} … {len(group)} sentences"
        return _Part([Shape("sentences", told, ids, 0.0, 0.0)], height=1.0)
    if block in ("if", "else if"):
        return _choice(group, words)
    if block == "else":
        return _column(group[0].inside, words)
    return _around(group[0], block, words)


def _choice(group: Sequence[Node], words: Callable[[Step], str]) -> _Part:
    """A question; what follows from yes below it, the other way to its right."""
    node, others = group[0], group[1:]
    part = _Part([Shape("choice", words(node.step), (node.step.id,), 0.0, 0.0)])
    yes = _column(node.inside, words)
    other = _piece(others, words) if others else _Part(left=0.3, right=0.3)
    aside = max(yes.right, WIDE / 2) + ASIDE + other.left
    top = 1.0 + GAP
    part.arrows.append(Arrow(((0.0, 1.0), (0.0, top)), "yes"))
    part.take(yes.moved(0.0, top))
    part.arrows.append(Arrow(((WIDE / 2, 0.5), (aside, 0.5), (aside, top)), "no"))
    part.take(other.moved(aside, top))
    bottom = top + max(yes.height, other.height)
    if yes.height < max(yes.height, other.height):
        part.arrows.append(Arrow(((0.0, top + yes.height), (0.0, bottom))))
    end = top + other.height
    part.arrows.append(Arrow(((aside, end), (aside, bottom), (0.0, bottom))))
    part.left = max(yes.left, WIDE / 2)
    part.right = aside + other.right
    part.height = bottom
    return part


def _around(node: Node, block: str, words: Callable[[Step], str]) -> _Part:
    """A box with what is inside it below; a repeat leads back to its box."""
    look = _LOOKS.get(block, "part")
    part = _Part([Shape(look, words(node.step), (node.step.id,), 0.0, 0.0)], height=1.0)
    if not node.inside:
        return part
    inside = _column(node.inside, words)
    top = 1.0 + GAP
    part.arrows.append(Arrow(((0.0, 1.0), (0.0, top))))
    part.take(inside.moved(0.0, top))
    part.left = max(inside.left, WIDE / 2)
    part.right = max(inside.right, WIDE / 2)
    part.height = top + inside.height
    if look == "repeat":
        side = -part.left - ASIDE / 2
        low = part.height
        points = ((0.0, low), (side, low), (side, 0.5), (-WIDE / 2, 0.5))
        part.arrows.append(Arrow(points, "again"))
        part.left += ASIDE
    return part
