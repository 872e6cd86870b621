"""Edits of a test: what people and the recorder do to a document.

Each edit is applied to the newest document. Two people may edit at once: an edit made on an
older version still applies when what it touches has not changed since; otherwise it is a
conflict. A new edit is one class in the module that it belongs to.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from lantern.core.problems import Conflict, UnknownName
from lantern.core.steps.edits import cells, columns, constants, placing, settings, story, table
from lantern.core.steps.edits.base import (
    CALLING,
    NEEDS,
    SETTINGS,
    TABLE,
    Edit,
    NewId,
    row_part,
    setting_part,
)
from lantern.core.steps.edits.cells import AddRows, RemoveRows, SetCells, SortRows, TickRows
from lantern.core.steps.edits.columns import AddColumn, RemoveColumn, RenameColumn, SetColumn
from lantern.core.steps.edits.constants import ReplaceConstants, ToColumn
from lantern.core.steps.edits.placing import Copy, Move, Remove, Shift, Wrap
from lantern.core.steps.edits.settings import SetCalling, SetCode, SetLabels, SetNeeds, SetSettings
from lantern.core.steps.edits.story import Change, Insert, Switch, ToWait, step_after
from lantern.core.steps.edits.table import SetTable, TakeTable, WriteDesign, held_against
from lantern.core.steps.model import Document
from lantern.core.steps.tree import settled

__all__ = [
    "AddColumn",
    "AddRows",
    "Change",
    "Copy",
    "Edit",
    "Insert",
    "Move",
    "NewId",
    "Remove",
    "RemoveColumn",
    "RemoveRows",
    "RenameColumn",
    "ReplaceConstants",
    "SetCalling",
    "SetCells",
    "SetCode",
    "SetColumn",
    "SetLabels",
    "SetNeeds",
    "SetSettings",
    "SetTable",
    "Shift",
    "SortRows",
    "Switch",
    "TakeTable",
    "TickRows",
    "ToColumn",
    "ToWait",
    "Wrap",
    "WriteDesign",
    "apply",
    "check_fresh",
    "held_against",
    "read_edit",
    "step_after",
]

EDITS: dict[str, type[Edit]] = {
    edit.do: edit
    for module in (story, placing, table, cells, columns, constants, settings)
    for edit in module.ENTRIES
    if edit.do
}


def read_edit(raw: Mapping[str, Any]) -> Edit:
    """Build an edit from JSON: an object with `do` and the edit's own parts.

    Raises UnknownName for an unknown `do`, BadInput for parts that make no sense.
    """
    do = str(raw.get("do", ""))
    if do not in EDITS:
        raise UnknownName("edit", do, EDITS)
    return EDITS[do].read(raw)


def check_fresh(edit: Edit, base: Document, current: Document) -> None:
    """Raise Conflict when what the edit touches differs between `base` and `current`."""
    before, now = _parts(base), _parts(current)
    for thing in edit.touches():
        if before.get(thing) != now.get(thing):
            raise Conflict(
                f"{_NAMES.get(thing.split(' ')[0], 'That sentence')} was changed by someone else "
                "meanwhile.",
                where=thing,
                hint="The newest version is shown now; make your change again if it is needed.",
            )


_NAMES = {
    TABLE: "The table",
    SETTINGS: "That setting",
    CALLING: "The inputs",
    NEEDS: "What it needs",
    "row": "That row",
}


def _parts(document: Document) -> dict[str, object]:
    """Return all that an edit can touch, by name; a tick is no change of a row."""
    rows = {row_part(row.id): row.values for row in document.rows}
    return {
        TABLE: (document.columns, [(row.id, row.values) for row in document.rows]),
        **{
            setting_part(name): (value, name in document.settings.inherits)
            for name, value in document.settings.as_json().items()
        },
        CALLING: (document.takes, document.gives, document.code),
        NEEDS: document.needs,
        **rows,
        **{step.id: step for step in document.steps},
    }


def apply(document: Document, edit: Edit, new_id: NewId) -> Document:
    """Return the document after the edit.

    `new_id` gives ids for steps and rows that have none. Raises Missing when a step is gone,
    BadInput when a value makes no sense.
    """
    changed = edit.apply(document, new_id)
    return replace(changed, steps=settled(changed.steps))
