"""Writing the script: elements, rows, flows as functions, the story as a test."""

from __future__ import annotations

import pprint
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Facts
from lantern.core.engine.attempt import Flow
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.code import signature
from lantern.core.steps.constants import is_business
from lantern.core.steps.defaults import Effective, effective
from lantern.core.steps.model import Document, Step, Taken
from lantern.core.steps.sentences import sentence
from lantern.core.steps.tree import Node, tree
from lantern.core.values.sources import SOURCES
from lantern.core.values.templates import places
from lantern.exchange.script.parts import CONVERT, HEAD, HIDDEN, runtime, things
from lantern.exchange.script.values import expression
from lantern.exchange.script.words import identifier, one_line, quoted, unique

ASKING = frozenset(("if", "else if", "while", "repeat"))
"""Blocks that ask something of the page or of values."""


@dataclass(frozen=True)
class Source:
    """What a script is written from."""

    name: str
    document: Document
    elements: Mapping[str, Element]
    flows: Mapping[str, Flow]
    base: str
    variables: Mapping[str, str] = field(default_factory=dict)


def write(source: Source) -> str:
    """Return the script."""
    return _Writer(source).script()


def secrets_of(documents: Iterable[Document]) -> list[str]:
    """Return the names of the secrets that documents use."""
    templates = [v for one in documents for step in one.steps for v in step.inputs.values()]
    used = {name for text in templates for source, name in places(text) if SOURCES[source].hidden}
    return sorted(used)


