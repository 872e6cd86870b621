"""Flows: what calls them, how they are made of tests, and what changes with them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import func, select, text, type_coerce
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Session

from lantern.core.engine.attempt import Flow
from lantern.core.problems import Conflict, Missing
from lantern.core.steps import flows as core
from lantern.core.steps.model import Document, Step
from lantern.store import calls, elements, tests
from lantern.store.models import Environment, Test
from lantern.store.paging import Order, Page, page
from lantern.store.rows import unpacked


@dataclass(frozen=True)
class Uses:
    """A test or flow, with the numbers (from 1) of its sentences that are meant."""

    id: int
    kind: str
    name: str
    sentences: tuple[int, ...]


@dataclass(frozen=True)
class Listed:
    """What a list shows of a flow: what goes in and out, and what calls it, not its sentences."""

    id: int
    flow: Flow
    steps: int
    environment: str
    uses: tuple[Uses, ...]


_USES = text("""
SELECT f.id AS flow, t.id, t.kind, t.name, ARRAY(
    SELECT s.place FROM jsonb_array_elements(t.body -> 'steps') WITH ORDINALITY s (step, place)
    WHERE s.step ->> 'flow' = f.id::text ORDER BY s.place) AS sentences
FROM tests f JOIN tests t ON (t.body -> 'steps') @> jsonb_build_array(
    jsonb_build_object('flow', f.id::text))
WHERE f.kind = :kind AND f.id = ANY(:flows)
ORDER BY t.name, t.id""")
"""What calls flows: one look into the index of sentences for each."""


def get(session: Session, flow_id: int, *, lock: bool = False) -> Test:
    """Return a flow; raises Missing."""
    flow = tests.get(session, flow_id, lock=lock)
    if flow.kind != calls.FLOW:
        raise Missing("That flow does not exist.", where=str(flow_id))
    return flow


def listed(session: Session, words: str = "", after: str = "") -> Page[Listed]:
    """Return a page of the flows by name, with what calls them: two statements a page.

    `words` are looked for in names. Raises BadInput for an `after` that is none.
    """
    body = Test.body
    columns = (
        Test.id,
        Test.name,
        Environment.name.label("environment"),
        func.jsonb_array_length(body["steps"]).label("steps"),
        *(body[part].label(part) for part in ("takes", "gives", "code")),
    )
    query = select(*columns).join(Environment, Environment.id == Test.environment_id)
    query = query.filter(Test.kind == calls.FLOW)
    if words:
        query = query.filter(Test.name.icontains(words, autoescape=True))
    found = page(session, query, Order((func.lower(Test.name), Test.id.expression)), after)
    calling = _calling(session, [row.id for row in found.rows])
    rows = []
    for row in found.rows:
        parts = {name: getattr(row, name) for name in ("takes", "gives", "code")}
        document = Document.read({name: part for name, part in parts.items() if part is not None})
        flow = Flow(row.name, document)
        uses = tuple(calling.get(row.id, ()))
        rows.append(Listed(row.id, flow, row.steps or 0, row.environment, uses))
    return Page(rows, found.next)


def _calling(session: Session, ids: Sequence[int]) -> dict[int, list[Uses]]:
    """Return what calls some flows, by the id of the flow."""
    found: dict[int, list[Uses]] = {}
    for row in session.execute(_USES, {"kind": calls.FLOW, "flows": list(ids)}):
        use = Uses(row.id, row.kind, row.name, tuple(row.sentences))
        found.setdefault(row.flow, []).append(use)
    return found


def uses(session: Session, flow_id: int) -> list[Uses]:
    """Return every test and flow that calls a flow, by name."""
    return _calling(session, [flow_id]).get(flow_id, [])


def that_signs_in(session: Session, first: str = "") -> str:
    """Return the id of a flow that types a secret, the one of id `first` before others, or ""."""
    ids = all_that_sign_in(session)
    return first if first in ids else (ids[0] if ids else "")


def all_that_sign_in(session: Session) -> list[str]:
    """Return the ids of the flows that type a secret, oldest first."""
    query = select(Test).filter_by(kind=calls.FLOW).order_by(Test.id)
    return [str(flow.id) for flow in session.scalars(query) if _types_a_secret(flow)]


def _types_a_secret(flow: Test) -> bool:
    return bool(typing_secrets(unpacked(flow)))


def typing_secrets(document: Document) -> list[Step]:
    """Return the sentences of a story that a secret is given to."""
    return [
        step for step in document.steps
        if any("${secret." in value for value in step.inputs.values())
    ]  # fmt: skip


def proposal(session: Session, test_id: int, ids: Sequence[str]) -> core.Cut:
    """Return what a flow of some sentences would take and give."""
    document = unpacked(tests.get(session, test_id))
    return core.cut(document, ids, elements.load(session, document.element_ids()))


def extract(
    session: Session,
    test_id: int,
    ids: Sequence[str],
    name: str,
    takes: Mapping[str, str],
    gives: Sequence[str],
    account_id: int | None,
    *,
    base: int,
) -> Test:
    """Make a flow of sentences and let the test call it there; returns the flow.

    `takes` are templates that the sentences hold, by the names of the inputs. Raises Conflict
    when the test has changed since version `base`.
    """
    test = tests.get(session, test_id, lock=True)
    if test.version != base:
        raise Conflict("The test was changed meanwhile.", hint="Look at it and try once more.")
    document = unpacked(test)
    part = core.cut(document, ids, elements.load(session, document.element_ids()))
    body = core.make(part, takes, gives, tests.new_id)
    flow = tests.create(session, name, test.environment_id, account_id, body, kind=calls.FLOW)
    meant = [step.id for step in document.steps if step.id in {s.id for s in part.steps}]
    changed = core.called(document, meant, str(flow.id), takes, tests.new_id)
    calls.check_calls(session, test, changed)
    tests.put(session, test, changed, f"flow “{flow.name}” made", account_id)
    return flow


def alike(session: Session, flow_id: int) -> list[Uses]:
    """Return the tests and flows in which the sentences of a flow stand as they are."""
    document = unpacked(get(session, flow_id))
    if not document.steps:
        return []
    first = document.steps[0]
    wanted = type_coerce([{"action": first.action, "element": first.element}], JSONB)
    query = select(Test).filter(Test.id != flow_id, Test.body["steps"].contains(wanted))
    found = []
    for test in session.scalars(query.order_by(Test.name)):
        other = unpacked(test)
        order = {step.id: n for n, step in enumerate(other.steps, 1)}
        places = tuple(order[one.steps[0]] for one in core.matches(other, document))
        if places:
            found.append(Uses(test.id, test.kind, test.name, places))
    return found


def replace_in(session: Session, flow_id: int, test_id: int, account_id: int | None) -> Test:
    """Let a test call the flow wherever its sentences stand in it."""
    flow = get(session, flow_id)
    document = unpacked(flow)
    test = tests.get(session, test_id, lock=True)
    changed = unpacked(test)
    for match in core.matches(changed, document):
        changed = core.called(changed, match.steps, str(flow.id), match.given, tests.new_id)
    calls.check_calls(session, test, changed)
    tests.put(session, test, changed, f"flow “{flow.name}” called", account_id)
    return test


def put_back(
    session: Session, test_id: int, step_id: str, account_id: int | None, *, base: int
) -> Test:
    """Replace one call of a flow by the flow's own sentences."""
    test = tests.get(session, test_id, lock=True)
    if test.version != base:
        raise Conflict("The test was changed meanwhile.", hint="Look at it and try once more.")
    document = unpacked(test)
    call = document.step(step_id)
    flow = calls.load(session, [call.flow]).get(call.flow)
    if flow is None:
        raise Missing("The flow of this sentence was deleted.", where=step_id)
    _has_sentences(flow.name, flow.document)
    changed = core.put_back(document, step_id, flow.document, tests.new_id)
    tests.put(session, test, changed, f"flow “{flow.name}” put back", account_id)
    return test


