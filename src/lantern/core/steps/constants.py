"""Constants: values that a person gave and that are the same in every row."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from lantern.core.elements.clues import Element
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import Step
from lantern.core.values.templates import propose_name

_OF_THE_BUSINESS = frozenset({"text", "address", "number", "file"})
"""Kinds of input that hold values of the business; others are words of the language."""
_OF_THE_WAY = frozenset({"seconds", "milliseconds", "times", "most", "name", "keys", "window"})
"""Inputs that say how something is done rather than with what."""


@dataclass(frozen=True)
class Use:
    """A place where a value stands: an input of a step; `proposed` would name its column."""

    step: str
    input: str
    proposed: str


@dataclass(frozen=True)
class Constant:
    """A value with all the places where it stands."""

    value: str
    uses: tuple[Use, ...]


def constant_in(template: str) -> str | None:
    """Return the text that a template always stands for; None when it holds names or calls."""
    if "${" in template.replace("$${", ""):
        return None
    return template.replace("$${", "${")


def constants(steps: Iterable[Step], elements: Mapping[str, Element]) -> list[Constant]:
    """Return every constant of the steps, in the order of its first place."""
    found: dict[str, list[Use]] = {}
    for step in steps:
        for name, template in step.inputs.items():
            value = constant_in(template)
            if value is None or not value or not is_business(step, name):
                continue
            element = elements.get(step.element)
            proposed = propose_name(element.name if element else name)
            found.setdefault(value, []).append(Use(step.id, name, proposed))
    return [Constant(value, tuple(uses)) for value, uses in found.items()]


def is_business(step: Step, name: str) -> bool:
    """Tell whether an input of a step holds a value of the business."""
    action = ACTIONS.get(step.action)
    if action is None or name in _OF_THE_WAY:
        return False
    if action.block == "flow":
        return True
    entry = next((entry for entry in action.inputs if entry.name == name), None)
    return entry is not None and entry.kind in _OF_THE_BUSINESS and not entry.choices
