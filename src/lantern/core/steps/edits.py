"""Edits of a test: what people and the recorder do to a document.

Each edit is applied to the newest document. Two people may edit at once: an edit made on an
older version still applies when what it touches has not changed since; otherwise it is a
conflict.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from lantern.core.problems import BadInput, Conflict, Missing, UnknownName
from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.core.values.templates import check_name

NewId = Callable[[], str]
TABLE = "table"
SETTINGS = "settings"
_LOOKING = frozenset({"check", "wait until", "keep", "hover", "scroll"})
"""Actions that need their element shown, not ready for input."""
CHANGEABLE = frozenset(
    "inputs enabled limit on_failure element action page picture box onto title comment "
    "idle".split()
)


@dataclass(frozen=True)
class Insert:
    """Put steps after the step `after`; None means at the end, "" at the start."""

    steps: tuple[Step, ...]
    after: str | None = None


@dataclass(frozen=True)
class Change:
    """Set parts of one step; `inputs` are merged, not replaced."""

    step: str
    fields: Mapping[str, Any]


@dataclass(frozen=True)
class Move:
    """Move steps, keeping their order, after the step `after` ("" means to the start)."""

    steps: tuple[str, ...]
    after: str


@dataclass(frozen=True)
class Copy:
    """Copy steps, in their order, to right behind the last of them."""

    steps: tuple[str, ...]


@dataclass(frozen=True)
class Remove:
    """Delete steps."""

    steps: tuple[str, ...]


@dataclass(frozen=True)
class SetTable:
    """Replace the table's columns and rows."""

    columns: tuple[str, ...]
    rows: tuple[Row, ...]


@dataclass(frozen=True)
class SetSettings:
    """Set some of the test's settings."""

    fields: Mapping[str, Any]


@dataclass(frozen=True)
class ToColumn:
    """Replace the constant in one input of a step by a column, new or existing.

    The constant becomes the value of every row that has none in a new column; a test without
    rows gets its first row.
    """

    step: str
    input: str
    column: str


@dataclass(frozen=True)
class ToWait:
    """Turn a pause into waiting for what the next sentence needs."""

    step: str


@dataclass(frozen=True)
class WriteDesign:
    """Put designed rows into the table, beside those that people made, and remember the design.

    A designed row that was there already stays as it is, with its expected values.
    """

    design: Mapping[str, Any]
    rows: tuple[Mapping[str, str], ...]


Edit = (
    WriteDesign
    | ToWait
    | Insert
    | Change
    | Move
    | Copy
    | Remove
    | SetTable
    | SetSettings
    | ToColumn
)


def read_edit(raw: Mapping[str, Any]) -> Edit:
    """Build an edit from JSON: an object with `do` and the edit's own parts.

    Raises UnknownName for an unknown `do`, BadInput for parts that make no sense.
    """
    do = str(raw.get("do", ""))
    if do not in _READERS:
        raise UnknownName("edit", do, _READERS)
    return _READERS[do](raw)


def _ids(raw: Mapping[str, Any]) -> tuple[str, ...]:
    ids = tuple(str(step) for step in raw.get("steps") or ())
    if not ids:
        raise BadInput("Say which sentences are meant.", where="steps")
    return ids


def _change(raw: Mapping[str, Any]) -> Change:
    fields = raw.get("fields") or {}
    for name in fields:
        if name not in CHANGEABLE:
            raise UnknownName("part of a sentence", str(name), CHANGEABLE)
    return Change(str(raw.get("step", "")), fields)


_READERS: dict[str, Callable[[Mapping[str, Any]], Edit]] = {
    "insert": lambda raw: Insert(
        tuple(Step.read(step) for step in raw.get("steps") or ()),
        None if raw.get("after") is None else str(raw["after"]),
    ),
    "change": _change,
    "move": lambda raw: Move(_ids(raw), str(raw.get("after") or "")),
    "copy": lambda raw: Copy(_ids(raw)),
    "remove": lambda raw: Remove(_ids(raw)),
    "set table": lambda raw: SetTable(
        tuple(str(column) for column in raw.get("columns") or ()),
        tuple(Row.read(row) for row in raw.get("rows") or ()),
    ),
    "set settings": lambda raw: SetSettings(dict(raw.get("fields") or {})),
    "to wait": lambda raw: ToWait(str(raw.get("step", ""))),
    "to column": lambda raw: ToColumn(
        str(raw.get("step", "")), str(raw.get("input", "")), str(raw.get("column", ""))
    ),
}


def touched(edit: Edit) -> frozenset[str]:
    """Return what an edit depends on: ids of steps, TABLE, SETTINGS."""
    match edit:
        case Insert():
            return frozenset({edit.after} if edit.after else ())
        case Change() | ToWait():
            return frozenset({edit.step})
        case Move():
            return frozenset({*edit.steps, *([edit.after] if edit.after else [])})
        case Copy() | Remove():
            return frozenset(edit.steps)
        case SetTable() | WriteDesign():
            return frozenset({TABLE})
        case SetSettings():
            return frozenset({SETTINGS})
        case ToColumn():
            return frozenset({edit.step, TABLE})


def check_fresh(edit: Edit, base: Document, current: Document) -> None:
    """Raise Conflict when what the edit touches differs between `base` and `current`."""
    for thing in touched(edit):
        if _part(base, thing) != _part(current, thing):
            names = {TABLE: "The table", SETTINGS: "The settings"}
            raise Conflict(
                f"{names.get(thing, 'That sentence')} was changed by someone else meanwhile.",
                where=thing,
                hint="The newest version is shown now; make your change again if it is needed.",
            )


