"""Failures that have one cause: told by reason and page, not by values or messages."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from lantern.core.elements.facts import numbers_open
from lantern.core.engine.finding import unready_in
from lantern.core.review.case import Case
from lantern.core.review.verdicts import Kind, Verdict
from lantern.core.review.words import saying, status_of
from lantern.core.searching.pages import path_of

T = TypeVar("T")


def fingerprint(case: Case) -> str:
    """Return 16 hexadecimal digits that failures of one cause have in common.

    A page that is down, broken or asks for a sign-in is one cause whatever was looked for on it;
    otherwise it is the same element of the same page that failed for the same reason, whichever
    test, row or browser it was in, and whatever was expected there.
    """
    return hashlib.sha256("\n".join(_parts(case)).encode()).hexdigest()[:16]


def _parts(case: Case) -> Iterable[str]:
    for text in case.said:
        if saying(text) in ("session", "down", "broken"):
            return "says", numbers_open(text)
    if case.reason in ("browser died", "lantern failed"):
        return (case.reason,)
    if case.reason == "page error":
        return "page error", str(status_of(case.message)), path_of(case.address)
    if case.reason == "not found" and case.answers:
        best = case.answers[0].cause
        if best in ("sign in", "error page", "other page", "dialog"):
            return best, numbers_open(case.title)
    thing = case.line.element or case.line.step
    looked = case.line.given.get("property", "")
    return (
        case.reason,
        numbers_open(case.line.title or case.title),
        thing,
        looked,
        unready_in(case.message),
    )


@dataclass(frozen=True)
class Member(Generic[T]):
    """A failure with its verdict, as it is sorted by cause; `corrected` is what a person said."""

    failure: T
    fingerprint: str
    verdict: Verdict
    shares: Mapping[Kind, float]
    corrected: Kind | None = None

    @property
    def kind(self) -> Verdict:
        """What it counts as."""
        return self.corrected or self.verdict


@dataclass(frozen=True)
class Cause(Generic[T]):
    """Failures of one cause; the first is the one that shows it best."""

    kind: Verdict
    fingerprint: str
    members: tuple[Member[T], ...]


def together(members: Sequence[Member[T]]) -> list[Cause[T]]:
    """Return the causes of failures, those of most failures first.

    What is not clear alone goes with those that are, where it has their fingerprint.
    """
    kinds: dict[str, dict[Verdict, list[Member[T]]]] = {}
    for one in members:
        kinds.setdefault(one.fingerprint, {}).setdefault(one.kind, []).append(one)
    found = []
    for key, by_kind in kinds.items():
        unclear = by_kind.pop("not clear", [])
        if unclear and len(by_kind) == 1:
            next(iter(by_kind.values())).extend(unclear)
        elif unclear:
            by_kind["not clear"] = unclear
        for kind, group in by_kind.items():
            group.sort(key=lambda one: -max(one.shares.values()) * (one.kind == kind))
            found.append(Cause(kind, key, tuple(group)))
    return sorted(found, key=lambda cause: -len(cause.members))
