"""The tree that steps form: blocks, and what is inside them, by the depths of the steps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import DEEPEST, Step


@dataclass(frozen=True)
class Node:
    """A step with what is inside it; `place` is its place among all steps, from 0."""

    step: Step
    place: int
    inside: tuple[Node, ...] = ()


def is_open(step: Step) -> bool:
    """Tell whether steps can be inside a step; a flow's own are elsewhere."""
    action = ACTIONS.get(step.action)
    return action is not None and action.block not in ("", "flow")


def settled(steps: Sequence[Step]) -> tuple[Step, ...]:
    """Return the steps with no depth greater than the step before allows."""
    found: list[Step] = []
    most = 0
    for step in steps:
        depth = min(step.depth, most)
        found.append(step if depth == step.depth else replace(step, depth=depth))
        most = min(depth + 1, DEEPEST) if is_open(step) else depth
    return tuple(found)


def tree(steps: Sequence[Step]) -> tuple[Node, ...]:
    """Return the top of the tree, in order."""
    steps = settled(steps)
    return _level(steps, 0, len(steps), 0)


def _level(steps: Sequence[Step], start: int, end: int, depth: int) -> tuple[Node, ...]:
    found = []
    place = start
    while place < end:
        after = place + 1
        while after < end and steps[after].depth > depth:
            after += 1
        inside = _level(steps, place + 1, after, depth + 1)
        found.append(Node(steps[place], place, inside))
        place = after
    return tuple(found)


def branch(steps: Sequence[Step], step_id: str) -> tuple[str, ...]:
    """Return the ids of a step and of all that is inside it; () when it is gone."""
    places = [place for place, step in enumerate(steps) if step.id == step_id]
    if not places:
        return ()
    first = steps[places[0]]
    found = [first.id]
    for step in steps[places[0] + 1 :]:
        if step.depth <= first.depth:
            break
        found.append(step.id)
    return tuple(found)


def around(steps: Sequence[Step], step_id: str) -> list[Step]:
    """Return the blocks that a step is in, innermost first."""
    found: list[Step] = []
    depth = -1
    for step in reversed(steps):
        if step.id == step_id:
            depth = step.depth
        elif 0 <= step.depth < depth:
            found.append(step)
            depth = step.depth
    return found
