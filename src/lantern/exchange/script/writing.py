"""Writing the script: elements, rows, flows as functions, the story as a test."""

from __future__ import annotations

import keyword
import pprint
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from importlib.resources import files

from lantern.core.elements.clues import Element
from lantern.core.elements.kinds import KINDS
from lantern.core.engine.attempt import Flow
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.code import signature
from lantern.core.steps.defaults import Effective, effective
from lantern.core.steps.model import Document, Step
from lantern.core.steps.sentences import sentence
from lantern.core.steps.tree import Node, tree
from lantern.core.values.sources import SOURCES
from lantern.core.values.templates import places
from lantern.exchange.script.values import expression

HEAD = '''"""{name}: exported from Lantern, runs on its own.

    pip install pytest selenium
    BASE_URL={base} {secrets}pytest {file}

What is made up comes from SEED, which a failure shows: give it again, and it is the same.
"""

import copy
import datetime
import json
import os
import random
import re
import time
import uuid
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    NoAlertPresentException,
    StaleElementReferenceException,
    WebDriverException,
)
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

BASE = os.environ.get("BASE_URL", {base!r})
LIMIT = {limit:g}
"""Seconds that a sentence waits at the most."""
ENV = {env}
SEED = os.environ.get("SEED") or uuid.uuid4().hex[:8]
'''
_HIDDEN = '''

def secret(name):
    """A secret, from the environment variable of its name in capitals."""
    return os.environ[name.upper()]
'''
MADE = """

def made_integer(low, high):
    return str(random.randint(low, high))


def made_number(low, high, places=2):
    return f"{random.uniform(low, high):.{places}f}"


def made_pick(*values):
    return str(random.choice(values))


def made_text(pattern):
    signs = {"?": "abcdefghijklmnopqrstuvwxyz", "#": "0123456789"}
    return "".join(random.choice(signs.get(sign, sign)) for sign in pattern)


def made_date(away="+0d", shape="%Y-%m-%d"):
    count, unit = int(away[:-1]), away[-1]
    days = {"d": 1, "w": 7, "m": 30, "y": 365}[unit] * count
    return (datetime.date.today() + datetime.timedelta(days=days)).strftime(shape)


def made_uuid():
    return str(uuid.uuid4())
"""
CONVERT = """

as_str, as_float, as_int, as_date = str, float, int, datetime.date.fromisoformat


def as_bool(text):
    return text.strip().lower() in ("yes", "true", "1")


def as_text(value):
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None else str(value)
"""


@dataclass(frozen=True)
class Source:
    """What a script is written from."""

    name: str
    document: Document
    elements: Mapping[str, Element]
    flows: Mapping[str, Flow]
    base: str
    variables: Mapping[str, str] = field(default_factory=dict)


def identifier(text: str) -> str:
    """Return a Python name made of any text."""
    name = re.sub(r"[^a-z0-9]+", "_", text.lower()).strip("_")[:60] or "unnamed"
    return f"_{name}" if name[0].isdigit() or keyword.iskeyword(name) else name


