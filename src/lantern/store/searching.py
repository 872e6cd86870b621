"""What there is to search in for why a sentence failed: the page that its run saved."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.repair import found_by
from lantern.core.engine.finding import unready_in
from lantern.core.engine.requests import Aimed
from lantern.core.problems import BadInput, Missing, Problem
from lantern.core.searching.looked import Looked
from lantern.core.steps.model import Document
from lantern.core.values.sources import Names
from lantern.core.values.templates import resolve
from lantern.store import flows, pages, preferences
from lantern.store.models import Cast, Result, Run, SavedPage


@dataclass(frozen=True)
class Found:
    """What was looked at for a result: on which saved page, for the story `place`."""

    looked: Looked
    saved: int
    place: int


def of_result(session: Session, result_id: int) -> Found:
    """Return what there is to search in for a failed result.

    Raises Missing where the result or its page is gone, BadInput where it is about no element.
    """
    result = session.get(Result, result_id)
    if result is None:
        raise Missing("That result does not exist any more.", where=str(result_id))
    cast = session.get_one(Cast, result.cast_id)
    run = session.get_one(Run, cast.run_id)
    place, key, title = _sentence_of(run, result.step_id)
    if not key or key not in run.elements:
        raise BadInput("That sentence is about no element.", where=result.sentence)
    element = _filled(Element.read(run.elements[key]), cast, run)
    page = session.scalars(
        select(SavedPage)
        .filter_by(cast_id=cast.id, step_id=result.step_id)
        .order_by(SavedPage.id.desc())
        .limit(1)
    ).first()
    if page is None:
        raise Missing("The page on which it failed is not kept any more.", hint="Run it once more.")
    nodes = tuple(pages.nodes_of(page))
    green = pages.last_green(
        session, run.test_id or 0, element.page or title, at=result.step_id, before=cast.id
    )
    looked = Looked(
        element,
        nodes,
        title=page.page,
        address=page.address,
        wanted_title=title or element.page,
        wanted_address=pages.address_of(session, run.test_id or 0, result.step_id, but=page.id),
        aimed=_aimed(result, element, nodes),
        green=green.nodes,
        green_run=green.run,
        limit=result.limit,
        flow_that_signs_in=flows.that_signs_in(session, preferences.get(session).before),
    )
    return Found(looked, page.id, place)


def _sentence_of(run: Run, step_id: str) -> tuple[int, str, str]:
    """Return the story in which a sentence stands, its element and the title of its page."""
    stories = [(run.test_id or 0, Document.read(run.body))]
    stories += [(int(key), Document.read(raw["body"])) for key, raw in run.flows.items()]
    for place, document in stories:
        for step in document.steps:
            if step.id == step_id:
                return place, step.element, step.page
    raise Missing("That sentence is not known any more.", where=step_id)


def _filled(element: Element, cast: Cast, run: Run) -> Element:
    names = Names(row=cast.values, env=run.variables, kept=dict(cast.kept))
    try:
        return element.filled(lambda value: resolve(value, names))
    except Problem:
        return element  # a value that is not known any more finds nothing, and says so


def _aimed(result: Result, element: Element, nodes: tuple[Facts, ...]) -> Aimed | None:
    """Return how the thing could not be reached, as the result says; None for not found."""
    found = found_by(element, nodes)
    if len(found) != 1:
        return None
    problem = unready_in(result.message)
    if not problem:
        return None
    by = result.message.partition("is covered by ")[2].partition(";")[0]
    return Aimed(found[0].handle, box=found[0].box, problem=problem, by=by)
