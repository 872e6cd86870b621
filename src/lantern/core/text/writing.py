"""A document as text. What only says how it was recorded (pictures, ids) is left out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from lantern.core.data.table import PLAIN
from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.model import INHERITED, Document, Settings, Step
from lantern.core.steps.tree import Node, tree
from lantern.core.text.names import Known
from lantern.core.text.nodes import Flow, FlowList, write

HEADS = {"test": "test", "flow": "flow", "table": "shared table"}
"""What stands before the name of a document, by its kind."""
LIMITS = {
    "limit": "seconds",
    "on_failure": "on failure",
    "pictures": "pictures",
    "retries": "retries",
    "on_interrupted": "when interrupted",
}
"""What settings are called in texts."""
FORMAT = 1
"""The number of this format; it rises when older texts would be read wrongly."""


@dataclass(frozen=True)
class Head:
    """What a text is of: its kind (test, flow or table), name and environment."""

    kind: str
    name: str
    environment: str = ""


def document_text(
    head: Head, document: Document, known: Known, elements: Sequence[Element] = ()
) -> str:
    """Return the text of a document, with the elements that are to stand in it too."""
    data: dict[str, Any] = {"lantern": FORMAT, HEADS[head.kind]: head.name}
    if head.environment and head.kind != "table":
        data["environment"] = head.environment
    if document.labels:
        data["labels"] = FlowList(document.labels)
    if document.needs:
        data["needs"] = FlowList(document.needs)
    if set(document.settings.inherits) < set(INHERITED):
        data["limits"] = _settings(document.settings)
    if document.takes:
        data["inputs"] = [
            Flow({"name": one.name, "holds": one.kind, "default": one.default})
            for one in document.takes
        ]
    if document.gives:
        data["outputs"] = FlowList(document.gives)
    if document.code:
        data["code"] = document.code
    elif document.steps or head.kind != "table":
        data["steps"] = [_step(node, known) for node in tree(document.steps)]
    data |= _table(document, known)
    if document.design:
        data["design"] = dict(document.design)
    if elements:
        data["elements"] = [element_data(element) for element in elements]
    return write(data)


def _settings(settings: Settings) -> dict[str, Any]:
    """Return what the test says itself; what it leaves to the project is left out."""
    return {
        LIMITS[name]: getattr(settings, name) for name in INHERITED if name not in settings.inherits
    }


def _step(node: Node, known: Known) -> dict[str, Any]:
    step = node.step
    data: dict[str, Any] = {"do": step.action}
    data |= _named(step, known)
    if step.inputs:
        data["with"] = Flow(step.inputs)
    for name, value, usual in (
        ("title", step.title, ""),
        ("comment", step.comment, ""),
        ("page", step.page, ""),
        ("seconds", step.limit, None),
        ("on failure", step.on_failure, None),
        ("retries", step.retries, None),
        ("pictures", step.pictures, None),
    ):
        if value != usual:
            data[name] = value
    if not step.enabled:
        data["off"] = "yes"
    if node.inside:
        data["steps"] = [_step(inner, known) for inner in node.inside]
    return data


def _named(step: Step, known: Known) -> dict[str, str]:
    found = {}
    if step.flow:
        found["flow"] = known.flows.get(step.flow, step.flow)
    if step.element:
        found["element"] = known.elements.get(step.element, step.element)
    if step.onto:
        found["onto"] = known.elements.get(step.onto, step.onto)
    return found


def _table(document: Document, known: Known) -> dict[str, Any]:
    if document.table:
        return {"table": {"shared": known.tables.get(document.table, document.table)}}
    if not document.columns:
        return {}
    table: dict[str, Any] = {}
    if all(document.trait(name) == PLAIN for name in document.columns):
        table["columns"] = FlowList(document.columns)
    else:
        table["columns"] = {name: _trait(document, name) for name in document.columns}
    table["rows"] = [
        FlowList(row.values.get(name, "") for name in document.columns) for row in document.rows
    ]
    for mark in ("ticked", "designed"):
        numbers = [n for n, row in enumerate(document.rows, 1) if getattr(row, mark)]
        if numbers:
            table[mark] = FlowList(numbers)
    if document.source:
        table["source"] = Flow(document.source)
    return {"table": table}


def _trait(document: Document, name: str) -> Flow:
    trait = document.trait(name)
    data = Flow({"holds": trait.type, "role": trait.role})
    if trait.choices:
        data["choices"] = list(trait.choices)
    return data


def element_data(element: Element, *, whole: bool = False) -> dict[str, Any]:
    """Return an element for a text; `whole` adds all that is remembered of its looks."""
    data: dict[str, Any] = {
        "id": element.id,
        "name": element.name,
        "page": element.page,
        "kind": element.kind,
        "clues": [_clue(clue) for clue in element.clues],
    }
    if element.spare:
        data["spare"] = [_clue(clue) for clue in element.spare]
    if whole:
        raw = element.as_json()
        data |= {part: raw[part] for part in ("seen", "lookalikes") if raw[part]}
    return data


def _clue(clue: Clue) -> Flow:
    data = Flow({"fact": clue.fact, clue.operator: clue.value})
    if clue.loose:
        data["loose"] = "yes"
    return data


def elements_text(page: str, elements: Sequence[Element]) -> str:
    """Return the text of a page's elements, with all that is remembered of them."""
    listed: list[Mapping[str, Any]] = [element_data(one, whole=True) for one in elements]
    return write({"lantern": FORMAT, "page": page, "elements": listed})
