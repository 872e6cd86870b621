"""Checking the rows ahead of a run: against the options and limits of the fields they go into."""

from __future__ import annotations

import operator
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Protocol

from lantern.core.data.choosing import choose_rows
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import MOST_OPTIONS, Facts, tidy
from lantern.core.patterns import fullmatch
from lantern.core.problems import BadInput, NearMiss, Problem, closest, nearest
from lantern.core.steps.model import Document, Row, Step
from lantern.core.values.sources import SOURCES, Names
from lantern.core.values.templates import places, renamed, resolve


@dataclass(frozen=True)
class CellProblem:
    """What is wrong with a value; `row` is the row's number from 1, 0 for all of them.

    `step` is the one that would fail, "" where the value does not fit its column. `near` are
    values that would fit, the likeliest first; where all rows are meant, templates for `input`.
    """

    row: int
    column: str
    step: str
    message: str
    hint: str = ""
    near: tuple[str, ...] = ()
    input: str = ""
    row_id: str = ""


@dataclass(frozen=True)
class Wrong:
    """What is wrong with a value, what to do, and values that would fit, the likeliest first."""

    message: str
    hint: str = ""
    near: tuple[str, ...] = ()


@dataclass(frozen=True)
class ValueProblem(Wrong):
    """What is wrong with a value of a sentence, whatever the row; `near` are whole values."""

    input: str = ""


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
                near = _renamed(template, "row", missing[0], document.columns)
                found.append(CellProblem(0, missing[0], step.id, message, hint, near, name))
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
            value = row.values.get(column, "")
            message, hint = trait.problem(value)
            if message:
                near = tuple(closest(value, trait.offers))
                yield CellProblem(number, column, "", message, hint, near, row_id=row.id)


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
    """Returns what is wrong with a value, None when it fits."""

    def __call__(self, value: str, element: Element, seen: Facts) -> Wrong | None: ...


def _rows(
    document: Document,
    step: Step,
    template: str,
    column: str,
    check: Callable[[str], Wrong | None],
) -> Iterator[CellProblem]:
    whole = template.strip() == f"${{row.{column}}}"
    for number, row in enumerate(document.rows, 1):
        wrong = check(tidy(resolve(template, Names(row=row.values))))
        if wrong:
            near = wrong.near if whole else ()
            told = (step.id, wrong.message, wrong.hint, near)
            yield CellProblem(number, column, *told, row_id=row.id)


def _option(value: str, element: Element, seen: Facts) -> Wrong | None:
    if not seen.options or len(seen.options) >= MOST_OPTIONS or value in seen.options:
        return None
    listed = ", ".join(seen.options[:12]) + (", …" if len(seen.options) > 12 else "")
    close = nearest(value, seen.options)
    return Wrong(
        f"“{value}” is not among the {len(seen.options)} options of {element.name}: {listed}.",
        f"Did you mean “{close}”?" if close else "",
        tuple(closest(value, seen.options)),
    )


def _typed(value: str, element: Element, seen: Facts) -> Wrong | None:
    limits = seen.attributes
    longest = limits.get("maxlength", "")
    if longest.isdigit() and len(value) > int(longest):
        return Wrong(f"“{value[:40]}” is longer than the {longest} characters of {element.name}.")
    if limits.get("type") in ("number", "range") and value:
        return _number(value, element, limits)
    pattern = limits.get("pattern", "")
    try:
        if pattern and value and not fullmatch(value, pattern):
            return Wrong(f"“{value}” is not of the form that {element.name} takes: {pattern}.")
    except Problem:
        pass  # a pattern of the page that Python does not know says nothing
    return None


def _number(value: str, element: Element, limits: Mapping[str, str]) -> Wrong | None:
    try:
        number = float(value)
    except ValueError:
        return Wrong(f"“{value}” is not a number, which {element.name} takes.")
    for side, word, wrong in (("min", "least", operator.lt), ("max", "most", operator.gt)):
        try:
            at = float(limits[side])
        except (KeyError, ValueError):
            continue
        if wrong(number, at):
            text = f"{value} is not in the range of {element.name}: at {word} {at:g}."
            return Wrong(text, near=(f"{at:g}",))
    return None


_CHECKS: dict[tuple[str, str], _Check] = {
    ("option", "choose"): _option,
    ("text", "type"): _typed,
    ("value", "slide"): _typed,
}
"""What is checked, by input and action."""


# -- what a sentence says, whatever the row --------------------------------------------------------

Known = Mapping[str, Sequence[str]]
"""The names that there are, by source; a source that is left out may have any."""


def known_names(
    document: Document, env: Iterable[str], secrets: Iterable[str], gives: Iterable[str]
) -> dict[str, list[str]]:
    """Return the names that values of a document can be taken from, by source.

    `gives` are the names that the flows which it calls hand back.
    """
    kept = (step.inputs.get("name", "") for step in document.steps)
    return {
        "row": list(document.columns),
        "env": [*env, "base_url"],
        "secret": list(secrets),
        "kept": list(dict.fromkeys([*filter(None, kept), *gives])),
        "input": [one.name for one in document.takes],
    }


def check_sentence(
    step: Step, elements: Mapping[str, Element], known: Known
) -> Iterator[ValueProblem]:
    """Yield what is wrong with the values of a sentence: unknown names, options, limits."""
    for name, template in step.inputs.items():
        yield from check_template(step, name, template, elements, known)


def check_template(
    step: Step, name: str, template: str, elements: Mapping[str, Element], known: Known
) -> Iterator[ValueProblem]:
    """Yield what is wrong with a value as the input `name` of a sentence."""
    try:
        used = places(template)
    except Problem as error:
        yield ValueProblem(error.message, error.hint, input=name)
        return
    for source, wanted in used:
        if source in known and wanted not in known[source]:
            close = nearest(wanted, known[source])
            yield ValueProblem(
                f"There is no {SOURCES[source].what} “{wanted}”.",
                f"Did you mean “{close}”?" if close else "",
                _renamed(template, source, wanted, known[source]),
                name,
            )
    element = elements.get(step.element)
    check = _CHECKS.get((name, step.action))
    if "${" not in template and check and element and element.seen:
        for wrong in filter(None, [check(tidy(template), element=element, seen=element.seen)]):
            yield ValueProblem(wrong.message, wrong.hint, wrong.near, name)


def _renamed(template: str, source: str, name: str, known: Iterable[str]) -> tuple[str, ...]:
    return tuple(renamed(template, source, name, one) for one in closest(name, known))


def check_choice(rows: Sequence[Row], choice: str) -> list[ValueProblem]:
    """Return what is wrong with a choice of rows, as core.data.choosing reads it."""
    try:
        choose_rows(rows, choice)
    except NearMiss as error:
        said = re.compile(rf"(?<!\w){re.escape(error.said)}(?!\w)")
        close = error.close or ""
        near = (said.sub(lambda _: close, choice),) if close else ()
        return [ValueProblem(error.message, error.hint, near)]
    except BadInput as error:
        return [ValueProblem(error.message, error.hint)]
    return []
