"""Tests: their list, their document, edits."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Literal, cast

from flask import Response, request
from sqlalchemy.orm import Session

from lantern.core.data.checking import check_sentence, known_names
from lantern.core.elements.clues import Clue, Element
from lantern.core.engine.attempt import Flow
from lantern.core.problems import Missing
from lantern.core.steps.code import BEGINNING
from lantern.core.steps.constants import constants
from lantern.core.steps.defaults import effective
from lantern.core.steps.edits import SetCalling, SetCode, ToWait, apply, read_edit
from lantern.core.steps.model import Document
from lantern.core.steps.sentences import Part, parts, scenes, sentence
from lantern.core.steps.titles import warning
from lantern.core.steps.tree import around
from lantern.core.values.sources import SOURCES
from lantern.core.values.wording import in_words
from lantern.store import (
    accounts,
    acts,
    calls,
    elements,
    flows,
    lists,
    models,
    preferences,
    tables,
    tests,
    undoing,
    vault,
    waits,
)
from lantern.store.database import tell
from lantern.store.models import Test
from lantern.store.rows import unpacked
from lantern.web import shapes
from lantern.web.context import blueprint, check_still, done, me, reply, services
from lantern.web.views.places import environment_out
from lantern.web.views.runs import brief

api = blueprint("tests")
Kind = Literal["test", "flow", "table"]


def _clue(clue: Clue) -> shapes.ClueOut:
    return shapes.ClueOut(
        fact=clue.fact, operator=clue.operator, value=clue.value, sentence=clue.sentence()
    )


def element_out(element: Element) -> shapes.ElementOut:
    """Return an element's shape."""
    return shapes.ElementOut(
        id=element.id,
        name=element.name,
        kind=element.kind,
        page=element.page,
        clues=[_clue(clue) for clue in element.clues],
        spare=[_clue(clue) for clue in element.spare],
        options=list(element.seen.options) if element.seen else [],
    )


def _lean() -> bool:
    """Tell whether the request prefers an answer without rows (RFC 7240)."""
    return "return=lean" in request.headers.get("Prefer", "")


def names_in(session: Session, test: Test) -> dict[str, list[str]]:
    """Return the names that values can be taken from in a test, by source."""
    document = tables.filled(session, unpacked(test))
    called = calls.load(session, document.flow_ids())
    return _names(session, test, document, called)


def _names(
    session: Session, test: Test, document: Document, called: Mapping[str, Flow]
) -> dict[str, list[str]]:
    gives = [name for flow in called.values() for name in flow.document.gives]
    secrets = vault.names(session, test.environment_id)
    return known_names(document, test.environment.variables, secrets, gives)


def checked_names(test: Test, names: dict[str, list[str]]) -> dict[str, list[str]]:
    """Return the names that values are held against; a flow is given rows by what calls it."""
    return {key: known for key, known in names.items() if test.kind != calls.FLOW or key != "row"}


