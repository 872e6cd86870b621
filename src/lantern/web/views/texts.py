"""Tests as text, as a picture of their shape, and the other forms they are given out in."""

from __future__ import annotations

import json

from flask import Response
from pydantic import BaseModel

from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.sentences import sentence
from lantern.core.steps.shape import drawing
from lantern.core.text.names import slug
from lantern.core.text.schema import schema
from lantern.store import calls, elements, tests, texts
from lantern.store.rows import unpacked
from lantern.web import shapes
from lantern.web.context import blueprint, me, reply, services
from lantern.web.exports import FORMS
from lantern.web.views.tests import test_out

api = blueprint("texts")


class ByIdAndForm(BaseModel):
    """A test by its id, and a form."""

    id: int
    form: str


@api.get("/tests/<int:id>/text", operation_id="getText", responses={200: shapes.TextOut})
def get_text(path: shapes.ById) -> Response:
    """Return a test as text, with the elements that it uses."""
    with services().database.session() as session:
        test = tests.get(session, path.id)
        shape = shapes.TextOut(
            text=texts.text_of(session, test, with_elements=True),
            version=test.version,
            forms=[
                shapes.FormOut(name=name, title=form.title, ending=form.ending)
                for name, form in FORMS.items()
            ],
        )
    return reply(shape)


@api.post("/tests/<int:id>/text", operation_id="putText", responses={200: shapes.TextPut})
def put_text(path: shapes.ById, body: shapes.TextAsk) -> Response:
    """Look a text through, or put it in the place of a test; nothing is half done."""
    shape = shapes.TextPut(troubles=[])
    with services().database.session() as session:
        try:
            put = texts.put_text(
                session, path.id, body.text, me().id, base=body.base, write=body.write
            )
        except BadInput as error:
            if not error.where.startswith("line "):
                raise
            line = int(error.where.removeprefix("line "))
            shape.troubles = [shapes.TroubleOut(line=line, message=error.message, hint=error.hint)]
            session.rollback()
            return reply(shape)
        shape.troubles = [shapes.TroubleOut.model_validate(one) for one in put.troubles]
        if body.write and not put.troubles:
            shape.test = test_out(session, put.test)
    return reply(shape)


@api.get("/tests/<int:id>/exports/<string:form>", operation_id="exportTest", responses={200: None})
def export_test(path: ByIdAndForm) -> Response:
    """Return a test in one of its forms, as a file."""
    if path.form not in FORMS:
        raise UnknownName("form", path.form, FORMS)
    form = FORMS[path.form]
    with services().database.session() as session:
        test = tests.get(session, path.id)
        content = form.make(session, test)
        name = slug(test.name, ())
    if form.ending == "py":
        name = "test_" + name.replace("-", "_")
    headers = {"Content-Disposition": f'attachment; filename="{name}.{form.ending}"'}
    return Response(content, mimetype=form.mime, headers=headers)


@api.get("/tests/<int:id>/shape", operation_id="getShape", responses={200: shapes.DrawingOut})
def get_shape(path: shapes.ById) -> Response:
    """Return the flow of control of a test as boxes and arrows."""
    with services().database.session() as session:
        document = unpacked(tests.get(session, path.id))
        known = elements.load(session, document.element_ids())
        called = calls.load(session, document.flow_ids())
    flows = {key: flow.name for key, flow in called.items()}
    found = drawing(document.steps, lambda step: sentence(step, known, flows=flows))
    return reply(shapes.DrawingOut.model_validate(found))


@api.get("/lantern.schema.json", operation_id="getSchema", responses={200: None})
def get_schema() -> Response:
    """Return the JSON Schema of tests as text."""
    return Response(json.dumps(schema(), indent=1), mimetype="application/schema+json")
