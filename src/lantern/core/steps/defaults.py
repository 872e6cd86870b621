"""What holds for a step that does not say: from the blocks around it, then from the test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import OnFailure, Settings, Step

_PASS_ON = frozenset({"group", "try", "always", "repeat", "else"})
"""Blocks whose time limit is that of the sentences inside; conditions have it for themselves."""


@dataclass(frozen=True)
class Effective:
    """What holds for a step: `limit` in seconds; each `…_from` tells in words where it is from."""

    limit: float
    on_failure: OnFailure
    retries: int
    limit_from: str
    on_failure_from: str
    retries_from: str


def passed_on(step: Step) -> float | None:
    """Return the time limit that a block gives to what is inside it, None for none."""
    action = ACTIONS.get(step.action)
    if action is None or action.block not in _PASS_ON:
        return None
    return action.limit if step.limit is None else step.limit


def effective(step: Step, blocks: Sequence[Step], settings: Settings) -> Effective:
    """Return what holds for a step inside `blocks`, the innermost first."""
    limit, limit_from = _limit(step, blocks, settings)
    chain = [(step, "this sentence"), *((block, _called(block)) for block in blocks)]
    on_failure, on_failure_from = settings.on_failure, _owner(settings, "on_failure")
    for one, where in chain:
        if one.on_failure is not None:
            on_failure, on_failure_from = one.on_failure, where
            break
    retries, retries_from = settings.retries, _owner(settings, "retries")
    for one, where in chain:
        if one.retries is not None:
            retries, retries_from = one.retries, where
            break
    return Effective(limit, on_failure, retries, limit_from, on_failure_from, retries_from)


def _limit(step: Step, blocks: Sequence[Step], settings: Settings) -> tuple[float, str]:
    if step.limit is not None:
        return step.limit, "this sentence"
    action = ACTIONS.get(step.action)
    if action and action.limit is not None:
        return action.limit, f"every “{action.title}”"
    for block in blocks:
        given = passed_on(block)
        if given is not None:
            return given, _called(block)
    return settings.limit, _owner(settings, "limit")


def _owner(settings: Settings, name: str) -> str:
    return "the project" if name in settings.inherits else "the test"


def _called(block: Step) -> str:
    action = ACTIONS.get(block.action)
    if block.action == "section":
        return f"the section “{block.inputs.get('name', '')}”"
    return f"the block “{action.title if action else block.action}”"