def test_out(session: Session, test: Test) -> shapes.TestOut:
    """Return a test's shape, in full, or without its rows where a lean answer is preferred."""
    owner = tables.owner(session, test)
    document = tables.filled(session, unpacked(test))
    project = preferences.get(session).settings
    document = replace(document, settings=document.settings.within(project))
    known = elements.load(session, document.element_ids())
    called = calls.load(session, document.flow_ids())
    names = {key: flow.name for key, flow in called.items()}
    undo, redo = acts.can_travel(session, test.id, me().id)
    secrets = vault.names(session, test.environment_id)
    known_here = _names(session, test, document, called)
    checked = checked_names(test, known_here)
    steps = [
        shapes.StepOut(
            **step.as_json(),
            holds=shapes.HoldsOut.model_validate(
                effective(step, around(document.steps, step.id), document.settings)
            ),
            sentence=sentence(step, known, flows=names),
            warning=warning(step, known),
            problems=[
                shapes.ValueProblemOut(**vars(one)) for one in check_sentence(step, known, checked)
            ],
            parts=[_part(part) for part in parts(step, known, names)],
        )
        for step in document.steps
    ]
    return shapes.TestOut(
        id=test.id,
        kind=cast(Kind, test.kind),
        name=test.name,
        version=test.version,
        baseline=test.baseline,
        owner=_person(session, test.created_by),
        environment=environment_out(test.environment, secrets),
        steps=steps,
        scenes=[
            shapes.SceneOut(page=scene.page, steps=list(scene.steps))
            for scene in scenes(document.steps)
        ],
        elements=[element_out(element) for element in known.values()],
        columns=list(document.columns),
        rows=None if _lean() else [shapes.RowOut.model_validate(row) for row in document.rows],
        row_count=len(document.rows),
        ticked=sum(row.ticked for row in document.rows),
        table_version=owner.table_version,
        labels=list(document.labels),
        needs=list(document.needs),
        shared=None if owner is test else shapes.SharedOut(id=owner.id, name=owner.name),
        settings=shapes.SettingsOut.model_validate(document.settings),
        design=dict(document.design),
        constants=_constants(document, known, {step.id: step.sentence for step in steps}),
        flows=[flow_brief(key, flow) for key, flow in called.items()],
        takes=[shapes.FlowInput.model_validate(one) for one in document.takes],
        names={name: known_here.get(name, []) for name in SOURCES},
        gives=list(document.gives),
        code=document.code,
        undo=undo,
        redo=redo,
    )


def _part(part: Part) -> shapes.PartOut:
    said = in_words(part.text) if part.kind == "value" else ""
    return shapes.PartOut(kind=part.kind, text=part.text, input=part.input, said=said)


def _constants(
    document: Document, known: Mapping[str, Element], sentences: Mapping[str, str]
) -> list[shapes.ConstantOut]:
    return [
        shapes.ConstantOut(
            value=one.value,
            uses=[shapes.UseOut(**vars(use), sentence=sentences[use.step]) for use in one.uses],
        )
        for one in constants(document.steps, known)
    ]


def _person(session: Session, key: int | None) -> shapes.PersonNamed | None:
    """Return a person by name, None for nobody and for who is gone."""
    person = session.get(models.Account, key) if key else None
    return None if person is None or person.gone else shapes.PersonNamed.model_validate(person)


def flow_brief(key: str, flow: Flow) -> shapes.FlowBrief:
    """Return a flow's shape for what calls it."""
    return shapes.FlowBrief(
        id=key,
        name=flow.name,
        takes=[shapes.FlowInput.model_validate(one) for one in flow.document.takes],
        gives=list(flow.document.gives),
        in_python=bool(flow.document.code),
    )


@api.get("/tests", operation_id="listTests", responses={200: shapes.TestList})
def list_tests(query: shapes.TestsAsk) -> Response:
    """List tests, newest change first."""
    outcomes = [one for one in query.outcome.split(",") if one]
    with services().database.session() as session:
        labels = [one.strip() for one in query.label.split(",") if one.strip()]
        found = lists.of_tests(
            session, query.q.strip(), outcomes, query.order, query.after, labels=labels
        )
        last = lists.runs_named(session, [one.last_run for one in found.rows if one.last_run])
        listed = [
            shapes.TestBrief(
                id=one.id,
                name=one.name,
                environment=one.environment,
                steps=one.steps,
                rows=one.rows,
                labels=one.labels,
                changed_at=one.changed_at,
                last_run=brief(last[one.last_run]) if one.last_run else None,
            )
            for one in found.rows
        ]
        counted = {} if query.after else lists.outcomes_of_tests(session)
    return reply(shapes.TestList(tests=listed, next=found.next, outcomes=counted))


@api.get("/labels", operation_id="listLabels", responses={200: shapes.LabelList})
def list_labels() -> Response:
    """List the labels that tests have."""
    with services().database.session() as session:
        found = lists.labels_of_tests(session)
    return reply(shapes.LabelList(labels=found))


@api.post("/tests", operation_id="createTest", responses={200: shapes.TestOut})
def create_test(body: shapes.NewTest) -> Response:
    """Create a test."""
    with services().database.session() as session:
        document = apply(Document(), SetCode(BEGINNING), tests.new_id) if body.in_python else None
        test = tests.create(session, body.name, body.environment, me().id, document, kind=body.kind)
        shape = test_out(session, test)
    return reply(shape)


