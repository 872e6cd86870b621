"""Flows: made from sentences of a test, put back into it, and found again elsewhere."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from lantern.core.elements.clues import Element
from lantern.core.problems import BadInput
from lantern.core.steps.constants import constant_in, constants
from lantern.core.steps.edits.placing import together_from
from lantern.core.steps.model import DEEPEST, Document, Step, Taken
from lantern.core.steps.tree import branch
from lantern.core.values.sources import SOURCES
from lantern.core.values.templates import literal, places

NewId = Callable[[], str]
FROM_OUTSIDE = ("row", "kept", "input", "each")
"""Sources whose values a flow does not see: it has to be given them."""
_ONE_NAME = re.compile(r"\$\{input\.([A-Za-z_][A-Za-z0-9_]*)\}")


@dataclass(frozen=True)
class Given:
    """A proposed input: its name, and the template that the sentences hold now.

    A constant or a secret is proposed; what comes from outside is needed.
    """

    name: str
    template: str
    needed: bool


@dataclass(frozen=True)
class Cut:
    """What a flow made of some sentences would take and give."""

    steps: tuple[Step, ...]
    takes: tuple[Given, ...]
    gives: tuple[str, ...]


@dataclass(frozen=True)
class Match:
    """A place where the steps of a flow stand: their ids, and what the flow would be given."""

    steps: tuple[str, ...]
    given: Mapping[str, str]


def cut(document: Document, ids: Sequence[str], elements: Mapping[str, Element]) -> Cut:
    """Return what a flow of these sentences would be; blocks come with all that is in them.

    Raises BadInput when the sentences do not stand together or are not as deep as one another.
    """
    meant = {inner for step_id in ids for inner in branch(document.steps, step_id)}
    chosen = tuple(step for step in document.steps if step.id in meant)
    if not chosen:
        raise BadInput("Say which sentences are meant.", where="steps")
    place = together_from(document, chosen)
    depth = chosen[0].depth
    if any(step.depth < depth for step in chosen):
        raise BadInput("Choose whole blocks.", where=chosen[0].id)
    takes = [*_needed(chosen), *_proposed(chosen, elements), *_secrets(chosen)]
    later = document.steps[place + len(chosen) :]
    kept = dict.fromkeys(step.inputs.get("name", "") for step in chosen if step.action == "keep")
    gives = tuple(name for name in kept if name and _is_used(later, "kept", name))
    level = tuple(replace(step, depth=step.depth - depth) for step in chosen)
    return Cut(level, tuple(_told_apart(takes)), gives)


def _needed(steps: Sequence[Step]) -> list[Given]:
    kept = {step.inputs.get("name", "") for step in steps if step.action == "keep"}
    found = {}
    for step in steps:
        for template in step.inputs.values():
            for source, name in places(template):
                if source in FROM_OUTSIDE and not (source == "kept" and name in kept):
                    found[source, name] = Given(name, f"${{{source}.{name}}}", needed=True)
    return list(found.values())


def _proposed(steps: Sequence[Step], elements: Mapping[str, Element]) -> list[Given]:
    return [
        Given(one.uses[0].proposed, literal(one.value), needed=False)
        for one in constants(steps, elements)
    ]


def _secrets(steps: Sequence[Step]) -> list[Given]:
    """Return secrets as inputs: a flow sees them, but callers may want to give another."""
    found = dict.fromkeys(
        name
        for step in steps
        for template in step.inputs.values()
        for source, name in places(template)
        if SOURCES[source].hidden
    )
    return [Given(name, f"${{secret.{name}}}", needed=False) for name in found]


def _told_apart(takes: Sequence[Given]) -> list[Given]:
    """Return the inputs with names of which no two are the same."""
    names: set[str] = set()
    found = []
    for one in takes:
        name, number = one.name, 2
        while name in names:
            name, number = f"{one.name}_{number}", number + 1
        names.add(name)
        found.append(replace(one, name=name))
    return found


def _is_used(steps: Sequence[Step], source: str, name: str) -> bool:
    return any(
        (source, name) in places(template) for step in steps for template in step.inputs.values()
    )


def make(part: Cut, takes: Mapping[str, str], gives: Sequence[str], new_id: NewId) -> Document:
    """Return the flow of a cut. `takes` are templates of the cut by the names of the inputs.

    Raises BadInput when something that is needed from outside is not among the inputs.
    """
    for one in part.takes:
        if one.needed and one.template not in takes.values():
            raise BadInput(
                f"The flow does not see {one.template}: it needs an input for it.", where=one.name
            )
    steps = []
    for step in part.steps:
        inputs = dict(step.inputs)
        for name, template in takes.items():
            inputs = {key: _with_input(value, template, name) for key, value in inputs.items()}
        steps.append(replace(step, id=new_id(), inputs=inputs))
    taken = tuple(Taken(name, default=_default(template)) for name, template in takes.items())
    return Document(tuple(steps), takes=taken, gives=tuple(gives))


def _default(template: str) -> str:
    """Return what an input has where a caller gives none: what a flow can see by itself."""
    used = places(template)
    secret = bool(used) and all(SOURCES[source].hidden for source, _ in used)
    return template if secret or constant_in(template) is not None else ""


def _with_input(value: str, template: str, name: str) -> str:
    if value == template:
        return f"${{input.{name}}}"
    if constant_in(template) is not None:
        return value
    return value.replace(template, f"${{input.{name}}}")


def called(
    document: Document, ids: Sequence[str], flow: str, given: Mapping[str, str], new_id: NewId
) -> Document:
    """Return the document with steps that stand together replaced by one call of a flow."""
    chosen = [step for step in document.steps if step.id in ids]
    place = together_from(document, chosen)
    call = Step(new_id(), "flow", inputs=dict(given), depth=chosen[0].depth, flow=flow)
    rest = document.steps[place + len(chosen) :]
    return replace(document, steps=(*document.steps[:place], call, *rest))


def matches(document: Document, flow: Document) -> list[Match]:
    """Return every place where the steps of a flow stand, with what it would be given there."""
    found: list[Match] = []
    place, size = 0, len(flow.steps)
    while size and place + size <= len(document.steps):
        window = document.steps[place : place + size]
        given = _given(window, flow)
        if given is None:
            place += 1
            continue
        found.append(Match(tuple(step.id for step in window), given))
        place += size
    return found


def _kind(step: Step, base: int) -> tuple[object, ...]:
    depth = step.depth - base
    return step.action, step.element, step.onto, step.flow, step.enabled, depth


def _given(window: Sequence[Step], flow: Document) -> dict[str, str] | None:
    given: dict[str, str] = {}
    base = window[0].depth
    for step, wanted in zip(window, flow.steps, strict=True):
        same = _kind(step, base) == _kind(wanted, 0)
        if not same or set(step.inputs) != set(wanted.inputs):
            return None
        for name, template in wanted.inputs.items():
            taken = _ONE_NAME.fullmatch(template)
            value = step.inputs[name]
            if taken and given.setdefault(taken.group(1), value) != value:
                return None
            if not taken and value != template:
                return None
    return given


def put_back(document: Document, step_id: str, flow: Document, new_id: NewId) -> Document:
    """Return the document with the call of a flow replaced by the flow's own steps.

    Raises BadInput when what a call gives can not stand where the flow uses it.
    """
    call = document.step(step_id)
    given = {one.name: call.inputs.get(one.name) or one.default for one in flow.takes}
    steps = []
    for step in flow.steps:
        inputs = {key: _without_inputs(value, given) for key, value in step.inputs.items()}
        depth = min(step.depth + call.depth, DEEPEST)
        steps.append(replace(step, id=new_id(), inputs=inputs, depth=depth))
    place = document.steps.index(call)
    rest = document.steps[place + 1 :]
    return replace(document, steps=(*document.steps[:place], *steps, *rest))


def _without_inputs(value: str, given: Mapping[str, str]) -> str:
    return _ONE_NAME.sub(lambda place: given.get(place.group(1), place.group()), value)


def with_inputs(
    document: Document, flow: str, was: Mapping[str, str], names: Sequence[str]
) -> Document:
    """Return the document with its calls of a flow fitted to the flow's inputs.

    `was` maps new names to old ones; what the flow does not take any more goes.
    """
    old = {before: after for after, before in was.items()}
    steps = tuple(
        replace(
            step,
            inputs={
                old.get(name, name): value
                for name, value in step.inputs.items()
                if old.get(name, name) in names
            },
        )
        if step.flow == flow
        else step
        for step in document.steps
    )
    return replace(document, steps=steps)


def loop_in(calls: Mapping[str, Sequence[str]], start: str) -> list[str]:
    """Return the flows of a loop that begins and ends at `start`; [] when there is none."""
    path = [start]

    def walk(at: str) -> bool:
        for called_one in calls.get(at, ()):
            if called_one == start:
                path.append(start)
                return True
            if called_one in path:
                continue
            path.append(called_one)
            if walk(called_one):
                return True
            path.pop()
        return False

    return path if walk(start) else []
