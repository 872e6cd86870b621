"""Edits of columns: added, told more of, renamed everywhere, taken away."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, NotRequired, Self

from typing_extensions import TypedDict

from lantern.core.data.table import ColumnType, Role, Row, Trait
from lantern.core.problems import BadInput, Conflict, UnknownName
from lantern.core.steps.edits.base import TABLE, Edit, NewId
from lantern.core.steps.edits.table import with_table
from lantern.core.steps.model import Document, Step
from lantern.core.values.templates import check_name, renamed


def column_of(document: Document, name: str) -> str:
    """Return the name of a column that exists; raises UnknownName."""
    if name not in document.columns:
        raise UnknownName("column", name, document.columns)
    return name


def steps_with(document: Document, column: str) -> list[Step]:
    """Return the steps that use a column."""
    place = f"${{row.{column}}}"
    return [step for step in document.steps if any(place in v for v in step.inputs.values())]


class AddColumnAsked(TypedDict):
    """What `AddColumn` is read from."""

    do: Literal["add column"]
    column: str


@dataclass(frozen=True)
class AddColumn(Edit):
    """Put an empty column at the end of the table; a table without rows gets its first."""

    do = "add column"
    asked = AddColumnAsked
    told = "column added"
    column: str

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput for the name."""
        return cls(check_name(str(raw.get("column") or "").strip()))

    def touches(self) -> frozenset[str]:
        """Return nothing: a further column is in nobody's way."""
        return frozenset()

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the column."""
        from_now = (*document.columns, self.column)
        return with_table(document, from_now, document.rows or (Row(""),), new_id)


class SetColumnAsked(TypedDict):
    """What `SetColumn` is read from."""

    do: Literal["set column"]
    column: str
    type: NotRequired[ColumnType]
    role: NotRequired[Role]
    choices: NotRequired[list[str]]


@dataclass(frozen=True)
class SetColumn(Edit):
    """Say of which type a column is, and what it is for."""

    do = "set column"
    asked = SetColumnAsked
    told = "column described"
    column: str
    trait: Trait

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises UnknownName or BadInput."""
        return cls(str(raw.get("column") or ""), Trait.read(raw))

    def touches(self) -> frozenset[str]:
        """Return nothing: whoever says it last is right."""
        return frozenset()

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the column described."""
        column_of(document, self.column)
        others = [n for n, t in document.traits.items() if t.role == "browser" and n != self.column]
        if self.trait.role == "browser" and others:
            raise BadInput(f"The column {others[0]!r} names the browsers already.", where=others[0])
        return replace(document, traits={**document.traits, self.column: self.trait})


class RemoveColumnAsked(TypedDict):
    """What `RemoveColumn` is read from."""

    do: Literal["remove column"]
    column: str


@dataclass(frozen=True)
class RemoveColumn(Edit):
    """Take a column away; one that sentences use stays."""

    do = "remove column"
    asked = RemoveColumnAsked
    told = "column deleted"
    column: str

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(str(raw.get("column") or ""))

    def touches(self) -> frozenset[str]:
        """Return the table: what others typed there must not go unseen."""
        return frozenset({TABLE})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document without the column."""
        column_of(document, self.column)
        used = len(steps_with(document, self.column))
        if used:
            many = f"{used} sentences use" if used > 1 else "A sentence uses"
            raise Conflict(
                f"{many} the column “{self.column}”.",
                where=self.column,
                hint=f"Change {'them' if used > 1 else 'it'} first.",
            )
        columns = [name for name in document.columns if name != self.column]
        return with_table(document, columns, document.rows, new_id)


class RenameColumnAsked(TypedDict):
    """What `RenameColumn` is read from."""

    do: Literal["rename column"]
    column: str
    name: str


@dataclass(frozen=True)
class RenameColumn(Edit):
    """Give a column another name, in the table and in every sentence that uses it."""

    do = "rename column"
    asked = RenameColumnAsked
    told = "column renamed"
    column: str
    name: str

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput for the new name."""
        return cls(str(raw.get("column") or ""), check_name(str(raw.get("name") or "").strip()))

    def touches(self) -> frozenset[str]:
        """Return the table."""
        return frozenset({TABLE})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the column renamed everywhere."""
        old, new = self.column, self.name
        if old not in document.columns:
            raise UnknownName("column", old, document.columns)
        if new != old and new in document.columns:
            raise BadInput(f"There is a column named {new!r} already.", where=new)
        steps = tuple(
            replace(
                step,
                inputs={
                    name: renamed(value, "row", old, new) for name, value in step.inputs.items()
                },
            )
            for step in document.steps
        )
        columns = [new if name == old else name for name in document.columns]
        rows = [
            replace(row, values={new if n == old else n: v for n, v in row.values.items()})
            for row in document.rows
        ]
        design = _renamed_design(document.design, old, new)
        traits = {new if name == old else name: one for name, one in document.traits.items()}
        changed = replace(document, steps=steps, design=design, traits=traits)
        return with_table(changed, columns, rows, new_id)


def _renamed_design(design: Mapping[str, Any], old: str, new: str) -> dict[str, Any]:
    """Return what is kept of a design with a column renamed where it stands for an input."""
    changed = dict(design)
    inputs = changed.get("inputs")
    if isinstance(inputs, Mapping):
        changed["inputs"] = {new if name == old else name: v for name, v in inputs.items()}
    return changed


ENTRIES: tuple[type[Edit], ...] = (AddColumn, SetColumn, RemoveColumn, RenameColumn)
