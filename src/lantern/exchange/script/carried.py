"""Code of the core that scripts carry along word for word, so that it means the same there.

A script runs on its own, without Lantern. What decides there whether a test passes (how values
are compared, how a table is read, what is made up) is not written a second time: it is taken out
of the modules that Lantern itself plays with.
"""

from __future__ import annotations

import ast
import inspect
import re
from types import ModuleType
from typing import TypeAlias

from lantern.core.data import table
from lantern.core.elements import clues, facts, kinds
from lantern.core.steps import numbers, properties, tables
from lantern.core.steps.actions import navigating, pressing
from lantern.core.values import fitting, made, templates

Parts: TypeAlias = tuple[tuple[ModuleType, str], ...]
CLUES: Parts = ((clues, "Clue"),)
"""What the elements of a script are made of."""
MEANING: Parts = (
    (facts, "MOST_OPTIONS LONGEST _NUMBERS tidy numbers_open Box CLASS_WORD CELL OWN_FACTS"),
    (facts, "ATTRIBUTE_OF Facts _view"),
    (kinds, "_TEXTUAL_TYPES Kind _kind KINDS KIN candidates_of _BY_ROLE _BY_TYPE kind_of"),
    (clues, "_EDGES _GAPS loosened OPERATORS POSITION _PLACE _SIDES placed _within matching"),
    (clues, "_without_wrappers _wraps"),
    (numbers, "first_number"),
    (templates, "propose_name"),
    (tables, "Table _cells _sum _order _rows_with _cell ASPECTS aspect"),
    (properties, "COMPARISONS compare"),
    (table, "REFUSED"),
    (navigating, "same_title"),
    (pressing, "_SHARES place_in"),
)
"""What every script needs, in an order in which Python can read it."""
MAKING: Parts = (
    (made, "_AWAY _LETTERS LONGEST_FORM _integer _number _pick _text _months_on _date _uuid"),
    (fitting, "MOST_TRIES _WORDS _MOST_LETTERS MOST_LETTERS _day _READERS Limits fitting _drawn"),
    (fitting, "_of_pattern"),
)
"""What scripts need in which values are made up."""
LEFT_OUT = {
    "Facts": {"as_json", "masked", "brief"},
    "Box": {"shares"},
    "Clue": {"read", "as_json", "sentence"},
    "Limits": {"known"},
}
"""Methods of classes that scripts have no use for."""


def _names(node: ast.stmt) -> list[str]:
    if isinstance(node, ast.FunctionDef | ast.ClassDef):
        return [node.name]
    targets = node.targets if isinstance(node, ast.Assign) else [getattr(node, "target", None)]
    return [one.id for one in targets if isinstance(one, ast.Name)]


def _start(node: ast.stmt) -> int:
    decorators: list[ast.expr] = getattr(node, "decorator_list", [])
    return min([node.lineno, *(one.lineno for one in decorators)])


def _lines_of(node: ast.stmt, lines: list[str]) -> str:
    """Return the source of a statement, of a class without the methods that are left out."""
    kept = dict(enumerate(lines[_start(node) - 1 : node.end_lineno], _start(node)))
    for inner in getattr(node, "body", []) if isinstance(node, ast.ClassDef) else []:
        if LEFT_OUT.get(node.name, set()) & set(_names(inner)):  # type: ignore[attr-defined]
            for number in range(_start(inner), (inner.end_lineno or 0) + 1):
                kept.pop(number)
    return re.sub(r"\n{3,}", "\n\n", "\n".join(kept.values())).rstrip()


def source_of(module: ModuleType, names: str) -> str:
    """Return the source of functions, classes and constants of a module, in the order of names.

    Raises KeyError for a name that the module does not define.
    """
    text = inspect.getsource(module)
    found: dict[str, str] = {}
    for node in ast.parse(text).body:
        found |= dict.fromkeys(_names(node), _lines_of(node, text.splitlines()))
    return "\n\n\n".join(found[name] for name in names.split())


def carried(parts: Parts) -> str:
    """Return the source of all parts."""
    return "\n\n\n".join(source_of(module, names) for module, names in parts)
