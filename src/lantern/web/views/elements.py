"""Elements: what they are, who uses them, what they find on saved pages, repairs."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Any

from flask import Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Box, Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.naming import propose_name
from lantern.core.elements.repair import FINDS_NOTHING, propose, repaired, verdict
from lantern.core.elements.strength import Worlds, stronger
from lantern.core.problems import Missing
from lantern.store import acts, elements, merging, pages, pictures
from lantern.store import models as tables
from lantern.store.database import tell
from lantern.web import shapes
from lantern.web.context import blueprint, check_still, me, reply, services
from lantern.web.views.tests import element_out

api = blueprint("elements")
Uses = elements.Uses


def _uses(found: Iterable[tuple[int, str, list[int]]]) -> list[shapes.Use]:
    return [shapes.Use(test=test, name=name, steps=steps) for test, name, steps in found]


def brief(element: Element, used: Uses) -> shapes.ElementBrief:
    """Return an element's shape for lists."""
    return shapes.ElementBrief(
        id=element.id,
        name=element.name,
        kind=element.kind,
        page=element.page,
        clues=[clue.sentence() for clue in element.clues],
        uses=_uses(used.get(element.id, [])),
    )


def _row(clue: Clue, *, on: bool) -> shapes.ClueRow:
    return shapes.ClueRow(
        fact=clue.fact,
        operator=clue.operator,
        value=clue.value,
        loose=clue.loose,
        on=on,
        sentence=clue.sentence(),
    )


def full(row: tables.Element, used: Uses) -> shapes.ElementFull:
    """Return an element's shape for the editor."""
    element = Element.read(row.body)
    clues = [_row(clue, on=True) for clue in element.clues]
    clues += [_row(clue, on=False) for clue in element.spare]
    return shapes.ElementFull(
        id=element.id,
        name=element.name,
        kind=element.kind,
        page=element.page,
        version=row.version,
        clues=clues,
        uses=_uses(used.get(element.id, [])),
        seen=element.seen.brief() if element.seen else None,
        body=element.as_json(),
    )


@api.get("/pages", operation_id="listPages", responses={200: shapes.PageList})
def list_pages(query: shapes.PagesAsk) -> Response:
    """List the pages by title, with their newest pictures."""
    with services().database.session() as session:
        found = pages.listed(session, query.q.strip(), query.unused, query.after)
        newest = pages.newest(session, [one.page for one in found.rows])
        listed = [_page(one.page, one.elements, newest.get(one.page)) for one in found.rows]
    return reply(shapes.PageList(pages=listed, next=found.next))


def _page(title: str, count: int, saved: tables.SavedPage | None) -> shapes.PageBrief:
    return shapes.PageBrief(
        page=title,
        saved=saved.id if saved else None,
        picture=saved.picture if saved else "",
        at=saved.at if saved else None,
        elements=count,
    )


@api.get("/pages/elements", operation_id="pageElements", responses={200: shapes.PageOut})
def page_elements(query: shapes.PageElementsAsk) -> Response:
    """Return a page with its elements, and what uses each."""
    with services().database.session() as session:
        rows = pages.elements_of(session, query.page, query.q.strip(), query.unused)
        used = elements.uses(session, *(row.id for row in rows))
        listed = [brief(Element.read(row.body), used) for row in rows]
        newest = pages.newest(session, [query.page]).get(query.page)
        shape = shapes.PageOut(page=_page(query.page, len(listed), newest), elements=listed)
    return reply(shape)


@api.get("/elements", operation_id="listElements", responses={200: shapes.ElementList})
def list_elements(query: shapes.ElementsAsk) -> Response:
    """List elements by name, to choose one."""
    with services().database.session() as session:
        found = elements.chosen(session, query.q.strip(), query.kind, query.after)
        listed = [shapes.ElementNamed.model_validate(row) for row in found.rows]
    return reply(shapes.ElementList(elements=listed, next=found.next))


@api.get("/elements/<string:key>", operation_id="getElement", responses={200: shapes.ElementFull})
def get_element(path: shapes.ByKey) -> Response:
    """Return an element with all its clues."""
    with services().database.session() as session:
        shape = full(elements.get(session, path.key), elements.uses(session, path.key))
    return reply(shape)


@api.patch(
    "/elements/<string:key>", operation_id="renameElement", responses={200: shapes.ElementOut}
)
def rename_element(path: shapes.ByKey, body: shapes.RenameAsk) -> Response:
    """Rename an element; every test that uses it reads the new name."""
    with services().database.session() as session:
        row = elements.get(session, path.key, lock=True)
        check_still(body.was, row.name, "name")
        acts.begin(session, me().id, None, "")
        element = Element.read(row.body | {"name": body.name})
        elements.save(session, element)
        tell(session, "element", id=element.id)
    return reply(element_out(element))


