"""Flows written in Python: a function with typed inputs, and the values that it gives.

    def with_tax(price: float, rate: float = 0.19):
        \"\"\"Work the price with tax out.

        Gives: gross, tax
        \"\"\"
        tax = price * rate
        return {"gross": round(price + tax, 2), "tax": round(tax, 2)}

The last function whose name does not begin with an underscore is the one that is called.
"""

from __future__ import annotations

import ast
import re
from dataclasses import dataclass

from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.model import InputKind, Taken
from lantern.core.values.templates import check_name, literal

KINDS: dict[str, InputKind] = {
    "str": "text",
    "float": "number",
    "int": "number",
    "bool": "yes/no",
    "date": "date",
}
"""What an annotation says of an input."""
_GIVES = re.compile(r"^\s*Gives:\s*(.+)$", re.MULTILINE)
LONGEST = 100_000
BEGINNING = '''def work_out(text: str, count: int = 1):
    """Repeat a text.

    Gives: result
    """
    return {"result": " ".join([text] * count)}
'''
"""What a new one begins with."""


@dataclass(frozen=True)
class Signature:
    """What a source offers: its function, inputs and outputs, and the types of the inputs."""

    function: str
    takes: tuple[Taken, ...]
    gives: tuple[str, ...]
    types: tuple[str, ...]


def signature(source: str) -> Signature:
    """Return what a source offers; raises BadInput, with the line, for what is wrong."""
    if len(source) > LONGEST:
        raise BadInput(f"The code has more than {LONGEST} letters.", where="line 1")
    try:
        module = ast.parse(source)
    except (SyntaxError, ValueError) as error:
        line = getattr(error, "lineno", None) or 1
        what = getattr(error, "msg", None) or str(error)
        raise BadInput(f"The code can not be read: {what}.", where=f"line {line}") from error
    functions = [
        node
        for node in module.body
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_")
    ]
    if not functions:
        raise BadInput("There is no function in the code.", where="line 1", hint="Begin with def.")
    return _of(functions[-1])


def _of(function: ast.FunctionDef) -> Signature:
    arguments = function.args
    if arguments.vararg or arguments.kwarg or arguments.posonlyargs:
        raise BadInput(
            "The function takes inputs by their names alone.", where=f"line {function.lineno}"
        )
    named = [*arguments.args, *arguments.kwonlyargs]
    first = len(arguments.args) - len(arguments.defaults)
    defaults = [*[None] * first, *arguments.defaults, *arguments.kw_defaults]
    pairs = list(zip(named, defaults, strict=True))
    types = tuple(_type(argument) for argument, _ in pairs)
    takes = tuple(
        Taken(check_name(argument.arg, "input"), KINDS[kind], _default(default))
        for (argument, default), kind in zip(pairs, types, strict=True)
    )
    told = _GIVES.search(ast.get_docstring(function) or "")
    names = [name.strip(" .") for name in told[1].split(",")] if told else []
    gives = tuple(check_name(name, "output") for name in names if name)
    return Signature(function.name, takes, gives, types)


def _type(argument: ast.arg) -> str:
    written = ast.unparse(argument.annotation) if argument.annotation else "str"
    if written not in KINDS:
        raise UnknownName(
            f"type of the input {argument.arg}", written, KINDS, where=f"line {argument.lineno}"
        )
    return written


def _default(node: ast.expr | None) -> str:
    if node is None:
        return ""
    if not isinstance(node, ast.Constant):
        raise BadInput("A default is a plain value.", where=f"line {node.lineno}")
    if isinstance(node.value, bool):
        return "yes" if node.value else "no"
    return literal(str(node.value)) if node.value is not None else ""
