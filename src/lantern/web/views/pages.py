"""Saved pages: what was recognised on them, and taking elements in from there; files of tests."""

from __future__ import annotations

from collections.abc import Sequence

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.naming import propose_name
from lantern.core.elements.strength import strength
from lantern.core.problems import BadInput
from lantern.core.recording.proposals import propose
from lantern.core.steps.catalogue import action_of, check_inputs
from lantern.core.steps.edits import Insert
from lantern.core.steps.model import Step
from lantern.core.steps.properties import avoided, shown_by
from lantern.store import elements, files, pages, tests
from lantern.store.database import tell
from lantern.store.models import SavedPage, TestFile
from lantern.web import shapes
from lantern.web.context import blueprint, bytes_of, done, me, reply, services

LONGEST_TEXT = 4000
"""Letters of a text that a still shows: a check has to expect the whole."""
api = blueprint("pages")


@api.get("/saved-pages/<int:id>", operation_id="getSavedPage", responses={200: shapes.SavedPageOut})
def saved_page(path: shapes.ById) -> Response:
    """Return a saved page with everything recognised on it."""
    with services().database.session() as session:
        shape = _saved_out(pages.get(session, path.id))
    return reply(shape)


def _saved_out(page: SavedPage) -> shapes.SavedPageOut:
    return shapes.SavedPageOut(
        id=page.id,
        page=page.page,
        address=page.address,
        release=page.release,
        picture=page.picture,
        at=page.at,
        run=page.run_id,
        test=page.test_id,
        nodes=[_node_out(facts) for facts in pages.nodes_of(page)],
    )


def _node_out(facts: Facts) -> shapes.NodeOut:
    words = (cell for cell in facts.row if any(map(str.isalpha, cell)))
    return shapes.NodeOut(
        node=facts.handle,
        kind=kind_of(facts),
        name=propose_name(facts),
        text=facts.text[:LONGEST_TEXT],
        box=list(facts.box.shares(facts.view)),
        frames=list(facts.frames),
        visible=facts.visible,
        options=list(facts.options),
        column=facts.column,
        row=next(words, ""),
        shows=shown_by(facts),
    )


@api.get("/saved-pages/<int:id>/places", operation_id="places", responses={200: shapes.Places})
def places(path: shapes.ById) -> Response:
    """Tell where the elements of a page are on it, for those that are found alone."""
    with services().database.session() as session:
        page = pages.get(session, path.id)
        nodes = pages.nodes_of(page)
        found = []
        for row in elements.of_page(session, page.page):
            element = Element.read(row.body)
            here = element.among(nodes)
            if len(here) == 1 and here[0].visible:
                found.append(
                    shapes.PlaceOut(element=element.id, box=list(here[0].box.shares(here[0].view)))
                )
    return reply(shapes.Places(places=found))


@api.get("/runs/<int:id>/pages", operation_id="runPages", responses={200: shapes.RunPages})
def run_pages(path: shapes.ById) -> Response:
    """List the pages that a run saved."""
    with services().database.session() as session:
        listed = [
            shapes.PageOfRun(
                saved=page.id, page=page.page, picture=page.picture, step=page.step_id, at=page.at
            )
            for page in pages.of_run(session, path.id)
        ]
    return reply(shapes.RunPages(pages=listed))


@api.post(
    "/saved-pages/<int:id>/look", operation_id="lookAtNodes", responses={200: shapes.TakenAll}
)
def look_at_nodes(path: shapes.ById, body: shapes.TakeAsk) -> Response:
    """Tell how things of a page would be recognised, and how many nodes that matches there."""
    with services().database.session() as session:
        page = pages.get(session, path.id)
        taken = []
        for number, made, nodes in _made(page, body.nodes):
            its = strength(made.kind, made.clues, nodes, number)
            told = {"strength": its.share, "weakest": its.weakest}
            taken.append(_taken(made, number, nodes).model_copy(update=told))
    return reply(shapes.TakenAll(taken=taken))