@api.put(
    "/elements/<string:key>", operation_id="changeElement", responses={200: shapes.ElementFull}
)
def change_element(path: shapes.ByKey, body: shapes.ElementChange) -> Response:
    """Change an element; every test that uses it goes by the new clues from then on."""
    with services().database.session() as session:
        row = elements.get(session, path.key, lock=True)
        changes = body.model_dump(exclude_none=True, exclude={"base", "place"})
        element = Element.read(row.body | changes)
        act = acts.begin(session, me().id, body.place, "")
        row = elements.save(session, element, base=body.base)
        tell(session, "element", id=element.id)
        shape = full(row, elements.uses(session, path.key))
        shape.act = act.id if act.summary else 0
    return reply(shape)


@api.delete("/elements/<string:key>", operation_id="deleteElement", responses={200: shapes.Changed})
def delete_element(path: shapes.ByKey) -> Response:
    """Delete an element that no test uses."""
    with services().database.session() as session:
        act = acts.begin(session, me().id, None, "")
        elements.remove(session, path.key)
        shape = shapes.Changed(tests=[], act=act.id)
    return reply(shape)


@api.post(
    "/elements/<string:key>/merge", operation_id="mergeElement", responses={200: shapes.MergedOut}
)
def merge_element(path: shapes.ByKey, body: shapes.MergeAsk) -> Response:
    """Let all steps that use this element use another one, and delete it."""
    with services().database.session() as session:
        users = elements.uses(session, path.key).get(path.key, [])
        merged = merging.merge(session, path.key, body.into, me().id)
    shape = shapes.MergedOut(
        tests=_uses(users),
        kept=merged.kept,
        share=merged.share,
        other_share=merged.other_share,
        act=merged.act,
    )
    return reply(shape)


@api.get("/elements-equal", operation_id="equalElements", responses={200: shapes.EqualList})
def equal_elements() -> Response:
    """List the elements that are one thing, with what shows it."""
    with services().database.session() as session:
        equal = merging.equals(session)
        used = elements.uses(session, *(it.id for one in equal for it in one.elements))
        listed = [
            shapes.EqualOut(
                page=one.saved.page,
                saved=one.saved.id,
                at=one.saved.at,
                thing=propose_name(one.thing),
                elements=[brief(element, used) for element in one.elements],
            )
            for one in equal
        ]
    return reply(shapes.EqualList(equal=listed))


NOT_YET = "was not there yet"

# -- trying on saved pages -----------------------------------------------------------------------


@api.post("/elements/<string:key>/try", operation_id="tryElement", responses={200: shapes.TriedAll})
def try_element(path: shapes.ByKey, body: shapes.Draft) -> Response:
    """Tell what changed clues find on the pages that earlier runs saved; no browser is needed."""
    with services().database.session() as session:
        row = elements.get(session, path.key)
        known = Element.read(row.body)
        draft = Element.read(row.body | body.model_dump())
        users = [test for test, _, _ in elements.uses(session, path.key).get(path.key, [])]
        saved = list(pages.history(session, known.page, users))
        newest = pages.newest(session, [known.page]).get(known.page)
        if newest and newest.id not in {page.id for page in saved}:
            saved.insert(0, newest)
        tried = [_tried(known, draft, page, row.created_at) for page in saved]
        strength = _strength(draft, saved)
    return reply(shapes.TriedAll(pages=tried, strength=strength))


def _tried(
    known: Element, draft: Element, page: tables.SavedPage, known_since: datetime
) -> shapes.Tried:
    """Compare what the draft finds with what the element finds as it is kept."""
    nodes = pages.nodes_of(page)
    before = known.among(nodes)
    meant = before[0].handle if len(before) == 1 else 0
    its = verdict(draft, nodes, meant)
    # A page from before the element was known, on which it never was, says nothing against it.
    early = its.word == FINDS_NOTHING and not before and page.at < known_since
    return shapes.Tried(
        saved=page.id,
        page=page.page,
        run=page.run_id,
        release=page.release,
        at=page.at,
        picture=page.picture,
        word=NOT_YET if early else its.word,
        count=len(its.found),
        boxes=[list(facts.box.shares(facts.view)) for facts in its.found[:50] if facts.visible],
    )


def _strength(draft: Element, saved: Sequence[tables.SavedPage]) -> shapes.StrengthOut | None:
    """Return the strength on the newest page on which the draft finds one node."""
    for page in saved:
        nodes = pages.nodes_of(page)
        found = draft.among(nodes)
        if len(found) != 1:
            continue
        worlds = Worlds(nodes, found[0].handle)
        its = worlds.strength(draft.kind, draft.clues)
        better = stronger(draft, nodes, worlds, found[0].handle)
        return shapes.StrengthOut(
            share=its.share,
            lost=list(its.lost)[:5],
            stronger=[_row(clue, on=True) for clue in better[0]] if better else [],
            stronger_share=better[1].share if better else None,
        )
    return None


