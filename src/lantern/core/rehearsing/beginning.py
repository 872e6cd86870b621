"""Beginning in the middle: what a sentence needs of the page, and what of it is missing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lantern.core.problems import Missing
from lantern.core.searching.pages import path_of
from lantern.core.steps.actions import checking, filling, keeping, waiting
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.steps.model import Step

NEXT = 5
"""Sentences that are looked at, from the one at which it begins."""
_STAYS = {
    action.name for module in (checking, filling, keeping, waiting) for action in module.ENTRIES
}
"""Actions after which the page is as a rule the same one."""
_MAY_BE_ABSENT = ("no", "0")


@dataclass(frozen=True)
class Needs:
    """What it takes to begin at a sentence.

    `title` is that of the page it was recorded on, `address` where it was last played ("" where
    that is not known), `elements` the ids of what the sentences from there on use on that page.
    """

    title: str = ""
    address: str = ""
    elements: tuple[str, ...] = ()


def needs(steps: Sequence[Step], first: str, address: str = "") -> Needs:
    """Return what it takes to begin at a sentence of a story; raises Missing when it is gone."""
    place = next((n for n, step in enumerate(steps) if step.id == first), None)
    if place is None:
        raise Missing("That sentence is not in the story any more.", where=first)
    begin, found = steps[place], []
    for step in steps[place : place + NEXT]:
        if step.page != begin.page or not step.enabled:
            break
        if step.element and not _wants_absence(step):
            found.append(step.element)
        if step.action not in _STAYS:
            break
    opens = begin.action == "open"
    if opens:
        return Needs()
    return Needs(begin.page, address, tuple(dict.fromkeys(found)))


def _wants_absence(step: Step) -> bool:
    shown = step.inputs.get("property") in ("shown", "number of rows")
    return shown and step.inputs.get("expected") in _MAY_BE_ABSENT


def missing(
    wants: Needs,
    title: str,
    address: str,
    found: Mapping[str, int],
    names: Mapping[str, str],
) -> list[str]:
    """Return in words what is missing on the page for the sentences to begin there; [] for nothing.

    `found` tells how many things there are of each element, `names` what elements are called.
    """
    told = []
    if wants.title and title_pattern(wants.title) != title_pattern(title):
        told.append(f"This sentence needs “{wants.title}”; the stage shows “{title or 'nothing'}”.")
    elif wants.address and path_of(wants.address) != path_of(address):
        told.append(
            f"It was played at {path_of(wants.address)}; the stage is at {path_of(address)}."
        )
    for place, key in enumerate(wants.elements):
        if not found.get(key, 0):
            who = "This sentence" if place == 0 else "What follows"
            told.append(f"{who} needs “{names.get(key, 'an element')}”, which is not there.")
    return told
