"""Tests, flows and tables as text, and a changed text put in the place of what there is."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.data.checking import check_sentence, known_names
from lantern.core.elements import clues as core
from lantern.core.problems import Conflict
from lantern.core.text.carrying import carried_over
from lantern.core.text.names import Known, labels
from lantern.core.text.nodes import Trouble
from lantern.core.text.reading import Read, read_document
from lantern.core.text.writing import Head, document_text
from lantern.store import acts, documents, elements, models, tables, tests, vault
from lantern.store.calls import FLOW, check_calls, load
from lantern.store.models import Environment, Test
from lantern.store.rows import unpacked


def known(session: Session) -> Known:
    """Return what everything is called that a text can speak of."""
    every = [core.Element.read(row.body) for row in elements.listed(session)]
    named: dict[str, dict[str, str]] = {"flow": {}, "table": {}}
    query = select(Test.id, Test.kind, Test.name).filter(Test.kind.in_(named))
    for key, kind, name in session.execute(query):
        named[kind][str(key)] = name
    return Known(labels(every), named["flow"], named["table"])


def text_of(
    session: Session, test: Test, *, with_elements: bool, names: Known | None = None
) -> str:
    """Return a test, flow or table as text, with the elements that it uses if asked."""
    document = unpacked(test)
    used: Sequence[core.Element] = ()
    if with_elements:
        by_id = elements.load(session, document.element_ids())
        used = sorted(by_id.values(), key=lambda one: (one.page, one.name))
    head = Head(test.kind, test.name, test.environment.name)
    return document_text(head, document, names or known(session), used)


@dataclass(frozen=True)
class Put:
    """What came of a text: the test, unless there is something wrong in it."""

    test: Test
    troubles: tuple[Trouble, ...] = ()


def put_text(
    session: Session, test_id: int, text: str, account_id: int | None, *, base: int, write: bool
) -> Put:
    """Hold a text against what makes sense, and with `write` put it in the place of a test.

    Nothing is changed when something is wrong. Raises BadInput for what is no YAML, Conflict when
    the test has changed since version `base`.
    """
    test = documents.get(session, test_id, lock=write)
    found = read_document(text, known(session))
    troubles = [*found.troubles, *_of_head(session, test, found)]
    if troubles:
        return Put(test, tuple(troubles))
    if not write:
        return Put(test, tuple(_of_values(session, test, found, text)))
    if test.version != base:
        raise Conflict(
            "The test was changed meanwhile.", hint="Look at the newest text and try once more."
        )
    acts.begin(session, account_id, test_id, "")
    for element in found.elements:
        put_element(session, element)
    put_read(session, test, found, account_id)
    return Put(test)


def _of_values(session: Session, test: Test, found: Read, text: str) -> Iterator[Trouble]:
    """Yield what is wrong with the values of sentences: none of it hinders anybody."""
    document = tables.filled(session, found.document)
    flows = load(session, document.flow_ids())
    gives = [name for flow in flows.values() for name in flow.document.gives]
    secrets = vault.names(session, test.environment_id)
    names = known_names(document, test.environment.variables, secrets, gives)
    if test.kind == FLOW:
        names.pop("row")  # they are those of whatever calls it
    things = elements.load(session, document.element_ids())
    things |= {one.id: one for one in found.elements if one.seen or one.id not in things}
    for place, step in enumerate(document.steps):
        for one in check_sentence(step, things, names):
            line = line_of(text, place, step.inputs[one.input])
            yield Trouble(line, one.message, one.hint, blocks=False)


def line_of(text: str, place: int, value: str) -> int:
    """Return the line (from 1) of a value of the n-th sentence (from 0), or of the sentence."""
    lines = text.splitlines()
    begins = [n for n, line in enumerate(lines) if line.lstrip().startswith("- do:")]
    if place >= len(begins):
        return 1
    end = begins[place + 1] if place + 1 < len(begins) else len(lines)
    own = range(begins[place], end)
    return next((n for n in own if value and value in lines[n]), begins[place]) + 1


def _of_head(session: Session, test: Test, found: Read) -> list[Trouble]:
    troubles = []
    if found.head.kind != test.kind and found.head.name:
        troubles.append(Trouble(2, f"This is a {test.kind}, not a {found.head.kind}."))
    if found.head.environment and environment(session, found.head.environment) is None:
        troubles.append(Trouble(3, f"There is no environment “{found.head.environment}”."))
    return troubles


def environment(session: Session, name: str) -> Environment | None:
    """Return the environment of that name, whatever its case."""
    query = select(Environment).filter(func.lower(Environment.name) == name.lower())
    return session.scalar(query)


def put_read(session: Session, test: Test, found: Read, account_id: int | None) -> bool:
    """Make what a text says the newest version of a test; returns whether that changed it."""
    before = unpacked(test)
    after = carried_over(before, found.document, tests.new_id)
    check_calls(session, test, after)
    renamed = bool(found.head.name) and found.head.name != test.name
    if renamed:
        test.name = tests.check_name(session, found.head.name, but=test.id)
    place = environment(session, found.head.environment) if found.head.environment else None
    moved = place is not None and place.id != test.environment_id
    if place is not None and moved:
        test.environment, test.environment_id = place, place.id
    if after != before:
        documents.put(session, test, after, "text changed", account_id)
    return renamed or moved or after != before


def put_element(session: Session, element: core.Element) -> str:
    """Keep an element as a text says it is; returns "added", "changed" or "".

    A text need not tell what an element looked like: what is known of that stays.
    """
    row = session.get(models.Element, element.id)
    if row is None:
        elements.save(session, element)
        return "added"
    old = core.Element.read(row.body)
    if element.seen is None:
        element = replace(element, seen=old.seen, lookalikes=old.lookalikes)
    if element.as_json() == old.as_json():
        return ""
    elements.save(session, element)
    return "changed"