@api.get("/tests/<int:id>", operation_id="getTest", responses={200: shapes.TestOut})
def get_test(path: shapes.ById) -> Response:
    """Return a test in full."""
    with services().database.session() as session:
        shape = test_out(session, tests.get(session, path.id))
    return reply(shape)


@api.patch("/tests/<int:id>", operation_id="changeTest", responses={200: shapes.TestOut})
def change_test(path: shapes.ById, body: shapes.TestChange) -> Response:
    """Change a test's name, environment or owner."""
    with services().database.session() as session:
        test = tests.get(session, path.id, lock=True)
        if body.name is not None:
            check_still(body.was, test.name, "name")
            test.name = tests.check_name(session, body.name, but=test.id)
        if body.environment is not None:
            environment = session.get(models.Environment, body.environment)
            if environment is None:
                raise Missing("That environment does not exist.", where="environment")
            test.environment = environment
            test.environment_id = environment.id
        if body.owner is not None:
            test.created_by = accounts.get(session, body.owner).id
        session.flush()
        tell(session, "test", id=test.id, version=test.version)
        shape = test_out(session, test)
    return reply(shape)


@api.delete("/tests/<int:id>", operation_id="deleteTest", responses={200: shapes.Done})
def delete_test(path: shapes.ById) -> Response:
    """Delete a test; its runs stay on record."""
    with services().database.session() as session:
        session.delete(tests.get(session, path.id, lock=True))
        tell(session, "test", id=path.id)
    return done()


@api.post("/tests/<int:id>/copy", operation_id="copyTest", responses={200: shapes.TestOut})
def copy_test(path: shapes.ById, body: shapes.CopyAsk) -> Response:
    """Copy a test, whole or its first part."""
    with services().database.session() as session:
        test = tests.copy(session, path.id, body.name, me().id, body.until)
        shape = test_out(session, test)
    return reply(shape)


@api.post("/tests/<int:id>/edits", operation_id="editTest", responses={200: shapes.TestOut})
def edit_test(path: shapes.ById, body: shapes.EditAsk) -> Response:
    """Apply an edit; a conflict with someone else's edit answers 409 and changes nothing."""
    with services().database.session() as session:
        edit = read_edit(body.edit)
        if isinstance(edit, ToWait):
            document = unpacked(tests.get(session, path.id))
            edit = waits.informed(session, document, edit)
        test = tests.edit(session, path.id, edit, me().id, base=body.base, key=body.key)
        if isinstance(edit, SetCalling | SetCode):
            was = edit.was if isinstance(edit, SetCalling) else {}
            flows.fit_callers(session, test, was, me().id)
        shape = test_out(session, test)
    return reply(shape)


@api.post("/tests/<int:id>/undo", operation_id="undo", responses={200: shapes.TestOut})
def undo(path: shapes.ById, body: shapes.TravelAsk) -> Response:
    """Take back what one did last in the test oneself; 409 where others built on it."""
    return _travelled(path.id, body, forward=False)


@api.post("/tests/<int:id>/redo", operation_id="redo", responses={200: shapes.TestOut})
def redo(path: shapes.ById, body: shapes.TravelAsk) -> Response:
    """Do again what one took back last."""
    return _travelled(path.id, body, forward=True)


def _travelled(test_id: int, asked: shapes.TravelAsk, *, forward: bool) -> Response:
    with services().database.session() as session:
        if not asked.key or not acts.known(session, asked.key):
            act = undoing.travel(session, test_id, me().id, forward=forward, force=asked.force)
            act.key = asked.key
        shape = test_out(session, tests.get(session, test_id))
    return reply(shape)


@api.post("/acts/<int:id>/undo", operation_id="undoAct", responses={200: shapes.Done})
def undo_act(path: shapes.ById, body: shapes.TravelAsk) -> Response:
    """Take one thing back that one did oneself, wherever it was."""
    with services().database.session() as session:
        undoing.take_back(session, acts.get(session, path.id), me().id, force=body.force)
    return done()
