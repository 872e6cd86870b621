"""A text read back into a document, with all that is wrong in it, each at its line."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from typing import TypeVar

import yaml

from lantern.core.data.table import PLAIN, Row, Trait
from lantern.core.elements.clues import OPERATORS, Clue, Element
from lantern.core.problems import Problem
from lantern.core.steps.catalogue import ACTIONS, action_of, check_inputs
from lantern.core.steps.code import signature
from lantern.core.steps.labels import read_labels
from lantern.core.steps.model import DEEPEST, Document, Settings, Step, Taken
from lantern.core.steps.tree import is_open
from lantern.core.text.names import Known, close_to, id_of
from lantern.core.text.nodes import Spot, Trouble, read
from lantern.core.text.writing import FORMAT, HEADS, LIMITS, Head
from lantern.core.values.templates import places

TOP = (
    "lantern", *HEADS.values(), "environment", "labels", "needs", "limits", "inputs", "outputs",
    "steps", "code", "table", "design", "elements",
)  # fmt: skip
STEP = (
    "do", "flow", "element", "onto", "with", "title", "comment", "page", "seconds", "on failure",
    "retries", "pictures", "off", "steps",
)  # fmt: skip
TABLE = ("columns", "rows", "ticked", "designed", "shared", "source")
T = TypeVar("T")


@dataclass(frozen=True)
class Read:
    """What a text says. With `troubles`, the rest is what could be made of it.

    The ids of steps and rows are empty. `lines` are those of the steps, in reading order.
    """

    head: Head
    document: Document
    elements: tuple[Element, ...] = ()
    troubles: tuple[Trouble, ...] = ()
    lines: tuple[int, ...] = ()


def read_document(text: str, known: Known) -> Read:
    """Read the text of a test, flow or table.

    Raises BadInput, with the line, for what is no YAML; all else that is wrong is told in the
    result.
    """
    top = read(text)
    return _Reader(top, known).document()


def read_elements(text: str) -> tuple[tuple[Element, ...], tuple[Trouble, ...]]:
    """Read the text of a page's elements; raises BadInput for what is no YAML."""
    top = read(text)
    parts = top.parts(("lantern", "page", "elements"))
    _check_format(parts["lantern"])
    found = [_element(spot, parts["page"].text()) for spot in parts["elements"].items()]
    return tuple(one for one in found if one), tuple(top.log)


def _check_format(spot: Spot) -> None:
    if spot.text() != str(FORMAT):
        spot.wrong(
            f"This is not a text of format {FORMAT}.", f"Begin the text with lantern: {FORMAT}."
        )


def _tried(spot: Spot, work: Callable[[], T], instead: T) -> T:
    """Return what `work` makes; a problem is noted at the place and gives `instead`."""
    try:
        return work()
    except Problem as error:
        spot.problem(error)
        return instead


@dataclass
class _Reader:
    top: Spot
    known: Known
    steps: list[Step] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)
    labels: dict[str, str] = field(default_factory=dict)

    def document(self) -> Read:
        parts = self.top.parts(TOP)
        _check_format(parts["lantern"])
        elements = tuple(
            one for one in (_element(spot, "") for spot in parts["elements"].items()) if one
        )
        self.labels = dict(self.known.elements)
        for element in elements:
            called = f"{element.name} on {element.page}" if element.page else element.name
            self.labels.setdefault(element.id, called)
        for spot in parts["steps"].items():
            self._step(spot, 0)
        table = parts["table"].parts(TABLE)
        columns, traits = _columns(table["columns"])
        document = Document(
            columns=columns,
            traits=traits,
            rows=_rows(table, columns),
            table=self._id("shared table", table["shared"], self.known.tables),
            source=table["source"].mapping(),
            steps=tuple(self.steps),
            settings=self._settings(parts["limits"]),
            takes=tuple(one for one in map(_taken, parts["inputs"].items()) if one),
            gives=parts["outputs"].texts(),
            code=parts["code"].text(),
            design=parts["design"].mapping(),
            labels=_labels(parts["labels"]),
            needs=_labels(parts["needs"]),
        )
        document = _tried(self.top, lambda: Document.read(document.as_json()), document)
        if document.code:
            document = self._with_code(parts["code"], document)
        head = self._head(parts)
        return Read(head, document, elements, tuple(self.top.log), tuple(self.lines))

    @staticmethod
    def _with_code(spot: Spot, document: Document) -> Document:
        """Return a document with the inputs and outputs that its code offers."""
        try:
            offers = signature(document.code)
        except Problem as error:
            line = error.where.removeprefix("line ")
            at = spot.line + (int(line) if line.isdigit() else 0)
            spot.log.append(Trouble(at, error.message, error.hint))
            return document
        return replace(document, takes=offers.takes, gives=offers.gives, steps=())

    def _head(self, parts: Mapping[str, Spot]) -> Head:
        kinds = [kind for kind, words in HEADS.items() if parts[words].there]
        if len(kinds) != 1:
            hint = "Give it one line such as test: its name."
            self.top.wrong("The text does not say what it is.", hint)
            return Head("test", "")
        (kind,) = kinds
        return Head(kind, parts[HEADS[kind]].text().strip(), parts["environment"].text())

    def _settings(self, spot: Spot) -> Settings:
        parts = spot.parts(LIMITS.values())
        given = {name: parts[words].text() for name, words in LIMITS.items() if parts[words].there}
        raw = given | {"inherits": [name for name in LIMITS if name not in given]}
        return _tried(spot, lambda: Settings.read(raw), Settings())

    # -- steps -----------------------------------------------------------------------------------

    def _step(self, spot: Spot, depth: int) -> None:
        parts = spot.parts(STEP)
        action = parts["do"].text()
        if action not in ACTIONS:
            hint = close_to(action, {name: name for name in ACTIONS})
            spot.wrong(f"There is no action “{action}”.", hint)
        given_with = dict(parts["with"].entries())
        inputs = {name: part.text() for name, part in given_with.items()}
        given = {
            "action": action,
            "inputs": inputs,
            "depth": min(depth, DEEPEST),
            "enabled": parts["off"].text() not in ("yes", "true"),
            "flow": self._id("flow", parts["flow"], self.known.flows),
            "element": self._id("element", parts["element"], self.labels),
            "onto": self._id("element", parts["onto"], self.labels),
            "title": parts["title"].text(),
            "comment": parts["comment"].text(),
            "page": parts["page"].text(),
            "limit": parts["seconds"].text() or None,
            "on_failure": parts["on failure"].text() or None,
            "retries": parts["retries"].text() or None,
            "pictures": parts["pictures"].text() or None,
        }
        step = _tried(spot, lambda: Step.read(given), Step("", action, inputs=inputs))
        self.steps.append(step)
        self.lines.append(spot.line)
        if action in ACTIONS:
            where = parts["with"] if parts["with"].there else spot
            _tried(where, lambda: check_inputs(action_of(action), inputs), None)
            for name, part in given_with.items():
                _tried(part, partial(_check_places, inputs[name]), None)
        inside = parts["steps"].items()
        if inside and action in ACTIONS and not is_open(step):
            parts["steps"].wrong(f"Nothing can be inside “{action}”.")
        for inner in inside:
            self._step(inner, depth + 1)

    def _id(self, what: str, spot: Spot, known: Mapping[str, str]) -> str:
        name = spot.text()
        if not name:
            return ""
        found = id_of(name, known)
        if found is None:
            spot.wrong(f"There is no {what} “{name}”.", close_to(name, known))
        return found or ""


