"""What holds for a step that does not say: from the blocks around it, then from the test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import OnFailure, Pictures, Settings, Step

_PASS_ON = frozenset({"group", "try", "always", "repeat", "else"})
"""Blocks whose time limit is that of the sentences inside; conditions have it for themselves."""


@dataclass(frozen=True)
class Effective:
    """What holds for a step: `limit` in seconds; each `…_from` tells in words where it is from."""

    limit: float
    on_failure: OnFailure
    retries: int
    pictures: Pictures
    limit_from: str
    on_failure_from: str
    retries_from: str
    pictures_from: str


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

    def nearest(name: str) -> tuple[Any, str]:
        for one, where in chain:
            if getattr(one, name) is not None:
                return getattr(one, name), where
        return getattr(settings, name), _owner(settings, name)

    on_failure, on_failure_from = nearest("on_failure")
    retries, retries_from = nearest("retries")
    pictures, pictures_from = nearest("pictures")
    return Effective(
        limit,
        on_failure,
        retries,
        pictures,
        limit_from,
        on_failure_from,
        retries_from,
        pictures_from,
    )


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
