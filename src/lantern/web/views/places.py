"""What is around the tests: health, catalogue, environments, stations, pictures, search."""

from __future__ import annotations

import json
import os
import urllib.request
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, Literal
from urllib.parse import urlencode

from flask import Response, request
from sqlalchemy import Row, select, text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from lantern import __version__
from lantern.core.elements.clues import OPERATORS
from lantern.core.elements.kinds import KINDS
from lantern.core.elements.suggesting import FACTS
from lantern.core.engine.browsers import Browser, Engine
from lantern.core.engine.outcomes import StepFailed
from lantern.core.problems import BadInput, Missing
from lantern.core.review.defects import PRIORITIES, SEVERITIES, STATES
from lantern.core.steps.actions.navigating import full_address
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.properties import COMPARISONS, PROPERTIES
from lantern.core.values.made import FUNCTIONS
from lantern.core.values.sources import SOURCES
from lantern.core.values.templates import check_name
from lantern.store import accounts, audit, lists, pictures, remotes, stations, vault
from lantern.store.database import tell
from lantern.store.models import Environment
from lantern.web import shapes
from lantern.web.context import blueprint, check_still, done, me, reply, services
from lantern.web.problems import problem

api = blueprint("places")


@api.get("/health", operation_id="health", responses={200: shapes.Health, 503: shapes.Health})
def health() -> Response:
    """Tell how Lantern is: 200 once every part is ready, else 503."""
    parts = {"database": "ok", "stations": "none", "sample_application": "not configured"}
    try:
        with services().database.session() as session:
            session.execute(text("SELECT 1"))
            living = len(stations.alive(session))
        parts["stations"] = f"{living} up" if living else "none"
    except SQLAlchemyError:
        parts["database"] = "does not answer"
    sample = os.environ.get("LANTERN_SAMPLE", "")
    if sample:
        parts["sample_application"] = "ok" if _answers(f"{sample}/health") else "does not answer"
    well = (
        parts["database"] == "ok"
        and parts["stations"] != "none"
        and parts["sample_application"] in ("ok", "not configured")
    )
    status: Literal["ok", "starting"] = "ok" if well else "starting"
    shape = shapes.Health(status=status, version=__version__, troubles=_troubles(), **parts)
    return reply(shape, 200 if well else 503)


def _troubles() -> list[str]:
    """Return what who started this process told of parts that keep dying, without their logs."""
    try:
        told = json.loads(Path(os.environ["LANTERN_STATE_FILE"]).read_text())
        return [str(one).partition("; its log")[0] for one in told["troubles"]]
    except (KeyError, OSError, ValueError):
        return []


def _answers(address: str) -> bool:
    try:
        # The address comes from the start command, not from a person or a page.
        with urllib.request.urlopen(address, timeout=2) as answer:  # noqa: S310
            return bool(answer.status == 200)
    except OSError:
        return False


@api.get("/browsers", operation_id="browsers", responses={200: shapes.BrowsersOut})
def browsers() -> Response:
    """List the browsers that rows can run in, and how many stations offer each."""
    with services().database.session() as session:
        there = [one for one in stations.alive(session) if one.mode == "works"]
        offered = [{name: str(one.versions.get(name, "")) for name in one.engines} for one in there]
        found = [
            _browser(name, browser, remotes.engine(session, browser.engine), offered)
            for name, browser in remotes.catalogue(session).items()
        ]
    return reply(shapes.BrowsersOut(browsers=found))


def _browser(
    name: str, browser: Browser, engine: Engine, offered: Sequence[Mapping[str, str]]
) -> shapes.BrowserOut:
    return shapes.BrowserOut(
        name=name,
        title=browser.title,
        engine=browser.engine,
        package=engine.package,
        can=engine.can(),
        lacks=list(engine.lacks),
        stations=sum(browser.engine in engines for engines in offered),
        versions=sorted({one.get(browser.engine, "") for one in offered} - {""}),
    )


@api.get("/catalogue", operation_id="catalogue", responses={200: shapes.Catalogue})
def catalogue() -> Response:
    """List what steps, checks and defects can be made of."""
    actions = [
        shapes.ActionOut(
            name=action.name,
            title=action.title,
            template=action.template,
            help=action.help,
            inputs=[
                shapes.InputOut(
                    name=entry.name,
                    kind=entry.kind,
                    choices=list(entry.choices),
                    default=entry.default,
                    optional=entry.optional,
                )
                for entry in action.inputs
            ],
            kinds=None if action.kinds is None else sorted(action.kinds),
            onto=action.onto,
            block=action.block,
        )
        for action in ACTIONS.values()
    ]
    return reply(
        shapes.Catalogue(
            actions=actions,
            made=[
                shapes.MadeOut(
                    name=name,
                    title=one.title,
                    parts=[shapes.MadePart.model_validate(part) for part in one.parts],
                )
                for name, one in FUNCTIONS.items()
            ],
            sources=[
                shapes.SourceOut(
                    name=name,
                    tells=source.tells,
                    offered=source.offered,
                    within=source.within,
                    hidden=source.hidden,
                )
                for name, source in SOURCES.items()
            ],
            kinds=list(KINDS),
            operators=list(OPERATORS),
            facts=list(FACTS),
            comparisons=list(COMPARISONS),
            properties=list(PROPERTIES),
            severities=list(SEVERITIES),
            defect_states=list(STATES),
            priorities=list(PRIORITIES),
            roles=list(accounts.ROLES),
        )
    )


# -- environments --------------------------------------------------------------------------------


def environment_out(environment: Environment, secrets: list[str]) -> shapes.EnvironmentOut:
    """Return an environment's shape."""
    return shapes.EnvironmentOut(
        id=environment.id,
        name=environment.name,
        address=environment.address,
        reset=environment.reset or "",
        variables=environment.variables,
        secrets=secrets,
    )