def _unique(names: Iterable[tuple[str, str]]) -> dict[str, str]:
    """Return a different Python name for each (key, text)."""
    found: dict[str, str] = {}
    for key, text in names:
        name, number = identifier(text), 2
        while name in found.values():
            name, number = f"{identifier(text)}_{number}", number + 1
        found[key] = name
    return found


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
        names = _unique((key, one.name) for key, one in source.elements.items())
        self.things = {key: name.upper() for key, name in names.items()}
        self.functions = _unique((key, f"do {flow.name}") for key, flow in source.flows.items())

    def script(self) -> str:
        source = self.source
        documents = [source.document, *(flow.document for flow in source.flows.values())]
        secrets = secrets_of(documents)
        head = HEAD.format(
            name=source.name.replace('"', "'").replace("\\", "/"),
            base=source.base,
            secrets="".join(f"{name.upper()}=… " for name in secrets),
            file=f"test_{identifier(source.name)}.py",
            limit=source.document.settings.limit,
            env=pprint.pformat(dict(source.variables)),
        )
        text = [head]
        if secrets:
            text.append(_HIDDEN)
        if any(flow.document.code for flow in source.flows.values()):
            text.append(CONVERT)
        if "made_" in "".join(self._all_lines(documents)):
            text.append(MADE)
        body = "\n\n" + self._rows() + self._test()
        flows = "".join(f"\n\n{self._function(key, flow)}" for key, flow in source.flows.items())
        here = files("lantern.exchange.script")
        look = here.joinpath("look.js").read_text("utf-8").strip()
        runtime = here.joinpath("runtime.txt").read_text("utf-8").replace("@look@", look)
        thing_class, rest = self._runtime(runtime)
        return "".join([*text, thing_class, self._elements(), flows, body, "\n\n", rest])

    @staticmethod
    def _runtime(text: str) -> tuple[str, str]:
        """Return the class of things, which elements need first, and the rest of the runtime."""
        start, end = text.index("@dataclass"), text.index("OPERATORS")
        return "\n\n" + text[start:end].rstrip() + "\n", text[:start] + text[end:]

    def _all_lines(self, documents: Sequence[Document]) -> list[str]:
        return [line for one in documents for line in self._lines(tree(one.steps), 1)]

    def _elements(self) -> str:
        elements = self.source.elements
        kinds = dict.fromkeys(element.kind for element in elements.values())
        lines = [f"{identifier(kind).upper()}_CSS = {KINDS[kind].candidates!r}\n" for kind in kinds]
        for key, element in elements.items():
            clues = ", ".join(
                f"({c.fact!r}, {c.operator!r}, {c.value!r}, {c.loose})" for c in element.clues
            )
            css = f"{identifier(element.kind).upper()}_CSS"
            tag = f", {element.seen.tag!r}" if element.seen else ""
            lines.append(f"{self.things[key]} = Thing({element.name!r}, {css}, [{clues}]{tag})\n")
        return "\n\n" + "".join(lines)

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
        doc = source.name.replace('"', "'").replace("\\", "/")
        head = f'{mark}def test_{identifier(source.name)}({argument}):\n    """{doc}."""\n'
        kept = "" if rows else "    row = {}\n"
        body = self._body(source.document)
        flows = "".join(self._body(flow.document) for flow in source.flows.values())
        end = "    page.all_went_well()\n" if "page.go_on()" in body + flows else ""
        return head + kept + "    kept = {}\n" + body + end

    def _function(self, key: str, flow: Flow) -> str:
        if flow.document.code:
            return self._coded(key, flow)
        takes = "".join(f", {one.name}={expression(one.default)}" for one in flow.document.takes)
        given = ", ".join(f"{one.name!r}: {one.name}" for one in flow.document.takes)
        gives = ", ".join(f"{name!r}: kept[{name!r}]" for name in flow.document.gives)
        doc = flow.name.replace('"', "'").replace("\\", "/")
        return (
            f'def {self.functions[key]}(page{takes}):\n    """{doc}."""\n'
            f"    given, kept = {{{given}}}, {{}}\n"
            f"{self._body(flow.document)}    return {{{gives}}}\n"
        )

    def _coded(self, key: str, flow: Flow) -> str:
        """Return a flow in Python: its source, and a function that calls it with texts."""
        offers = signature(flow.document.code)
        takes = "".join(f", {one.name}={expression(one.default)}" for one in offers.takes)
        given = ", ".join(
            f"{one.name}=as_{kind}({one.name})"
            for one, kind in zip(offers.takes, offers.types, strict=True)
        )
        doc = flow.name.replace('"', "'").replace("\\", "/")
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
        for node in nodes:
            if node.step.page and node.step.page != page:
                page = node.step.page
                lines.append(f"{'    ' * depth}# {_one_line(page)}\n")
            lines += self._node(node, depth, blocks)
        if not any(line.strip() and not line.strip().startswith("#") for line in lines):
            lines.append(f"{'    ' * depth}pass\n")
        return lines

    def _node(self, node: Node, depth: int, blocks: tuple[Step, ...]) -> list[str]:
        step, indent = node.step, "    " * depth
        if not step.enabled:
            return [f"{indent}# switched off: {_one_line(self._sentence(step))}\n"]
        note = [f"{indent}# {_one_line(step.title)}\n"] if step.title else []
        block = ACTIONS[step.action].block
        if block in ("group", "always"):
            name = step.inputs.get("name", "")
            inside = self._lines(node.inside, depth, (step, *blocks))
            return [*note, f"{indent}# {_one_line(name)}\n", *inside]
        if not block:
            held = effective(step, blocks, self.source.document.settings)
            call = self._call(step, held)
            if held.on_failure == "stop":
                return [*note, f"{indent}{call}\n"]
            guard = f"with page.{identifier(held.on_failure)}():"
            return [*note, f"{indent}{guard}\n", f"{indent}    {call}\n"]
        head = self._block(step, block)
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
            found.append(self.things.get(step.element, "None"))
        if action.onto:
            found.append(self.things.get(step.onto, "None"))
        for entry in action.inputs:
            if entry.name in step.inputs:
                found.append(expression(step.inputs[entry.name]))
        return found

    def _call(self, step: Step, held: Effective) -> str:
        arguments = self._arguments(step)
        if step.action == "keep" or (step.action == "page script" and step.inputs.get("name")):
            arguments.append("kept")
        on = "page"
        if held.limit != self.source.document.settings.limit:
            on += f".within({held.limit:g})"
        if held.retries:
            on += f".trying({held.retries} + 1)"
        return f"{on}.{identifier(step.action).strip('_')}({', '.join(arguments)})"

    def _block(self, step: Step, block: str) -> str:
        arguments = ", ".join(self._arguments(step))
        if block == "flow":
            given = ", ".join(f"{name}={expression(v)}" for name, v in step.inputs.items())
            called = self.functions.get(step.flow, "unknown_flow")
            return f"kept.update({called}(page{', ' * bool(given)}{given}))"
        if block in ("if", "else if"):
            word = "if" if block == "if" else "elif"
            if "value" in step.action:
                value, comparison, expected = self._arguments(step)
                return f"{word} COMPARISONS[{comparison}](tidy({value}), tidy({expected})):"
            return f"{word} page.holds({arguments}):"
        if block == "else":
            return "else:"
        if block == "try":
            return "with page.may_fail():"
        if block == "while":
            *holds, most = self._arguments(step)
            condition = f"page.holds({', '.join(holds)})"
            return f"for each in rounds(lambda: {condition}, int({most})):"
        if step.action == "repeat rows":
            return f"for each in page.rows({arguments}):"
        return f'for each in ({{"number": str(n + 1)}} for n in range(int({arguments}))):'


def _one_line(text: str) -> str:
    return " ".join(text.split())