def _labels(spot: Spot) -> tuple[str, ...]:
    return _tried(spot, lambda: read_labels(spot.texts()), ())


def _check_places(template: str) -> None:
    places(template)


def _columns(spot: Spot) -> tuple[tuple[str, ...], dict[str, Trait]]:
    """Return the columns: a list of names, or names with what each holds."""
    if not isinstance(spot.node, yaml.MappingNode):
        return spot.texts(), {}
    traits: dict[str, Trait] = {}
    for name, part in spot.entries():
        told = part.parts(("holds", "role", "choices"))
        raw = {
            "type": told["holds"].text("text"),
            "role": told["role"].text("input"),
            "choices": told["choices"].texts(),
        }
        traits[name] = _tried(part, partial(Trait.read, raw), PLAIN)
    plain = {name: trait for name, trait in traits.items() if trait != PLAIN}
    return tuple(traits), plain


def _rows(table: Mapping[str, Spot], columns: Sequence[str]) -> tuple[Row, ...]:
    marks = {mark: _numbers(table[mark]) for mark in ("ticked", "designed")}
    found = []
    for number, spot in enumerate(table["rows"].items(), 1):
        values = spot.texts()
        if len(values) > len(columns):
            spot.wrong(f"The row has {len(values)} values for {len(columns)} columns.")
        given = dict(zip(columns, (*values, *[""] * len(columns)), strict=False))
        told = {mark: number in numbers for mark, numbers in marks.items()}
        found.append(Row("", given, **told))
    return tuple(found)


def _numbers(spot: Spot) -> set[int]:
    found = set()
    for item in spot.items():
        if item.text().isdigit():
            found.add(int(item.text()))
        else:
            item.wrong("The number of a row is wanted here.")
    return found


def _taken(spot: Spot) -> Taken | None:
    parts = spot.parts(("name", "holds", "default"))
    raw = {
        "name": parts["name"].text(),
        "kind": parts["holds"].text("text"),
        "default": parts["default"].text(),
    }
    return _tried(spot, lambda: Taken.read(raw), None)


def _element(spot: Spot, page: str) -> Element | None:
    parts = spot.parts(("id", "name", "page", "kind", "clues", "spare", "seen", "lookalikes"))
    raw = {
        "id": parts["id"].text(),
        "name": parts["name"].text(),
        "page": parts["page"].text(page),
        "kind": parts["kind"].text(),
        "seen": parts["seen"].mapping(),
        "lookalikes": [item.mapping() for item in parts["lookalikes"].items()],
    }
    try:
        element = _tried(spot, lambda: Element.read(raw), None)
    except (TypeError, ValueError, AttributeError):
        parts["seen"].wrong("What is remembered of the element can not be read.")
        return None
    if element is None:
        return None
    clues, spare = (_clues(parts[name]) for name in ("clues", "spare"))
    if not clues:
        spot.wrong(f"“{element.name}” has no clue to be found by.")
    return replace(element, clues=clues, spare=spare)


def _clues(spot: Spot) -> tuple[Clue, ...]:
    found = []
    for item in spot.items():
        parts = item.parts(("fact", "loose", *OPERATORS))
        used = [name for name in OPERATORS if parts[name].node is not None]
        if len(used) != 1:
            item.wrong("A clue compares in one way.", "Write for example {fact: label, is: Piece}.")
            continue
        raw = {
            "fact": parts["fact"].text(),
            "operator": used[0],
            "value": parts[used[0]].text(),
            "loose": parts["loose"].text() in ("yes", "true"),
        }
        clue = _tried(item, partial(Clue.read, raw), None)
        if clue:
            found.append(clue)
    return tuple(found)
