"""The JSON Schema (draft 2020-12) of the text form, made from the catalogue of actions."""

from __future__ import annotations

from typing import Any, get_args

from lantern.core.data.table import ColumnType, Role
from lantern.core.elements.clues import OPERATORS
from lantern.core.elements.kinds import KINDS
from lantern.core.steps.actions.base import Action
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import MOST_RETRIES, InputKind, OnFailure, OnInterrupted, Pictures
from lantern.core.steps.properties import COMPARISONS
from lantern.core.text.writing import FORMAT, HEADS

SCALAR = {"type": ["string", "number", "boolean", "null"]}
"""What YAML makes of a plain value; Lantern takes the text that stands there."""
TEXT = {"$ref": "#/$defs/value"}
ON = {"enum": ["yes", "no", True, False]}


def _object(properties: dict[str, Any], *required: str) -> dict[str, Any]:
    found: dict[str, Any] = {
        "type": "object",
        "properties": properties,
        "additionalProperties": False,
    }
    return found | ({"required": list(required)} if required else {})


def _list(of: dict[str, Any]) -> dict[str, Any]:
    return {"type": "array", "items": of}


def _with(action: Action) -> dict[str, Any]:
    if action.block == "flow":
        return {"type": "object", "additionalProperties": TEXT}
    names: dict[str, dict[str, Any]] = {entry.name: dict(TEXT) for entry in action.inputs}
    for entry in action.inputs:
        if entry.kind == "comparison":
            names[entry.name] = {"enum": list(COMPARISONS)}
    needed = [entry.name for entry in action.inputs if not entry.optional]
    return _object(names, *needed)


def _step(action: Action) -> dict[str, Any]:
    parts: dict[str, Any] = {
        "do": {"const": action.name},
        "with": _with(action),
        "title": TEXT,
        "comment": TEXT,
        "page": TEXT,
        "seconds": {"type": "number"},
        "on failure": {"enum": list(get_args(OnFailure))},
        "retries": {"type": "integer", "minimum": 0, "maximum": MOST_RETRIES},
        "pictures": {"enum": list(get_args(Pictures))},
        "off": ON,
    }
    if action.kinds is not None:
        parts["element"] = TEXT
    if action.onto:
        parts["onto"] = TEXT
    if action.block == "flow":
        parts["flow"] = TEXT
    elif action.block:
        parts["steps"] = _list({"$ref": "#/$defs/step"})
    needed = ["do", "with"] if any(not e.optional for e in action.inputs) else ["do"]
    return {"description": action.help or action.title, **_object(parts, *needed)}


def _column() -> dict[str, Any]:
    return _object(
        {
            "holds": {"enum": list(get_args(ColumnType))},
            "role": {"enum": list(get_args(Role))},
            "choices": _list(TEXT),
        }
    )


def _table() -> dict[str, Any]:
    columns = {"type": "object", "additionalProperties": _column()}
    return _object(
        {
            "columns": {"anyOf": [_list(TEXT), columns]},
            "rows": _list(_list(TEXT)),
            "ticked": _list({"type": "integer"}),
            "designed": _list({"type": "integer"}),
            "shared": TEXT,
            "source": {"type": "object"},
        }
    )


def _element() -> dict[str, Any]:
    clue = _object({"fact": TEXT, "loose": ON, **dict.fromkeys(OPERATORS, TEXT)}, "fact")
    parts = {
        "id": TEXT,
        "name": TEXT,
        "page": TEXT,
        "kind": {"enum": list(KINDS)},
        "clues": _list(clue),
        "spare": _list(clue),
        "seen": {"type": "object"},
        "lookalikes": _list({"type": "object"}),
    }
    return _object(parts, "id", "name", "kind", "clues")


def schema() -> dict[str, Any]:
    """Return the schema of a test, flow or shared table as text."""
    limits = _object(
        {
            "seconds": {"type": "number"},
            "on failure": {"enum": list(get_args(OnFailure))},
            "pictures": {"enum": list(get_args(Pictures))},
            "retries": {"type": "integer", "minimum": 0, "maximum": MOST_RETRIES},
            "when interrupted": {"enum": list(get_args(OnInterrupted))},
        }
    )
    taken = _object(
        {"name": TEXT, "holds": {"enum": list(get_args(InputKind))}, "default": TEXT}, "name"
    )
    parts = {
        "lantern": {"const": FORMAT},
        **dict.fromkeys(HEADS.values(), TEXT),
        "environment": TEXT,
        "labels": _list(TEXT),
        "needs": _list(TEXT),
        "limits": limits,
        "inputs": _list(taken),
        "outputs": _list(TEXT),
        "steps": _list({"$ref": "#/$defs/step"}),
        "code": {"type": "string"},
        "table": _table(),
        "design": {"type": "object"},
        "elements": _list(_element()),
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A test, flow or shared table of Lantern",
        **_object(parts, "lantern"),
        "oneOf": [{"required": [words]} for words in HEADS.values()],
        "$defs": {
            "value": SCALAR,
            "step": {
                "type": "object",
                "required": ["do"],
                "oneOf": [_step(action) for action in ACTIONS.values()],
            },
        },
    }
