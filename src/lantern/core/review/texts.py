"""The texts that a kept page shows, each once, with numbers open."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from lantern.core.elements.facts import Facts, numbers_open

LONGEST = 160
"""Letters that are looked at of a text."""


def texts(nodes: Sequence[Facts]) -> frozenset[str]:
    """Return the texts of what is shown and holds nothing else: a part, not all that is around it.

    `handle` numbers the nodes and `inside` names the node around each, as kept pages have them.
    """
    around = {node.inside for node in nodes if node.inside}
    return frozenset(
        opened(node.text or node.name)
        for node in nodes
        if node.visible and node.handle not in around and (node.text or node.name).strip()
    )


def opened(text: str) -> str:
    """Return the beginning of a text, tidied, with its numbers open."""
    return numbers_open(text)[:LONGEST]


def shared(one: Collection[str], other: Collection[str]) -> float:
    """Return how much two sets of texts share (Jaccard's index), 0 to 1; two empty ones all."""
    both = set(one) | set(other)
    return len(set(one) & set(other)) / len(both) if both else 1.0