class _Writer:
    def __init__(self, source: Source) -> None:
        self.source = source
        names = unique((key, one.name) for key, one in source.elements.items())
        self.things = {key: name.upper() for key, name in names.items()}
        self.functions = unique((key, f"do {flow.name}") for key, flow in source.flows.items())

    def script(self) -> str:
        source = self.source
        documents = [source.document, *(flow.document for flow in source.flows.values())]
        secrets = secrets_of(documents)
        rstr = any(seen.attributes.get("pattern") for seen in self._fields())
        head = HEAD.format(
            name=quoted(source.name),
            base=source.base,
            shown_base=quoted(source.base),
            secrets="".join(f"{name.upper()}=… " for name in secrets),
            file=f"test_{identifier(source.name)}.py",
            limit=source.document.settings.limit,
            listens=any(step.action == "quiet" for one in documents for step in one.steps),
            more=" rstr" if rstr else "",
            rstr="from rstr import Rstr\n" if rstr else "",
            env=pprint.pformat(dict(source.variables)),
        )
        text = [head]
        if secrets:
            text.append(HIDDEN)
        if any(flow.document.code for flow in source.flows.values()):
            text.append(CONVERT)
        body = "\n\n" + self._rows() + self._test()
        flows = "".join(f"\n\n{self._function(key, flow)}" for key, flow in source.flows.items())
        elements = things() + self._elements()
        rest = runtime(makes="fits(" in body + flows or "made(" in body + flows)
        return "".join([*text, elements, flows, body, "\n\n", rest])

    def _fields(self) -> list[Facts]:
        return [one.seen for one in self.source.elements.values() if one.seen]

    def _elements(self) -> str:
        lines = []
        for key, element in self.source.elements.items():
            clues = "".join(f"{_clue(clue)}, " for clue in element.clues)
            tag = f", {element.seen.tag!r}" if element.seen else ""
            thing = f"Thing({element.name!r}, {element.kind!r}, ({clues.rstrip()}){tag})"
            lines.append(f"{self.things[key]} = {thing}\n")
        return "\n\n" + "".join(lines)

    def _thing(self, key: str) -> str:
        """Return the expression for an element, with what its clues take from the row."""
        if key not in self.things:
            return "None"
        values = [one.value for one in self.source.elements[key].clues if "${" in one.value]
        given = ", ".join(map(expression, values))
        return self.things[key] + (f".filled({given})" if given else "")

    def _rows(self) -> str:
        rows = [dict(row.values) for row in self.source.document.rows]
        if not rows:
            return ""
        listed = "".join(f"    {row!r},\n" for row in rows)
        return f"ROWS = [\n{listed}]\n\n\n"

    def _test(self) -> str:
        source = self.source
        rows = bool(source.document.rows)
        mark = (
            '@pytest.mark.parametrize("row", ROWS, ids=range(1, len(ROWS) + 1))\n' if rows else ""
        )
        argument = "page, row" if rows else "page"
        doc = quoted(source.name)
        head = f'{mark}def test_{identifier(source.name)}({argument}):\n    """{doc}."""\n'
        kept = "" if rows else "    row = {}\n"
        body = self._body(source.document)
        flows = "".join(self._body(flow.document) for flow in source.flows.values())
        end = "    page.all_went_well()\n" if "page.go_on()" in body + flows else ""
        return head + kept + "    kept = {}\n" + body + end

    def _function(self, key: str, flow: Flow) -> str:
        if flow.document.code:
            return self._coded(key, flow)
        takes = "".join(f", {one.name}=None" for one in flow.document.takes)
        given = ", ".join(f"{one.name!r}: {_given(one)}" for one in flow.document.takes)
        gives = ", ".join(f"{name!r}: kept[{name!r}]" for name in flow.document.gives)
        doc = quoted(flow.name)
        return (
            f'def {self.functions[key]}(page{takes}):\n    """{doc}."""\n'
            f"    given, kept = {{{given}}}, {{}}\n"
            f"{self._body(flow.document)}    return {{{gives}}}\n"
        )

    def _coded(self, key: str, flow: Flow) -> str:
        """Return a flow in Python: its source, and a function that calls it with texts."""
        offers = signature(flow.document.code)
        takes = "".join(f", {one.name}=None" for one in offers.takes)
        given = ", ".join(
            f"{one.name}=as_{kind}({_given(one)})"
            for one, kind in zip(offers.takes, offers.types, strict=True)
        )
        doc = quoted(flow.name)
        return (
            f"{flow.document.code.rstrip()}\n\n\n"
            f'def {self.functions[key]}(page{takes}):\n    """{doc}."""\n'
            f"    gave = {offers.function}({given})\n"
            f'    gave = gave if isinstance(gave, dict) else {{"result": gave}}\n'
            f"    return {{name: as_text(value) for name, value in gave.items()}}\n"
        )

    def _body(self, document: Document) -> str:
        nodes = tree(document.steps)
        last = [node for node in nodes if node.step.action == "always" and node.step.enabled]
        first = [node for node in nodes if node not in last]
        if not last:
            return "".join(self._lines(first, 1))
        return (
            "    try:\n"
            + "".join(self._lines(first, 2))
            + "    finally:\n"
            + "".join(line for node in last for line in self._lines(node.inside, 2, (node.step,)))
        )

    # -- sentences -------------------------------------------------------------------------------

    def _lines(self, nodes: Sequence[Node], depth: int, blocks: tuple[Step, ...] = ()) -> list[str]:
        """Return the lines of steps inside `blocks`, the innermost first.

        A block without anything to do in it passes.
        """
        lines: list[str] = []
        page = ""
        for chain in _chains(nodes):
            inner = depth
            if any(self._goes_on(node.step, blocks) for node in chain):
                lines.append(f"{'    ' * depth}with page.as_far_as_told():\n")
                inner += 1
            for node in chain:
                if node.step.page and node.step.page != page:
                    page = node.step.page
                    lines.append(f"{'    ' * inner}# {one_line(page)}\n")
                lines += self._node(node, inner, blocks)
        if not any(line.strip() and not line.strip().startswith("#") for line in lines):
            lines.append(f"{'    ' * depth}pass\n")
        return lines

    def _goes_on(self, step: Step, blocks: tuple[Step, ...]) -> bool:
        """Return whether a block asks something and the row goes on where that can not be told."""
        asks = step.enabled and ACTIONS[step.action].block in ASKING
        held = effective(step, blocks, self.source.document.settings)
        return asks and held.on_failure == "go on"

    def _node(self, node: Node, depth: int, blocks: tuple[Step, ...]) -> list[str]:
        step, indent = node.step, "    " * depth
        if not step.enabled:
            return [f"{indent}# switched off: {one_line(self._sentence(step))}\n"]
        note = [f"{indent}# {one_line(step.title)}\n"] if step.title else []
        block = ACTIONS[step.action].block
        if block in ("group", "always"):
            name = step.inputs.get("name", "")
            inside = self._lines(node.inside, depth, (step, *blocks))
            return [*note, f"{indent}# {one_line(name)}\n", *inside]
        if not block:
            held = effective(step, blocks, self.source.document.settings)
            call = self._call(step, held)
            if held.on_failure == "stop":
                return [*note, f"{indent}{call}\n"]
            guard = f"with page.{identifier(held.on_failure)}():"
            return [*note, f"{indent}{guard}\n", f"{indent}    {call}\n"]
        head = self._block(step, block, blocks)
        if block == "flow":
            return [*note, f"{indent}{head}\n"]
        inside = self._lines(node.inside, depth + 1, (step, *blocks))
        return [*note, f"{indent}{head}\n", *inside]

    def _sentence(self, step: Step) -> str:
        names = {key: flow.name for key, flow in self.source.flows.items()}
        return sentence(step, self.source.elements, flows=names)

    def _arguments(self, step: Step) -> list[str]:
        action = ACTIONS[step.action]
        found = []
        if action.kinds is not None:
            found.append(self._thing(step.element))
        if action.onto:
            found.append(self._thing(step.onto))
        for entry in action.inputs:
            if entry.name in step.inputs:
                seen = self._field_of(step, entry.name)
                found.append(expression(step.inputs[entry.name], seen))
        return found

    def _field_of(self, step: Step, name: str) -> Facts | None:
        element = self.source.elements.get(step.element) if is_business(step, name) else None
        return element.seen if element else None

    def _call(self, step: Step, held: Effective) -> str:
        arguments = self._arguments(step)
        if step.action == "keep" or (step.action == "page script" and step.inputs.get("name")):
            arguments.append("kept")
        return f"{self._on(held)}.{identifier(step.action).strip('_')}({', '.join(arguments)})"

    def _on(self, held: Effective) -> str:
        """Return the page as it waits, and tries again, for a sentence."""
        usual = self.source.document.settings.limit
        page = "page" if held.limit == usual else f"page.within({held.limit:g})"
        return f"{page}.trying({held.retries} + 1)" if held.retries else page

    def _block(self, step: Step, block: str, blocks: tuple[Step, ...]) -> str:
        arguments = ", ".join(self._arguments(step))
        held = effective(step, blocks, self.source.document.settings)
        page = self._on(held)

        def asked(question: str) -> str:
            if held.on_failure == "stop":
                return question
            return f"page.asked({identifier(held.on_failure)!r}, lambda: {question})"

        if block == "flow":
            given = ", ".join(f"{name}={expression(v)}" for name, v in step.inputs.items())
            called = self.functions.get(step.flow, "unknown_flow")
            return f"kept.update({called}(page{', ' * bool(given)}{given}))"
        if block in ("if", "else if"):
            word = "if" if block == "if" else "elif"
            if "value" in step.action:
                value, comparison, expected = self._arguments(step)
                return f"{word} {asked(f'compare({value}, {comparison}, {expected})')}:"
            return f"{word} {asked(f'{page}.holds({arguments})')}:"
        if block == "else":
            return "else:"
        if block == "try":
            return "with page.may_fail():"
        if block == "while":
            *holds, most = self._arguments(step)
            condition = asked(f"{page}.holds({', '.join(holds)})")
            return f"for each in rounds(lambda: {condition}, int({most})):"
        if step.action == "repeat rows":
            return f"for each in {asked(f'{page}.rows({arguments})')}:"
        return f"for each in {asked(f'times({arguments})')}:"


def _chains(nodes: Sequence[Node]) -> list[list[Node]]:
    """Return nodes with each condition and its alternatives together."""
    found: list[list[Node]] = []
    for node in nodes:
        if ACTIONS[node.step.action].block in ("else if", "else") and found:
            found[-1].append(node)
        else:
            found.append([node])
    return found


def _given(taken: Taken) -> str:
    """Return the expression for an input of a flow: as it is given, or as it is without."""
    return f"{expression(taken.default)} if {taken.name} is None else {taken.name}"


def _clue(clue: Clue) -> str:
    """Return a clue; one whose value comes from the row has none until it is filled in."""
    value = None if "${" in clue.value else clue.value
    return f"Clue({clue.fact!r}, {clue.operator!r}, {value!r}{', True' * clue.loose})"