def _part(document: Document, thing: str) -> object:
    if thing == TABLE:
        return document.columns, document.rows
    if thing == SETTINGS:
        return document.settings
    return next((step for step in document.steps if step.id == thing), None)


def apply(document: Document, edit: Edit, new_id: NewId) -> Document:
    """Return the document after the edit.

    `new_id` gives ids for steps and rows that have none. Raises Missing when a step is gone,
    BadInput when a value makes no sense.
    """
    match edit:
        case Insert():
            fresh = [step if step.id else replace(step, id=new_id()) for step in edit.steps]
            return _insert(document, fresh, edit.after)
        case Change():
            return document.with_step(_changed(document.step(edit.step), edit.fields))
        case WriteDesign():
            return _designed(document, edit, new_id)
        case ToWait():
            return document.with_step(_waiting(document, document.step(edit.step)))
        case Move():
            return _move(document, edit)
        case Copy():
            chosen = [step for step in document.steps if step.id in edit.steps]
            _all_there(document, edit.steps)
            copies = [replace(step, id=new_id()) for step in chosen]
            return _insert(document, copies, chosen[-1].id)
        case Remove():
            _all_there(document, edit.steps)
            kept = tuple(step for step in document.steps if step.id not in edit.steps)
            return replace(document, steps=kept)
        case SetTable():
            return _with_table(document, edit.columns, edit.rows, new_id)
        case SetSettings():
            settings = Settings.read(document.settings.as_json() | dict(edit.fields))
            return replace(document, settings=settings)
        case ToColumn():
            return _to_column(document, edit, new_id)


def _all_there(document: Document, ids: Sequence[str]) -> None:
    for step_id in ids:
        document.step(step_id)


def _insert(document: Document, steps: Sequence[Step], after: str | None) -> Document:
    known = {step.id for step in document.steps}
    for step in steps:
        if step.id in known:
            raise BadInput("A sentence with that id is already in the test.", where=step.id)
    place = len(document.steps)
    if after == "":
        place = 0
    elif after is not None:
        place = document.steps.index(document.step(after)) + 1
    return replace(document, steps=(*document.steps[:place], *steps, *document.steps[place:]))


def _changed(step: Step, fields: Mapping[str, Any]) -> Step:
    merged = step.as_json() | dict(fields)
    merged["inputs"] = {**step.inputs, **(fields.get("inputs") or {})}
    return Step.read(merged | {"id": step.id})


def _designed(document: Document, edit: WriteDesign, new_id: NewId) -> Document:
    inputs = tuple(dict.fromkeys(name for values in edit.rows for name in values))
    wanted = {tuple(values.get(name, "") for name in inputs): values for values in edit.rows}

    def key(row: Row) -> tuple[str, ...]:
        return tuple(row.values.get(name, "") for name in inputs)

    kept = [row for row in document.rows if not row.designed or key(row) in wanted]
    there = {key(row) for row in kept}
    fresh = [Row("", values, designed=True) for at, values in wanted.items() if at not in there]
    columns = tuple(dict.fromkeys([*document.columns, *inputs]))
    changed = _with_table(document, columns, [*kept, *fresh], new_id)
    return replace(changed, design=dict(edit.design))


def _waiting(document: Document, pause: Step) -> Step:
    """Return the wait for what the next sentence acts on, or for a quiet page without one."""
    if pause.action != "pause":
        raise BadInput("Only a pause can be turned into a wait.", where=pause.id)
    rest = document.steps[document.steps.index(pause) + 1 :]
    following = next((step for step in rest if step.enabled), None)
    if following is None or not following.element:
        return replace(pause, action="quiet", inputs={"milliseconds": "500"})
    prop = "shown" if following.action in _LOOKING else "enabled"
    inputs = {"property": prop, "comparison": "is", "expected": "yes"}
    return replace(pause, action="wait until", element=following.element, inputs=inputs)


def _move(document: Document, edit: Move) -> Document:
    _all_there(document, edit.steps)
    if edit.after in edit.steps:
        raise BadInput("A sentence can not be moved behind itself.", where=edit.after)
    moved = [step for step in document.steps if step.id in edit.steps]
    rest = replace(
        document, steps=tuple(step for step in document.steps if step.id not in edit.steps)
    )
    return _insert(rest, moved, edit.after)


def _with_table(
    document: Document, columns: Sequence[str], rows: Sequence[Row], new_id: NewId
) -> Document:
    for column in columns:
        check_name(column)
    if len(set(columns)) != len(columns):
        double = next(column for column in columns if columns.count(column) > 1)
        raise BadInput(f"Two columns are named {double!r}.", where=double)
    fresh = tuple(
        Row(
            row.id or new_id(),
            {column: row.values.get(column, "") for column in columns},
            row.ticked,
            row.designed,
        )
        for row in rows
    )
    return replace(document, columns=tuple(columns), rows=fresh)


def _to_column(document: Document, edit: ToColumn, new_id: NewId) -> Document:
    step = document.step(edit.step)
    if edit.input not in step.inputs:
        raise Missing(f"The sentence has no value named {edit.input!r}.", where=edit.step)
    constant = step.inputs[edit.input]
    if "${" in constant.replace("$${", ""):
        raise BadInput(f"{constant!r} is not a constant any more.", where=edit.input)
    column = check_name(edit.column)
    changed = _changed(step, {"inputs": {edit.input: f"${{row.{column}}}"}})
    columns = document.columns if column in document.columns else (*document.columns, column)
    rows = document.rows or (Row(new_id()),)
    value = constant.replace("$${", "${")
    if column not in document.columns:
        rows = tuple(replace(row, values={**row.values, column: value}) for row in rows)
    return _with_table(document.with_step(changed), columns, rows, new_id)