# -- repairs -------------------------------------------------------------------------------------


@api.get("/results/<int:id>/repairs", operation_id="repairs", responses={200: shapes.Repairs})
def repairs(path: shapes.ById) -> Response:
    """Propose what the element of a failed step may be now, from the page saved at the failure."""
    with services().database.session() as session:
        result = session.get(tables.Result, path.id)
        if result is None:
            raise Missing("That result does not exist any more.", where=str(path.id))
        run = session.get(tables.Run, result.cast.run_id)
        key = _element_of(run, result.step_id) if run else ""
        row = session.get(tables.Element, key) if key else None
        saved = _page_at(session, result)
        if row is None or saved is None or result.reason not in REPAIRABLE:
            return reply(
                shapes.Repairs(
                    element=None, saved=None, picture="", before="", before_box=None, proposals=[]
                )
            )
        element = Element.read(row.body)
        shape = _repairs(session, element, saved)
    return reply(shape)


REPAIRABLE = ("not found", "found several")
"""Reasons for which another set of clues can be the answer; what a check expects never is."""


def _element_of(run: tables.Run, step_id: str) -> str:
    steps: list[dict[str, Any]] = run.body.get("steps", [])
    step = next((step for step in steps if step["id"] == step_id), {})
    return str(step.get("element") or "")


def _page_at(session: Session, result: tables.Result) -> tables.SavedPage | None:
    """Return the page that was saved when the step failed."""
    query = (
        select(tables.SavedPage)
        .filter_by(cast_id=result.cast_id, step_id=result.step_id)
        .order_by(tables.SavedPage.id.desc())
    )
    return session.scalars(query).first()


def _repairs(session: Session, element: Element, saved: tables.SavedPage) -> shapes.Repairs:
    found = propose(element, pages.nodes_of(saved))
    before, box = _as_it_was(session, element)
    return shapes.Repairs(
        element=brief(element, elements.uses(session, element.id)),
        saved=saved.id,
        picture=saved.picture,
        before=before,
        before_box=box,
        proposals=[
            shapes.ProposalOut(
                node=one.facts.handle,
                name=one.facts.name or one.facts.label or one.facts.text[:60] or one.facts.tag,
                kind=kind_of(one.facts),
                score=one.score,
                high=one.high,
                agrees=list(one.agrees),
                differs=list(one.differs),
                box=list(one.facts.box.shares(one.facts.view)),
            )
            for one in found
        ],
    )


def _as_it_was(session: Session, element: Element) -> tuple[str, list[float] | None]:
    """Return a picture of the element from when it was found, and where on it.

    The newest run in which a step with it passed, else what was kept when it was recorded.
    """
    steps = {
        step["id"]: step
        for test_id, _, _ in elements.uses(session, element.id).get(element.id, [])
        for step in session.get_one(tables.Test, test_id).body.get("steps", [])
        if element.id in (step.get("element"), step.get("onto"))
    }
    query = (
        select(tables.Result)
        .filter(
            tables.Result.step_id.in_(steps),
            tables.Result.outcome == "passed",
            tables.Result.picture != "",
        )
        .order_by(tables.Result.id.desc())
    )
    passed = session.scalar(query.limit(1))
    size = pictures.size(session, passed.picture) if passed else None
    if passed and size and passed.details.get("box"):
        return passed.picture, list(Box(**passed.details["box"]).shares(size))
    recorded = next((step for step in steps.values() if step.get("picture")), None)
    return (str(recorded["picture"]), recorded.get("box")) if recorded else ("", None)


@api.post(
    "/elements/<string:key>/repair", operation_id="acceptRepair", responses={200: shapes.Changed}
)
def accept_repair(path: shapes.ByKey, body: shapes.RepairAsk) -> Response:
    """Let an element be recognised as a node of a saved page from now on."""
    with services().database.session() as session:
        row = elements.get(session, path.key)
        element = Element.read(row.body)
        nodes = pages.nodes_of(pages.get(session, body.saved))
        target = _node(nodes, body.node)
        act = acts.begin(session, me().id, None, "")
        elements.save(session, repaired(element, target, nodes), base=body.base)
        tell(session, "element", id=element.id)
        users = elements.uses(session, path.key).get(path.key, [])
        shape = shapes.Changed(tests=_uses(users), act=act.id)
    return reply(shape)


def _node(nodes: Sequence[Facts], number: int) -> Facts:
    for facts in nodes:
        if facts.handle == number:
            return facts
    raise Missing("That is not on the page.", where=str(number), hint="Choose another.")
