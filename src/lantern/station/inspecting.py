"""Learning an element from a page, and finding it again: what the terminal and the editor use."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace

from lantern.browser.session import Window
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.naming import propose_name
from lantern.core.elements.repair import Proposal, Verdict, propose, verdict
from lantern.core.elements.strength import Strength, Worlds, stronger
from lantern.core.elements.suggesting import suggest
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import query_for
from lantern.core.problems import BadInput, Missing
from lantern.station.lookup import look, survey, xpaths

QUIET = 0.4
"""Seconds without any change after which a page counts as complete."""
APPEAR_LIMIT = 5.0
"""Seconds that a thing gets to appear."""


@dataclass(frozen=True)
class Learned:
    """An element as it would be recorded, how strong its clues are, and a stronger set."""

    element: Element
    strength: Strength
    better: Strength | None


@dataclass(frozen=True)
class Found:
    """What an element finds on a page: the verdict, where (XPaths), and proposals."""

    verdict: Verdict
    paths: tuple[str, ...]
    proposals: tuple[Proposal, ...]
    proposal_paths: tuple[str, ...]


def learn(page: Window, xpath: str) -> Learned:
    """Learn the element at an XPath of the page's own document.

    Raises Missing when nothing is there, BadInput when the expression makes no sense.
    """
    handle = int(page.probe("handleOfXPath", xpath))
    if not handle and page.quiet(QUIET, APPEAR_LIMIT):
        handle = int(page.probe("handleOfXPath", xpath))
    if handle < 0:
        raise BadInput(f"{xpath} is not an XPath.", where=xpath, hint="Check its brackets.")
    if not handle:
        raise Missing(f"Nothing is at {xpath}.", where=xpath, hint="Check the path on that page.")
    return learn_node(page, handle, page.main_frame)


def learn_node(page: Window, handle: int, frame: str) -> Learned:
    """Learn the element of a node by its handle."""
    nodes = survey(page, handle)
    target = next((node for node in nodes if node.handle == handle), None)
    if target is None:
        raise Missing("That part of the page is gone.", hint="Take a new look at the page.")
    return learned(target, nodes, str(page.probe("page")["title"]))


def learned(target: Facts, nodes: Sequence[Facts], title: str) -> Learned:
    """Choose clues for a node among all those of its page; no browser is needed."""
    suggestion = suggest(target, nodes)
    element = Element(
        id="",
        name=propose_name(target),
        kind=kind_of(target),
        clues=suggestion.clues,
        spare=suggestion.spare,
        page=title,
        seen=target,
        lookalikes=suggestion.lookalikes,
    )
    worlds = Worlds(nodes, target.handle)
    better = stronger(element, nodes, worlds, target.handle)
    its = worlds.strength(element.kind, element.clues)
    return Learned(element, its, better[1] if better else None)


def find(page: Window, element: Element, limit: float, *, repair: bool) -> Found:
    """Look for an element until it is found alone, the page is quiet, or `limit` seconds passed.

    With `repair`, or when the clues do not find it, all nodes of the page are compared.
    """
    end = time.monotonic() + limit
    request = ask.Lookup(query_for(element))
    while True:
        seen = look(page, request, time.sleep)
        found = element.among(seen.candidates)
        left = end - time.monotonic()
        if len(found) == 1 or left <= 0 or request.after == seen.stamp:
            break
        page.quiet(QUIET, left)
        request = replace(request, after=seen.stamp, wait=0.05)
    nodes = survey(page)
    known = {(node.frame, node.handle) for node in nodes}
    nodes += [facts for facts in found if (facts.frame, facts.handle) not in known]
    its = verdict(element, nodes if len(found) == 1 else found)
    proposals = propose(element, nodes) if repair and its.word != "finds it" else []
    return Found(
        its,
        tuple(xpaths(page, list(its.found))),
        tuple(proposals),
        tuple(xpaths(page, [one.facts for one in proposals])),
    )
