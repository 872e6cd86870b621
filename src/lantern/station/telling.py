"""How a rehearsal stands, as it is said to who looks on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lantern.core.channel import FailedSaid, PersonSaid, PlayedStepSaid, RehearsalSaid, SpotSaid
from lantern.core.engine import requests as ask
from lantern.core.engine.outcomes import StepResult
from lantern.core.rehearsing.tracing import Part
from lantern.core.values.templates import masked


def nothing(owner: PersonSaid) -> RehearsalSaid:
    """Return what is said where nothing is rehearsed."""
    return {
        "type": "rehearsal",
        "state": "none",
        "spot": None,
        "why": "",
        "told": "",
        "mid": False,
        "failed": None,
        "ended": "",
        "outcome": "",
        "row": 0,
        "row_id": "",
        "pace": 0.0,
        "light": True,
        "cost": 0.0,
        "hand": owner,
        "here": [],
        "of_run": False,
        "began": "",
        "moment": 0,
    }


def spot_said(spot: ask.Spot, sentence: str) -> SpotSaid:
    """Return where a rehearsal is, as it is said."""
    return {
        "step": spot.step.id,
        "calls": list(spot.calls),
        "flow": spot.flow,
        "within": list(spot.within),
        "depth": spot.depth,
        "sentence": sentence,
    }


def failed_said(result: StepResult, spot: ask.Spot) -> FailedSaid:
    """Return a failure that does not count yet, as it is said."""
    return {
        "reason": result.reason,
        "message": result.message,
        "hint": result.hint,
        "expected": result.expected,
        "found": result.found,
        "element": spot.step.element,
    }


def step_said(
    result: StepResult, calls: Sequence[str], parts: Sequence[Part], secrets: Mapping[str, str]
) -> PlayedStepSaid:
    """Return how a sentence went, with the parts that it consisted of, as it is said."""
    return {
        "step": result.step_id,
        "calls": list(calls),
        "within": list(result.within),
        "sentence": result.sentence,
        "outcome": result.outcome,
        "message": result.message,
        "seconds": result.used,
        "thing": result.thing,
        "contrary": result.contrary,
        "parts": [
            {
                "told": masked(one.told, secrets),
                "seconds": round(one.seconds, 3),
                "times": one.times,
            }
            for one in parts
        ],
    }
