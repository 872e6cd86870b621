"""What the reasons of a search say of nodes, and make of them."""

from __future__ import annotations

from collections.abc import Sequence

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts, tidy
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.repair import repaired
from lantern.core.elements.suggesting import suggest
from lantern.core.searching.looked import Looked
from lantern.core.steps.actions.navigating import title_pattern


def said(facts: Facts) -> str:
    """Return what people would call a node."""
    return tidy(facts.name or facts.label or facts.text or facts.tag)[:80]


def learned(target: Facts, nodes: Sequence[Facts], title: str) -> Element:
    """Return an element, without an id, for a node of a page."""
    suggestion = suggest(target, nodes)
    return Element(
        "",
        said(target)[:60],
        kind_of(target),
        suggestion.clues,
        suggestion.spare,
        title_pattern(title),
        target,
        suggestion.lookalikes,
    )


def mended(looked: Looked, facts: Facts) -> dict[str, object]:
    """Return what it takes to let the element be a node."""
    return {"element": repaired(looked.element, facts, looked.nodes).as_json()}
