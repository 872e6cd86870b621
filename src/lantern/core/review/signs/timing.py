"""Whether it was only too late: what came afterwards, and how long it takes usually."""

from __future__ import annotations

from collections.abc import Iterator
from statistics import median

from lantern.core.review.case import Case
from lantern.core.review.verdicts import Sign
from lantern.core.review.words import first, status_of

TIMED = frozenset(
    {"not found", "not ready", "check differed", "waited in vain", "page error", "bad value"}
)
"""Reasons of which time may be the cause; a value may be one of a list that comes late."""
NEAR = 0.6
"""Share of its limit that a sentence takes usually, from which on the limit is tight."""
SLOWER = 3.0
"""How many times longer than usual a sentence took that was slow."""
MUCH = 10.0
SECONDS = 0.8
"""Seconds by which it has to be longer at least."""


def came_later(case: Case) -> Iterator[Sign]:
    """A second look after the failure saw what was wanted, or not."""
    late = case.late
    if case.reason not in TIMED or not late:
        return
    pending = ", ".join(late.get("pending", ())) or "something"
    if late.get("came"):
        told = (
            f"It was there {late['waited']:.1f} s after the limit: the page waited for {pending}."
        )
        yield Sign("timing", 6.0, told, "raise limit")
    elif late.get("pending"):
        if any(status_of(one) >= 400 for one in case.line.requests):
            return  # the answer came, and was an error
        yield Sign("timing", 1.6, f"The page was still waiting for {pending}.")
    elif late.get("busy"):
        yield Sign("timing", 1.2, "The page showed that it was busy.")


def tight(case: Case) -> Iterator[Sign]:
    """Its limit is about what it takes usually."""
    usual = case.usual.get(case.line.step, ())
    if case.reason not in TIMED or not usual:
        return
    most = max(usual)
    if most >= NEAR * case.limit:
        told = f"It takes up to {most:.1f} s when it passes, and the limit is {case.limit:g} s."
        yield Sign("timing", 2.6, told, "raise limit")


def slow_before(case: Case) -> Iterator[Sign]:
    """What was played before it took much longer than usual."""
    if case.reason not in TIMED:
        return
    for line in case.before[-3:]:
        usual = case.usual.get(line.step, ())
        if not usual:
            continue
        middle = median(usual)
        if line.used >= SLOWER * middle and line.used >= middle + SECONDS:
            told = f"“{line.sentence[:80]}” took {line.used:.1f} s, usually {middle:.1f} s."
            yield Sign("timing", 2.2 if line.used >= MUCH * middle else 1.2, told)
            return


def says_busy(case: Case) -> Iterator[Sign]:
    """The page says that it is not done yet."""
    busy = first(case.said, "busy")
    if case.reason in TIMED and busy:
        yield Sign("timing", 2.0, f"The page says “{busy[:80]}”.")


def passes_again(case: Case) -> Iterator[Sign]:
    """The same row passed when it was played once more."""
    if case.others.again:
        yield Sign("timing", 1.5, "The same row passed when it was played once more.")
        yield Sign("environment", 0.8, "")
