"""How a step reads: its sentence as parts, and as plain text."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import CELL
from lantern.core.steps.catalogue import action_of
from lantern.core.steps.model import Step
from lantern.core.steps.properties import PROPERTIES

PartKind = Literal["words", "element", "value", "flow"]
_PART = re.compile(r"\{(\w+)\}")
_ONLY_WITH = re.compile(r"\[([^\[\]]*\{(\w+)\}[^\[\]]*)\]")
"""Words of a template that are only said with the value among them."""


@dataclass(frozen=True)
class Part:
    """A piece of a sentence; `input` names the value, for an element `text` is its name."""

    kind: PartKind
    text: str
    input: str = ""


_PROPERTY_OF = "the {property} of {element} {comparison} {expected}"


def _is_plain_yes(step: Step) -> bool:
    """Tell whether "the shown of Price is yes" can read as "Price is shown"."""
    known = PROPERTIES.get(step.inputs.get("property", ""))
    yes = step.inputs.get("expected") == "yes"
    plain = step.inputs.get("comparison") in ("is", "is not")
    return bool(step.element and known and known.holds == "yes/no" and yes and plain)


_SAID_PLAINLY = frozenset("property comparison keys answer times most at right down".split())
"""Inputs whose values are said without quotes."""
NO_FLOWS: Mapping[str, str] = {}


def parts(
    step: Step, elements: Mapping[str, Element], flows: Mapping[str, str] = NO_FLOWS
) -> list[Part]:
    """Return the parts of a step's sentence in reading order; `flows` are names by id.

    Raises UnknownName for an action that does not exist.
    """
    template = action_of(step.action).template
    if _is_plain_yes(step):
        template = template.replace(_PROPERTY_OF, "{element} {comparison} {property}")
    if not step.inputs.get("name"):
        template = template.replace(", kept as {name}", "")
    template = _ONLY_WITH.sub(lambda found: found[1] if step.inputs.get(found[2]) else "", template)
    optional = {entry.name for entry in action_of(step.action).inputs if entry.optional}
    if not step.element:
        template = template.replace(" in {element}", "").replace(" of {element}", "")
    found: list[Part] = []
    for place, piece in enumerate(_PART.split(template)):
        if piece == "flow":
            found += _call_parts(step, flows)
        elif place % 2 == 0:
            if piece.strip():
                found.append(Part("words", piece.strip()))
        elif piece in ("element", "onto"):
            found += _element_parts(elements.get(getattr(step, piece)), piece)
        elif step.inputs.get(piece) or piece not in optional:
            found.append(Part("value", step.inputs.get(piece, ""), piece))
    return found


def _call_parts(step: Step, flows: Mapping[str, str]) -> list[Part]:
    """Return the name of the flow that is called, and what it is given."""
    found = [Part("flow", flows.get(step.flow, "(no flow)"), "flow")]
    for place, (name, value) in enumerate(step.inputs.items()):
        found.append(Part("words", f"{', ' if place else 'with '}{name.replace('_', ' ')}".strip()))
        found.append(Part("value", value, name))
    return found


def _element_parts(element: Element | None, which: str) -> list[Part]:
    """Return the name of an element, with the row in which it is if that is a clue of it."""
    if element is None:
        return [Part("element", "(no element)", which)]
    found = [Part("element", element.name, which)]
    for clue in element.clues:
        if clue.fact.startswith(CELL):
            found.append(
                Part("words", f"in the row where {clue.fact.removeprefix(CELL)} {clue.operator}")
            )
            found.append(Part("words", f"“{clue.value}”"))
        elif clue.fact == "row":
            found.append(Part("words", f"in the row of “{clue.value}”"))
    return found


def sentence(
    step: Step,
    elements: Mapping[str, Element],
    value: Callable[[str], str] = str,
    flows: Mapping[str, str] = NO_FLOWS,
) -> str:
    """Return the sentence as plain text; `value` shows a value template (for example filled)."""
    words = []
    for part in parts(step, elements, flows):
        if part.kind == "value":
            plain = part.input in _SAID_PLAINLY
            words.append(part.text if plain else f"“{value(part.text)}”")
        else:
            words.append(part.text)
    return " ".join(words)


@dataclass(frozen=True)
class Scene:
    """Consecutive steps on one page of the application."""

    page: str
    steps: tuple[str, ...]


def scenes(steps: Sequence[Step]) -> list[Scene]:
    """Group steps into scenes by the page they act on.

    A step whose page is not known before it is done, such as opening an address, belongs to the
    scene that it leads to; other steps without a page stay in the scene they are in.
    """
    found: list[tuple[str, list[str]]] = []
    waiting: list[str] = []
    for step in steps:
        if step.action == "open" or not (step.page or found):
            waiting.append(step.id)
            continue
        page = step.page or found[-1][0]
        if waiting or not found or found[-1][0] != page:
            found.append((page, []))
        found[-1][1].extend([*waiting, step.id])
        waiting = []
    if waiting:
        found.append(("", waiting))
    return [Scene(short_title(page), tuple(ids)) for page, ids in found]


LONGEST_TITLE = 60
_QUERY = re.compile(r"^\w+://|[?&]\w+=|\b(?:select|where|order by)\b.{20}", re.IGNORECASE)


def short_title(page: str) -> str:
    """Return a page's title as people would say it: without a query, at most 60 letters."""
    query = _QUERY.search(page)
    said = page[: query.start()].rstrip(" :?&-–|") if query and query.start() else page
    if len(said) <= LONGEST_TITLE:
        return said
    return said[:LONGEST_TITLE].rsplit(" ", 1)[0].rstrip(" ,:;-") + "…"