def _check_address(address: str) -> str:
    address = address.strip().rstrip("/")
    try:
        return full_address(address, "").rstrip("/")
    except StepFailed as error:
        raise BadInput(
            f"“{address}” is not the address of an application.",
            where="address",
            hint="Write it in full, for example http://127.0.0.1:8091.",
        ) from error


@api.get("/environments", operation_id="listEnvironments", responses={200: shapes.Environments})
def environments() -> Response:
    """List the environments."""
    with services().database.session() as session:
        found = session.scalars(select(Environment).order_by(Environment.id)).all()
        listed = [environment_out(one, vault.names(session, one.id)) for one in found]
    return reply(shapes.Environments(environments=listed))


@api.post("/environments", operation_id="createEnvironment", responses={200: shapes.EnvironmentOut})
def create_environment(body: shapes.EnvironmentIn) -> Response:
    """Create an environment."""
    with services().database.session() as session:
        environment = Environment(
            name=_check_name_free(session, body.name), address=_check_address(body.address)
        )
        environment.reset = _check_reset(body.reset)
        environment.variables = _check_variables(body.variables)
        session.add(environment)
        session.flush()
        tell(session, "environment", id=environment.id)
        shape = environment_out(environment, [])
    return reply(shape)


def _check_reset(path: str) -> str:
    path = path.strip()
    if path and (not path.startswith("/") or path.startswith("//") or " " in path):
        raise BadInput(
            f"“{path}” is not a path of the application.",
            where="reset",
            hint="Write it from the first slash on, for example /reset.",
        )
    return path


def _check_variables(variables: dict[str, str]) -> dict[str, str]:
    for name in variables:
        check_name(name, "variable")
        if name == "base_url":
            raise BadInput(
                "base_url is the address itself.", where=name, hint="Choose another name."
            )
    return variables


def _check_name_free(session: Session, name: str, but: int | None = None) -> str:
    taken = session.scalar(select(Environment.id).filter_by(name=name))
    if taken not in (None, but):
        raise BadInput(f"There is an environment named “{name}” already.", where="name")
    return name


@api.put(
    "/environments/<int:id>",
    operation_id="changeEnvironment",
    responses={200: shapes.EnvironmentOut},
)
def change_environment(path: shapes.ById, body: shapes.EnvironmentChange) -> Response:
    """Change parts of an environment; what is not named stays as others have left it."""
    with services().database.session() as session:
        environment = _environment(session.get(Environment, path.id, with_for_update=True))
        if body.name is not None:
            check_still(body.was, environment.name, "name")
            environment.name = _check_name_free(session, body.name, path.id)
        if body.address is not None:
            check_still(body.was, environment.address, "address")
            environment.address = _check_address(body.address)
        if body.reset is not None:
            check_still(body.was, environment.reset or "", "path")
            environment.reset = _check_reset(body.reset)
        if body.variables is not None:
            merged = {**environment.variables, **body.variables}
            kept = {name: value for name, value in merged.items() if value is not None}
            environment.variables = _check_variables(kept)
        tell(session, "environment", id=path.id)
        shape = environment_out(environment, vault.names(session, path.id))
    return reply(shape)


def _environment(environment: Environment | None) -> Environment:
    if environment is None:
        raise Missing("That environment does not exist.", where="environment")
    return environment


@api.put("/environments/<int:id>/secrets", operation_id="putSecret", responses={200: shapes.Done})
def put_secret(path: shapes.ById, body: shapes.SecretIn) -> Response:
    """Keep a secret; it can be replaced but never read again."""
    with services().database.session() as session:
        _environment(session.get(Environment, path.id))
        check_name(body.name, "secret")
        services().vault.put(session, path.id, body.name, body.value)
        environment = _environment(session.get(Environment, path.id))
        told = f"{body.name} of {environment.name}"
        audit.note(session, "secret kept", me().name, told, request.remote_addr or "")
        tell(session, "environment", id=path.id)
    return done()


@api.get("/pictures/<string:key>", operation_id="picture", responses={200: None})
def picture(path: shapes.ByKey) -> Response:
    """Return a picture by its digest."""
    with services().database.session() as session:
        found = pictures.load(session, path.key)
    if found is None:
        return problem("missing", "That picture does not exist.", 404)
    response = Response(found.content, mimetype=found.mime)
    if not found.mime.startswith("image/") or found.mime == "image/svg+xml":
        # Files of the application under test are handed out, never shown as pages of Lantern.
        response = Response(found.content, mimetype="application/octet-stream")
        response.headers["Content-Disposition"] = "attachment"
    response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@api.get("/search", operation_id="search", responses={200: shapes.SearchOut})
def search(query: shapes.SearchAsk) -> Response:
    """Search tests, elements, runs and defects by name or number."""
    words = query.q.strip()
    number = int(words.lstrip("#")) if words.lstrip("#").isdecimal() else -1
    number = number if number < 2**31 else -1
    with services().database.session() as session:
        found = [_found(row) for row in lists.named(session, words, number)]
    return reply(shapes.SearchOut(found=found))


def _found(row: Row[Any]) -> shapes.Found:
    """Return how a thing that was found is told, and where it is."""
    title, detail, link = row.name, row.more, f"/{row.kind}s/{row.key}"
    if row.kind == "defect":
        detail = f"Defect {row.key} · {row.more}"
    elif row.kind == "run":
        title = f"Run {row.key} of {row.name}"
    elif row.kind == "element":
        detail = f"{row.more} on {row.last or 'no page'}"
        link = "/pages?" + urlencode({"page": row.last, "element": row.key})
    return shapes.Found(kind=row.kind, title=title, detail=detail, link=link)
