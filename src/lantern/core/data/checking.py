"""Checking the rows ahead of a run: against the options and limits of the fields they go into."""

from __future__ import annotations

import operator
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Protocol

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import MOST_OPTIONS, Facts, tidy
from lantern.core.patterns import fullmatch
from lantern.core.problems import Problem, nearest
from lantern.core.steps.model import Document, Step
from lantern.core.values.sources import Names
from lantern.core.values.templates import places, resolve


@dataclass(frozen=True)
class CellProblem:
    """What is wrong with a value; `row` is the row's number from 1, 0 for all of them.

    `step` is the one that would fail, "" where the value does not fit its column.
    """

    row: int
    column: str
    step: str
    message: str
    hint: str = ""


def check_data(document: Document, elements: Mapping[str, Element]) -> list[CellProblem]:
    """Return what would fail for certain, row by row, as far as the fields are known.

    Only values that depend on nothing but the row can be checked ahead.
    """
    found = list(_of_types(document))
    for step in document.steps:
        for name, template in step.inputs.items() if step.enabled else ():
            columns = _columns(template)
            if columns is None:
                continue
            missing = [column for column in columns if column not in document.columns]
            if missing:
                close = nearest(missing[0], document.columns)
                hint = f"Did you mean {close}?" if close else "Add it, or change the sentence."
                message = f"The table has no column {missing[0]}."
                found.append(CellProblem(0, missing[0], step.id, message, hint))
                continue
            element = elements.get(step.element)
            check = _CHECKS.get((name, step.action))
            if check and element and element.seen:
                fits = partial(check, element=element, seen=element.seen)
                found += _rows(document, step, template, columns[0], fits)
    return sorted(found, key=lambda one: one.row)


def _of_types(document: Document) -> Iterator[CellProblem]:
    """Yield what does not fit the type of its column; `step` is empty."""
    for column in document.columns:
        trait = document.trait(column)
        for number, row in enumerate(document.rows, 1):
            message, hint = trait.problem(row.values.get(column, ""))
            if message:
                yield CellProblem(number, column, "", message, hint)


def _columns(template: str) -> list[str] | None:
    """Return the columns in a template that holds nothing else to be filled; None for others."""
    try:
        used = places(template)
    except Problem:
        return None
    if not used or any(source != "row" for source, _ in used) or "(" in template:
        return None
    return [name for _, name in used]


class _Check(Protocol):
    """Returns a message and a hint about a value, empty when it fits."""

    def __call__(self, value: str, element: Element, seen: Facts) -> tuple[str, str]: ...


def _rows(
    document: Document,
    step: Step,
    template: str,
    column: str,
    check: Callable[[str], tuple[str, str]],
) -> Iterator[CellProblem]:
    for number, row in enumerate(document.rows, 1):
        message, hint = check(tidy(resolve(template, Names(row=row.values))))
        if message:
            yield CellProblem(number, column, step.id, message, hint)


def _option(value: str, element: Element, seen: Facts) -> tuple[str, str]:
    if not seen.options or len(seen.options) >= MOST_OPTIONS or value in seen.options:
        return "", ""
    listed = ", ".join(seen.options[:12]) + (", …" if len(seen.options) > 12 else "")
    close = nearest(value, seen.options)
    return (
        f"“{value}” is not among the {len(seen.options)} options of {element.name}: {listed}.",
        f"Did you mean “{close}”?" if close else "",
    )


def _typed(value: str, element: Element, seen: Facts) -> tuple[str, str]:
    limits = seen.attributes
    longest = limits.get("maxlength", "")
    if longest.isdigit() and len(value) > int(longest):
        return f"“{value[:40]}” is longer than the {longest} characters of {element.name}.", ""
    if limits.get("type") in ("number", "range") and value:
        return _number(value, element, limits)
    pattern = limits.get("pattern", "")
    try:
        if pattern and value and not fullmatch(value, pattern):
            return f"“{value}” is not of the form that {element.name} takes: {pattern}.", ""
    except Problem:
        pass  # a pattern of the page that Python does not know says nothing
    return "", ""


def _number(value: str, element: Element, limits: Mapping[str, str]) -> tuple[str, str]:
    try:
        number = float(value)
    except ValueError:
        return f"“{value}” is not a number, which {element.name} takes.", ""
    for side, word, wrong in (("min", "least", operator.lt), ("max", "most", operator.gt)):
        try:
            at = float(limits[side])
        except (KeyError, ValueError):
            continue
        if wrong(number, at):
            return f"{value} is not in the range of {element.name}: at {word} {at:g}.", ""
    return "", ""


_CHECKS: dict[tuple[str, str], _Check] = {
    ("option", "choose"): _option,
    ("text", "type"): _typed,
    ("value", "slide"): _typed,
}
"""What is checked, by input and action."""
