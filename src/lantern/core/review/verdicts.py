"""Whose fault a failure is: signs speak for a kind, their weights are logarithms of odds."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal, get_args

from lantern.core.review.case import Case

Kind = Literal["product", "test", "data", "timing", "environment"]
Verdict = Literal["product", "test", "data", "timing", "environment", "not clear"]
Act = Literal[
    "", "raise defect", "accept repair", "edit sentence", "edit value", "raise limit", "run again"
]
KINDS: tuple[Kind, ...] = get_args(Kind)

PRIOR: Mapping[Kind, float] = {
    "product": 0.25, "test": 0.1, "data": -0.1, "timing": -0.3, "environment": -0.2,
}  # fmt: skip
"""What is known before anything is looked at."""
CLEAR = 0.5
"""Share from which on a verdict is given."""
AHEAD = 0.12
"""How far it has to be ahead of the next kind."""
MOST_TOLD = 8

ACTS: Mapping[Kind, Act] = {
    "product": "raise defect",
    "test": "edit sentence",
    "data": "edit value",
    "timing": "raise limit",
    "environment": "run again",
}
"""What is to be done next, unless a sign knows better."""


@dataclass(frozen=True)
class Sign:
    """What speaks for a kind (`weight` above 0) or against it, in a sentence for people.

    `act` is what follows if that kind is right, where it is not the usual; `given` is for it.
    """

    kind: Kind
    weight: float
    told: str
    act: Act = ""
    given: Mapping[str, str] = field(default_factory=dict)


Reader = Callable[[Case], Iterator[Sign]]


@dataclass(frozen=True)
class Judged:
    """A verdict: `shares` by kind sum up to 1; `signs` are what it is made of, weightiest first.

    `wants` says what would make it clear where it is not.
    """

    verdict: Verdict
    shares: Mapping[Kind, float]
    signs: tuple[Sign, ...]
    act: Act
    given: Mapping[str, str]
    wants: str = ""


def judge(case: Case, readers: tuple[Reader, ...]) -> Judged:
    """Return the verdict that the signs of all readers come to."""
    signs = [sign for reader in readers for sign in reader(case)]
    shares = shares_of(signs)
    ranked = sorted(KINDS, key=lambda kind: -shares[kind])
    best, second = ranked[0], ranked[1]
    clear = shares[best] >= CLEAR and shares[best] - shares[second] >= AHEAD
    told = sorted((one for one in signs if one.told), key=lambda one: -abs(one.weight))
    if clear:  # what speaks for it first
        told.sort(key=lambda one: (one.kind != best or one.weight < 0, -abs(one.weight)))
    own = next((one for one in told if one.kind == best and one.act and one.weight > 0), None)
    return Judged(
        best if clear else "not clear",
        shares,
        tuple(told[:MOST_TOLD]),
        own.act if own else ACTS[best],
        own.given if own else {},
        "" if clear else _wanted(case),
    )


def shares_of(signs: list[Sign]) -> dict[Kind, float]:
    """Return the share of each kind: the softmax of the sums of weights."""
    sums = {kind: PRIOR[kind] + sum(s.weight for s in signs if s.kind == kind) for kind in KINDS}
    top = max(sums.values())
    powers = {kind: math.exp(value - top) for kind, value in sums.items()}
    whole = sum(powers.values())
    return {kind: round(power / whole, 4) for kind, power in powers.items()}


def _wanted(case: Case) -> str:
    if case.green is None:
        return "This row never passed before: once it has, there is something to hold it against."
    if not case.nodes:
        return "The page on which it failed was not kept: keep pictures of failures, and run again."
    return "Run it once more: whether it fails again in the same way says much."
