"""How far the playing of a row is, and the story that is played, as it is now."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

from lantern.core.engine.attempt import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.steps.model import Document, Step
from lantern.core.steps.tree import Node, tree


@dataclass
class Row:
    """How far a row is: `stopped` says why nothing more is played, `trying` in how many tries.

    `story` is what is played, as it is now; `seeking` what leads to the step at which it begins.
    """

    story: Script
    position: int = 0
    failed: bool = False
    stopped: str = ""
    trying: int = 0
    dead: bool = False
    first_failure: StepResult | None = None
    seeking: list[str] = field(default_factory=list)
    trees: dict[str, tuple[Document, tuple[Node, ...], dict[str, Node]]] = field(
        default_factory=dict
    )

    def take(self, story: Script) -> None:
        """Go on with a story that was edited; flows and elements that are gone stay known."""
        elements = {**self.story.elements, **story.elements}
        flows = {**self.story.flows, **story.flows}
        self.story = replace(
            self.story, document=story.document, elements=elements, flows=flows, base=story.base
        )

    def document(self, flow: str) -> Document:
        """Return the test, or a flow, as it is now."""
        if not flow:
            return self.story.document
        return self.story.flows[flow].document

    def tree(self, flow: str) -> tuple[tuple[Node, ...], dict[str, Node]]:
        """Return the top of a story and its nodes by id."""
        document = self.document(flow)
        known = self.trees.get(flow)
        if known is None or known[0] is not document:
            top = tree(_apart(document.steps))
            known = self.trees[flow] = document, top, {n.step.id: n for n in all_of(top)}
        return known[1], known[2]


def _apart(steps: Sequence[Step]) -> Sequence[Step]:
    """Return steps of which no two have one id: a row finds its place by them."""
    seen: set[str] = set()
    found = []
    for step in steps:
        key, number = step.id, 2
        while key in seen:
            key, number = f"{step.id[:24]}~{number}", number + 1
        seen.add(key)
        found.append(step if key == step.id else replace(step, id=key))
    return found


def all_of(nodes: Sequence[Node]) -> Iterator[Node]:
    """Give nodes and all that is inside them, in order."""
    for node in nodes:
        yield node
        yield from all_of(node.inside)
