"""Visits: taking the known pages in again, after a release."""

from __future__ import annotations

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.review.visits import Met
from lantern.store import models as tables
from lantern.store import visits
from lantern.web import shapes
from lantern.web.context import blueprint, me, reply, services

api = blueprint("visits")


def _brief(session: Session, one: tables.Visit) -> shapes.VisitBrief:
    environment = session.get(tables.Environment, one.environment_id)
    return shapes.VisitBrief(
        id=one.id,
        run=one.run_id,
        state=one.run.state,
        environment=environment.name if environment else "",
        pages=len(one.pages),
        author=one.account.name if one.account else "",
        at=one.at,
    )


@api.get("/visits", operation_id="listVisits", responses={200: shapes.VisitList})
def list_visits() -> Response:
    """List the newest visits."""
    with services().database.session() as session:
        found = [_brief(session, one) for one in visits.listed(session)]
        by = visits.that_signs_in(session)
        shape = shapes.VisitList(
            visits=found, known=len(visits.known(session)), signs_in=by.name if by else ""
        )
    return reply(shape)


@api.post("/visits", operation_id="visitPages", responses={200: shapes.VisitBrief})
def visit_pages(body: shapes.VisitAsk) -> Response:
    """Visit all known pages in an environment: each is opened once, nothing else is done."""
    with services().database.session() as session:
        shape = _brief(session, visits.start(session, body.environment, me().id))
    return reply(shape)


@api.get("/visits/<int:id>", operation_id="getVisit", responses={200: shapes.VisitOut})
def get_visit(path: shapes.ById) -> Response:
    """Tell what a visit found, page by page."""
    with services().database.session() as session:
        row = visits.get(session, path.id)
        shape = shapes.VisitOut(
            visit=_brief(session, row), pages=[_page(one) for one in visits.told(session, row)]
        )
    return reply(shape)


def _page(one: visits.Page) -> shapes.VisitedPage:
    told = one.told
    return shapes.VisitedPage(
        page=one.page,
        address=one.address,
        title=one.title,
        saved=one.saved,
        reached=told is not None,
        known=bool(told and told.known),
        changed=bool(told and told.changed),
        met=[_met(each) for each in told.met] if told else [],
        new=list(told.new) if told else [],
        gone=list(told.gone) if told else [],
    )


def _met(one: Met) -> shapes.MetOut:
    likely = one.proposal
    called = ""
    if likely:
        called = likely.facts.name or likely.facts.text or likely.facts.label or likely.facts.tag
    return shapes.MetOut(
        element=one.element,
        name=one.name,
        word=one.word,
        count=one.count,
        lost=one.lost,
        likely=called[:120],
        score=likely.score if likely else 0.0,
    )
