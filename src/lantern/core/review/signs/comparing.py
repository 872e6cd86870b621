"""What the other rows, browsers and runs say, and what changed since it passed."""

from __future__ import annotations

from collections.abc import Iterator

from lantern.core.review.case import Case
from lantern.core.review.verdicts import KINDS, Sign

FEW = 3


def other_rows(case: Case) -> Iterator[Sign]:
    """One row alone, all rows, one browser alone."""
    others = case.others
    if others.passed and not others.alike and case.columns_before:
        told = f"{others.passed} other rows of this run passed here."
        yield Sign("data", 0.6, told)
    elif others.alike >= FEW and not others.passed:
        told = f"All {others.alike + 1} rows failed here in the same way: it is not the data."
        yield Sign("data", -1.2, told)
    if others.same_row:
        told = f"The same row passed in {', '.join(others.same_row)}."
        yield Sign("data", -2.0, told)
        yield Sign("test", -0.4, "")


def changed(case: Case) -> Iterator[Sign]:
    """What is other than when it passed: what was changed is under suspicion."""
    changes = case.changes
    if case.green is None:
        return
    if changes.nothing:
        if case.reason not in ("not found", "found several"):  # a page may have changed instead
            yield Sign("test", -1.0, "Nothing of the test was changed since it passed.")
        yield Sign("data", -0.8, "")
        return
    if changes.release:
        was, now = changes.release
        yield Sign("product", 0.9, f"It passed on release {was}; this is {now}.")
    if changes.sentence:
        yield Sign("test", 1.4, "The sentence itself was changed since it passed.")
    elif changes.before:
        yield Sign("test", 0.9, f"The test was changed since it passed: {_some(changes.test)}.")
    if changes.address and case.reason != "page error":
        was, now = changes.address
        yield Sign("environment", 1.6, f"It played at {was} when it passed, now at {now}.")
    if changes.browser:
        was, now = changes.browser
        yield Sign("environment", 0.5, f"It passed in {was}; this is {now}.")
    if changes.station:
        yield Sign("environment", 0.3, "It was played on another station when it passed.")
    if changes.variables:
        yield Sign("data", 0.6, changes.variables[0])


def _some(told: object) -> str:
    listed = list(told) if isinstance(told, list | tuple) else [str(told)]
    return "; ".join(listed[:2])


def people_said(case: Case) -> Iterator[Sign]:
    """What people called failures like it."""
    for kind in KINDS:
        times = case.corrected.get(kind, 0)
        if times:
            counted = "once" if times == 1 else f"{times} times"
            told = f"People called failures like it {kind} {counted}."
            yield Sign(kind, min(3.5, 2.0 + 0.5 * times), told)
