"""What holds for the whole project, and renaming its variables."""

from __future__ import annotations

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.steps.model import Settings
from lantern.store import preferences, variables
from lantern.store.database import tell
from lantern.web import shapes
from lantern.web.context import blueprint, me, need_lead, reply, services

api = blueprint("project")


def _out(session: Session) -> shapes.ProjectOut:
    found = preferences.get(session)
    settings = found.settings
    return shapes.ProjectOut(
        limit=settings.limit,
        on_failure=settings.on_failure,
        pictures=settings.pictures,
        retries=settings.retries,
        on_interrupted=settings.on_interrupted,
        before=found.before,
        after=found.after,
    )


@api.get("/project", operation_id="getProject", responses={200: shapes.ProjectOut})
def get_project() -> Response:
    """Return what holds for every test that does not say otherwise."""
    with services().database.session() as session:
        shape = _out(session)
    return reply(shape)


@api.put("/project", operation_id="setProject", responses={200: shapes.ProjectOut})
def set_project(body: shapes.ProjectOut) -> Response:
    """Set what holds for every test that does not say otherwise; only a lead may."""
    need_lead()
    settings = Settings(
        body.limit, body.on_failure, body.pictures, body.retries, body.on_interrupted
    )
    with services().database.session() as session:
        wanted = preferences.Preferences(settings, body.before, body.after)
        preferences.put(session, wanted)
        tell(session, "project")
        shape = _out(session)
    return reply(shape)


@api.get("/variables", operation_id="usesOfVariable", responses={200: shapes.VariableUses})
def uses_of_variable(query: shapes.VariableAsk) -> Response:
    """Tell where a variable is used."""
    with services().database.session() as session:
        found = [
            shapes.FlowUses(
                id=one.test.id,
                kind=one.test.kind,
                name=one.test.name,
                sentences=list(one.sentences),
            )
            for one in variables.uses(session, query.name)
        ]
        named = [one.name for one in variables.elements_with(session, query.name)]
    return reply(shapes.VariableUses(tests=found, elements=named))


@api.post("/variables/rename", operation_id="renameVariable", responses={200: shapes.Count})
def rename_variable(body: shapes.VariableRename) -> Response:
    """Rename a variable in every environment and wherever it is used; only a lead may."""
    need_lead()
    with services().database.session() as session:
        count = variables.rename(session, body.old, body.new.strip(), me().id)
    return reply(shapes.Count(count=count))
