"""The catalogue of actions: every action by its name.

An entry says how the action is named, how it reads as a sentence, what goes in, on which kinds
of element it works and how it is performed. A new action is one entry in the module that it
belongs to; the API hands the catalogue to the front end.
"""

from __future__ import annotations

from collections.abc import Mapping

from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.actions import (
    blocks,
    checking,
    files,
    filling,
    keeping,
    navigating,
    pressing,
    scripting,
    waiting,
)
from lantern.core.steps.actions.base import Action
from lantern.core.steps.properties import check_property

ACTIONS: dict[str, Action] = {
    action.name: action
    for module in (
        navigating,
        pressing,
        filling,
        files,
        checking,
        waiting,
        keeping,
        scripting,
        blocks,
    )
    for action in module.ENTRIES
}


def action_of(name: str) -> Action:
    """Return the action of that name; raises UnknownName with those that exist."""
    if name not in ACTIONS:
        raise UnknownName("action", name, ACTIONS)
    return ACTIONS[name]


def check_inputs(action: Action, inputs: Mapping[str, str]) -> None:
    """Raise BadInput when inputs are missing, unknown or not among an input's choices."""
    known = {entry.name: entry for entry in action.inputs}
    if action.block == "flow":
        return  # its inputs are those of the flow, which checks them
    for name in inputs:
        if name not in known:
            raise UnknownName(f"value of “{action.title}”", name, known)
    for name, entry in known.items():
        if name not in inputs and not entry.optional:
            raise BadInput(f"“{action.title}” needs a value for {name}.", where=name)
        value = inputs.get(name, "")
        if entry.choices and value not in entry.choices and "${" not in value:
            raise UnknownName(name, value, entry.choices)
    if "property" in known:
        check_property(inputs["property"])