def _has_sentences(name: str, document: Document) -> None:
    """Raise Conflict for a flow in Python: no sentences can stand in the place of its call."""
    if document.code:
        raise Conflict(
            f"“{name}” is written in Python and called by sentences.",
            where=name,
            hint="Delete those sentences first.",
        )


def fit_callers(
    session: Session, flow: Test, was: Mapping[str, str], account_id: int | None
) -> None:
    """Fit every call of a flow to its inputs, as they are now."""
    names = [one.name for one in unpacked(flow).takes]
    for use in uses(session, flow.id):
        caller = tests.get(session, use.id, lock=True)
        before = unpacked(caller)
        after = core.with_inputs(before, str(flow.id), was, names)
        if after != before:
            tests.put(session, caller, after, f"inputs of “{flow.name}” changed", account_id)


def delete(session: Session, flow_id: int, account_id: int | None) -> int:
    """Delete a flow; what called it gets its sentences back. Returns how many calls there were."""
    flow = get(session, flow_id, lock=True)
    document = unpacked(flow)
    count = 0
    if uses(session, flow_id):
        _has_sentences(flow.name, document)
    for use in uses(session, flow_id):
        caller = tests.get(session, use.id, lock=True)
        changed = unpacked(caller)
        for step in [step for step in changed.steps if step.flow == str(flow_id)]:
            changed = core.put_back(changed, step.id, document, tests.new_id)
            count += 1
        tests.put(session, caller, changed, f"flow “{flow.name}” put back", account_id)
    session.delete(flow)
    session.flush()
    return count
