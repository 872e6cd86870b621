"""Edits that replace constants by what differs from row to row or from place to place."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, NotRequired, Self

from typing_extensions import TypedDict

from lantern.core.problems import BadInput, Missing, UnknownName
from lantern.core.steps.constants import constant_in
from lantern.core.steps.edits.asked import PlaceAsked
from lantern.core.steps.edits.base import TABLE, Edit, NewId, with_fields
from lantern.core.steps.edits.table import with_table
from lantern.core.steps.model import Document, Row
from lantern.core.values.sources import SOURCES
from lantern.core.values.templates import check_name, places


class ToColumnAsked(TypedDict):
    """What `ToColumn` is read from."""

    do: Literal["to column"]
    step: str
    input: str
    column: str


@dataclass(frozen=True)
class ToColumn(Edit):
    """Replace the constant in one input of a step by a column, new or existing.

    The constant becomes the value of every row that has none in a new column; a test without
    rows gets its first row.
    """

    do = "to column"
    asked = ToColumnAsked
    told = "constant replaced by a column"
    step: str
    input: str
    column: str

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(str(raw.get("step", "")), str(raw.get("input", "")), str(raw.get("column", "")))

    def touches(self) -> frozenset[str]:
        """Return the step and the table."""
        return frozenset({self.step, TABLE})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the column."""
        template = f"${{row.{check_name(self.column)}}}"
        places_meant = ((self.step, self.input),)
        return ReplaceConstants(places_meant, template).apply(document, new_id)


class ReplaceConstantsAsked(TypedDict):
    """What `ReplaceConstants` is read from."""

    do: Literal["replace constants"]
    places: list[PlaceAsked]
    template: NotRequired[str]
    source: NotRequired[str]
    name: NotRequired[str]


@dataclass(frozen=True)
class ReplaceConstants(Edit):
    """Replace constants, all with the same value, by one template such as ${row.piece}.

    A column that does not exist yet is made; the constant becomes its value in every row, and a
    test without rows gets its first row.
    """

    do = "replace constants"
    asked = ReplaceConstantsAsked
    told = "constants replaced"
    places: tuple[tuple[str, str], ...]
    template: str

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON: `places` is a list of {"step", "input"}.

        What they are replaced by is a `template`, or a `source` and a `name`.
        """
        found = tuple(
            (str(place.get("step") or ""), str(place.get("input") or ""))
            for place in raw.get("places") or ()
        )
        if not found:
            raise BadInput("Say which values are to be replaced.", where="places")
        template = str(raw.get("template") or "")
        if "source" in raw:
            template = _by_name(str(raw["source"]), str(raw.get("name") or "").strip())
        if not template:
            raise BadInput("Say what they are to be replaced by.", where="template")
        for source, name in places(template):
            check_name(name, source)
        return cls(found, template)

    def touches(self) -> frozenset[str]:
        """Return the steps, and the table when a column comes in."""
        columns = [name for source, name in places(self.template) if source == "row"]
        return frozenset({*(step for step, _ in self.places), *([TABLE] if columns else [])})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the template in all places."""
        constant = ""
        for step_id, name in self.places:
            step = document.step(step_id)
            if name not in step.inputs:
                raise Missing(f"The sentence has no value named {name!r}.", where=step_id)
            found = constant_in(step.inputs[name])
            if found is None:
                raise BadInput(f"{step.inputs[name]!r} is not a constant any more.", where=name)
            constant = constant or found
            document = document.with_step(with_fields(step, {"inputs": {name: self.template}}))
        fresh = [
            name
            for source, name in places(self.template)
            if source == "row" and name not in document.columns
        ]
        if not fresh:
            return document
        rows = document.rows or (Row(new_id()),)
        values = dict.fromkeys(fresh, constant)
        rows = tuple(replace(row, values={**row.values, **values}) for row in rows)
        return with_table(document, (*document.columns, *fresh), rows, new_id)


def _by_name(source: str, name: str) -> str:
    """Return the template for a name; raises UnknownName or BadInput with a proposed name."""
    if source not in SOURCES:
        raise UnknownName("source of values", source, SOURCES)
    return f"${{{source}.{check_name(name, SOURCES[source].what)}}}"


ENTRIES: tuple[type[Edit], ...] = (ToColumn, ReplaceConstants)
