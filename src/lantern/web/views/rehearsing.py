"""Breakpoints, what is done about a failure, what was changed meanwhile, how rehearsals are."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.engine.attempt import Flow
from lantern.core.problems import Missing
from lantern.core.rehearsing.breakpoints import Breakpoint, Condition
from lantern.core.searching.reasons import answers
from lantern.core.steps.model import Document
from lantern.core.steps.sentences import sentence
from lantern.core.values.templates import PLACE
from lantern.store import acts, audit, breakpoints, calls, elements, mending, preferences, searching
from lantern.store import models as tables
from lantern.store.rows import unpacked
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, need_lead, reply, services

api = blueprint("rehearsing")


# -- breakpoints -----------------------------------------------------------------------------------


@api.get("/breakpoints", operation_id="listBreakpoints", responses={200: shapes.BreakpointList})
def list_breakpoints() -> Response:
    """List one's own breakpoints, in the order of making."""
    with services().database.session() as session:
        shape = _list(session)
    return reply(shape)


def _list(session: Session) -> shapes.BreakpointList:
    rows = breakpoints.rows_of(session, me().id)
    places = {key: session.get_one(tables.Test, key) for key in {one.place for one in rows}}
    places |= {
        key: session.get_one(tables.Test, key) for key in {one.only_in for one in rows} if key
    }
    said = {key: _sentences(session, test) for key, test in places.items()}
    return shapes.BreakpointList(
        breakpoints=[_out(one, places, said) for one in rows],
        off=breakpoints.all_off(session, me().id),
    )


def _sentences(session: Session, test: tables.Test) -> dict[str, tuple[int, str]]:
    """Return number and words of the sentences of a test, by their ids."""
    document = unpacked(test)
    called: Mapping[str, Flow] = calls.load(session, document.flow_ids())
    known = elements.load(session, document.element_ids())
    names = {key: flow.name for key, flow in called.items()}
    return {
        step.id: (number, sentence(step, known, _plain, names))
        for number, step in enumerate(document.steps, 1)
    }


def _plain(template: str) -> str:
    """Return a template with its names as words."""
    return PLACE.sub(lambda place: place[1].rpartition(".")[2], template)


def _out(
    row: tables.Breakpoint,
    places: Mapping[int, tables.Test],
    said: Mapping[int, Mapping[str, tuple[int, str]]],
) -> shapes.BreakpointOut:
    number, words = said[row.place].get(row.step_id, (0, "The sentence was taken out."))
    return shapes.BreakpointOut(
        place=row.place,
        step=row.step_id,
        only_in=row.only_in,
        enabled=row.enabled,
        condition=shapes.ConditionIn(**row.condition),
        name=places[row.place].name,
        kind=places[row.place].kind,
        number=number,
        sentence=words,
        told=Condition.read(row.condition).words(),
        only_in_name=places[row.only_in].name if row.only_in else "",
    )


@api.put("/breakpoints", operation_id="setBreakpoint", responses={200: shapes.BreakpointList})
def set_breakpoint(body: shapes.BreakpointIn) -> Response:
    """Set a breakpoint at a sentence, or change the one that is there."""
    condition = Condition.read(body.condition.model_dump())
    point = Breakpoint(body.place, body.step, body.only_in, body.enabled, condition)
    with services().database.session() as session:
        breakpoints.put(session, me().id, point)
        shape = _list(session)
    return reply(shape)


@api.post(
    "/breakpoints/remove", operation_id="removeBreakpoints", responses={200: shapes.BreakpointList}
)
def remove_breakpoints(body: shapes.BreakpointsGone) -> Response:
    """Take breakpoints out."""
    with services().database.session() as session:
        breakpoints.drop(session, me().id, body.place, body.steps)
        session.flush()
        shape = _list(session)
    return reply(shape)


@api.put(
    "/breakpoints/off", operation_id="switchBreakpoints", responses={200: shapes.BreakpointList}
)
def switch_breakpoints(body: shapes.BreakpointsOff) -> Response:
    """Switch all of one's breakpoints off, or on again as they were."""
    with services().database.session() as session:
        breakpoints.switch(session, me().id, off=body.off)
        session.expire_all()
        shape = _list(session)
    return reply(shape)


# -- what failed -----------------------------------------------------------------------------------


@api.get("/results/<int:id>/search", operation_id="searchResult", responses={200: shapes.WhyOut})
def search_result(path: shapes.ById) -> Response:
    """Tell why a sentence did not find its element, from the page that was saved when it failed."""
    with services().database.session() as session:
        found = searching.of_result(session, path.id)
        shape = shapes.WhyOut(
            element=found.looked.element.id,
            name=found.looked.element.name,
            saved=found.saved,
            place=found.place,
            answers=[
                shapes.AnswerOut(
                    cause=one.cause,
                    told=one.told,
                    share=one.share,
                    boxes=[vars(facts.box) for facts in one.nodes if facts.visible],
                    act=one.act,
                    label=one.label,
                    given=dict(one.given),
                )
                for one in answers(found.looked)
            ],
        )
    return reply(shape)


@api.post("/tests/<int:id>/mend", operation_id="mend", responses={200: shapes.Done})
def mend(path: shapes.ById, body: shapes.MendAsk) -> Response:
    """Do what a search otherwise proposed, for a sentence of a test or flow."""
    with services().database.session() as session:
        mending.mend(session, path.id, body.step, body.act, body.given, me().id, body.key)
    return done()


@api.get("/tests/<int:id>/acts", operation_id="listActs", responses={200: shapes.ActList})
def list_acts(path: shapes.ById, query: shapes.ActsAsk) -> Response:
    """List what one did since a time in a test, in what it calls, and to elements."""
    with services().database.session() as session:
        test = session.get(tables.Test, path.id)
        if test is None:
            raise Missing("That test does not exist any more.", where=str(path.id))
        document: Document = unpacked(test)
        names = {test.id: test.name}
        names |= {
            int(key): flow.name for key, flow in calls.load(session, document.flow_ids()).items()
        }
        found = acts.since(session, list(names), me().id, query.since)
        shape = shapes.ActList(
            acts=[
                shapes.ActOut(
                    id=one.id,
                    place=one.place or path.id,
                    name=names.get(one.place or 0, ""),
                    summary=one.summary,
                    at=one.at,
                    back=back,
                )
                for one, back in found
            ]
        )
    return reply(shape)


# -- how rehearsals are ----------------------------------------------------------------------------


@api.get("/rehearsing", operation_id="getRehearsing", responses={200: shapes.RehearsingOut})
def get_rehearsing() -> Response:
    """Return how many stages a station keeps open, and for how long a failing row is offered."""
    with services().database.session() as session:
        shape = shapes.RehearsingOut.model_validate(preferences.rehearsing(session))
    return reply(shape)


@api.put("/rehearsing", operation_id="setRehearsing", responses={200: shapes.RehearsingOut})
def set_rehearsing(body: shapes.RehearsingOut) -> Response:
    """Set how rehearsals are; only a lead may."""
    need_lead()
    wanted = replace(preferences.Rehearsing(), stages=body.stages, offered=body.offered)
    with services().database.session() as session:
        preferences.put_rehearsing(session, wanted)
        audit.note(session, "rules of rehearsing", me().name)
    return reply(body)
