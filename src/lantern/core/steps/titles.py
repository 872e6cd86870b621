"""Titles that people give to steps, and whether they contradict what the step does."""

from __future__ import annotations

import re
from collections.abc import Mapping

from rapidfuzz import fuzz

from lantern.core.elements.clues import Element
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import Step

_WORD = re.compile(r"[^\W\d_]{2,}")
_SMALL = frozenset(
    "the and then that this with for from into onto out off our your their its his her are was "
    "is be to of in on at by as it we he she they you again now first next last new all each "
    "any some user tester member step page button link field box list go click select enter fill "
    "open show see make do done set use using".split()
)
_VERBS = frozenset(
    word.lower() for action in ACTIONS.values() for word in _WORD.findall(action.title)
)
ALIKE = 80.0
"""From this likeness on (0 to 100) two words are taken for one."""


def _words(text: str) -> list[str]:
    return [word.lower() for word in _WORD.findall(text)]


def warning(step: Step, elements: Mapping[str, Element]) -> str:
    """Return a quiet warning when a step's title speaks of something else than it acts on.

    "" when there is no title, no element, or when a word of the title is found in the element's
    name, its page, or the step's values. Words that only say what is done do not count.
    """
    element = elements.get(step.element)
    if not step.title or element is None:
        return ""
    said = [word for word in _words(step.title) if word not in _SMALL | _VERBS]
    if not said:
        return ""
    known = _words(" ".join((element.name, *step.inputs.values(), step.comment)))
    if element.seen:
        known += _words(f"{element.seen.text} {element.seen.section} {element.seen.label}")
    onto = elements.get(step.onto)
    known += _words(onto.name) if onto else []
    joined = "".join(_words(element.name))
    for word in said:
        if word in joined or any(same(word, other) for other in known):
            return ""
    return f"The title says “{step.title}”, but the sentence acts on “{element.name}”."


def same(one: str, other: str) -> bool:
    """Tell whether two words are forms of one: alike, or with the same beginning."""
    shorter, longer = sorted((one, other), key=len)
    begins = max(3, round(len(shorter) * 0.7))
    return fuzz.ratio(one, other) >= ALIKE or longer.startswith(shorter[:begins])