@api.post(
    "/saved-pages/<int:id>/take", operation_id="takeElements", responses={200: shapes.TakenAll}
)
def take_elements(path: shapes.ById, body: shapes.TakeAsk) -> Response:
    """Take things of a page in as elements; one that is known already stays as it is."""
    with services().database.session() as session:
        page = pages.get(session, path.id)
        taken = []
        for number, made, nodes in _made(page, body.nodes):
            kept = _keep(session, made)
            taken.append(_taken(kept, number, nodes))
        tell(session, "element", id="")
    return reply(shapes.TakenAll(taken=taken))


def _keep(session: Session, made: Element) -> Element:
    known = elements.same(session, made)
    if known:
        return known
    elements.save(session, made)
    return made


def _made(
    page: SavedPage, wanted: Sequence[shapes.TakeNode], checked: str = ""
) -> list[tuple[int, Element, list[Facts]]]:
    """Return the elements that things of a page would be, each with its number and the page.

    A property that is `checked` does not serve to find the thing.
    """
    nodes = pages.nodes_of(page)
    by_number = {facts.handle: facts for facts in nodes}
    made = []
    for one in wanted:
        facts = by_number.get(one.node)
        if facts is None:
            raise BadInput("That is not on the page.", where=str(one.node))
        made.append(
            (
                one.node,
                elements.new(
                    propose(facts, tuple(nodes), page.page, avoided(kind_of(facts), checked)),
                    one.name,
                ),
                nodes,
            )
        )
    return made


def _taken(element: Element, number: int, nodes: Sequence[Facts]) -> shapes.TakenOut:
    return shapes.TakenOut(
        node=number,
        element=element.id,
        name=element.name,
        clues=[clue.sentence() for clue in element.clues],
        matches=len(element.among(nodes)),
    )


@api.post("/saved-pages/<int:id>/steps", operation_id="addSteps", responses={200: shapes.Done})
def add_steps(path: shapes.ById, body: shapes.StepsAsk) -> Response:
    """Add sentences to a test for things of a saved page."""
    with services().database.session() as session:
        page = pages.get(session, path.id)
        steps = []
        for wanted in body.steps:
            check_inputs(action_of(wanted.action), wanted.inputs)
            one = shapes.TakeNode(node=wanted.node)
            prop = wanted.inputs.get("property", "")
            [(_, made, nodes)] = _made(page, [one], prop)
            kept = _keep(session, made)
            facts = next(facts for facts in nodes if facts.handle == wanted.node)
            steps.append(
                Step(
                    id=tests.new_id(),
                    action=wanted.action,
                    element=kept.id,
                    inputs=wanted.inputs,
                    page=page.page,
                    picture=page.picture,
                    box=facts.box.shares(facts.view),
                )
            )
        tests.edit(session, body.test, Insert(tuple(steps), body.after), me().id)
    return done()


# -- files of tests ------------------------------------------------------------------------------


def _file(kept: TestFile) -> shapes.FileOut:
    return shapes.FileOut(name=kept.name, size=kept.size, digest=kept.digest)


@api.get("/tests/<int:id>/files", operation_id="listFiles", responses={200: shapes.FileList})
def list_files(path: shapes.ById) -> Response:
    """List the files kept with a test."""
    with services().database.session() as session:
        listed = [_file(kept) for kept in files.listed(session, path.id)]
    return reply(shapes.FileList(files=listed))


@api.post("/tests/<int:id>/files", operation_id="putFile", responses={200: shapes.FileOut})
def put_file(path: shapes.ById, body: shapes.FileIn) -> Response:
    """Keep a file with a test, in place of an older one of that name."""
    content = bytes_of(body.content, body.name)
    with services().database.session() as session:
        tests.get(session, path.id)
        shape = _file(files.put(session, path.id, body.name, content))
    return reply(shape)


@api.delete(
    "/tests/<int:id>/files/<string:name>", operation_id="deleteFile", responses={200: shapes.Done}
)
def delete_file(path: shapes.FileName) -> Response:
    """Remove a file from a test."""
    with services().database.session() as session:
        files.remove(session, path.id, path.name)
    return done()
