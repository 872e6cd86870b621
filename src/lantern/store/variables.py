"""Variables of environments, renamed wherever they are used."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.elements import clues as core
from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.model import Step
from lantern.core.values.templates import check_name, renamed
from lantern.store import acts, documents, elements
from lantern.store.database import tell
from lantern.store.models import Environment, Test
from lantern.store.rows import unpacked

ENV = "env"


@dataclass(frozen=True)
class Uses:
    """A test or flow that uses a variable, with the numbers (from 1) of its sentences."""

    test: Test
    sentences: tuple[int, ...]


def _step_uses(step: Step, name: str) -> bool:
    return any(renamed(value, ENV, name, f"{name}_") != value for value in step.inputs.values())


def uses(session: Session, name: str) -> list[Uses]:
    """Return the tests and flows that use a variable, by name."""
    found = []
    for test in session.scalars(select(Test).order_by(Test.name)):
        steps = unpacked(test).steps
        numbers = tuple(n for n, step in enumerate(steps, 1) if _step_uses(step, name))
        if numbers:
            found.append(Uses(test, numbers))
    return found


def elements_with(session: Session, name: str) -> list[core.Element]:
    """Return the elements in whose clues a variable stands."""
    every = [core.Element.read(row.body) for row in elements.listed(session)]
    return [one for one in every if _renamed_element(one, name, f"{name}_") != one]


def _renamed_element(element: core.Element, old: str, new: str) -> core.Element:
    clues, spare = (
        tuple(replace(clue, value=renamed(clue.value, ENV, old, new)) for clue in part)
        for part in (element.clues, element.spare)
    )
    return replace(element, clues=clues, spare=spare)


def rename(session: Session, old: str, new: str, account_id: int | None) -> int:
    """Rename a variable in every environment, test, flow and element, all or none.

    Returns how many sentences changed. Raises UnknownName, or BadInput for the new name.
    """
    check_name(new, "variable")
    acts.begin(session, account_id, None, f"variable “{old}” is called “{new}”")
    places = session.scalars(select(Environment).with_for_update()).all()
    known = {name for one in places for name in one.variables}
    if old not in known:
        raise UnknownName("environment variable", old, known)
    if new in known or new == "base_url":
        raise BadInput(f"There is a variable named {new!r} already.", where=new)
    for one in places:
        one.variables = {new if name == old else name: v for name, v in one.variables.items()}
    count = 0
    for use in uses(session, old):
        test = documents.get(session, use.test.id, lock=True)
        document = unpacked(test)
        steps = tuple(
            replace(
                step,
                inputs={n: renamed(value, ENV, old, new) for n, value in step.inputs.items()},
            )
            for step in document.steps
        )
        documents.put(session, test, replace(document, steps=steps), "variable renamed", account_id)
        count += len(use.sentences)
    for element in elements_with(session, old):
        elements.save(session, _renamed_element(element, old, new))
        tell(session, "element", id=element.id)
    return count
