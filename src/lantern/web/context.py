"""What the views share: the database, the vault and the hub of the running application."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from typing import Any, cast

from flask import Response, current_app, g
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Conflict, Problem
from lantern.store.database import Database
from lantern.store.models import Account, SignIn
from lantern.store.vault import Vault
from lantern.web import shapes
from lantern.web.hub import Hub


@dataclass(frozen=True)
class Services:
    """What the application works with."""

    database: Database
    vault: Vault
    hub: Hub


def services() -> Services:
    """Return the services of the running application."""
    return cast(Services, current_app.extensions["lantern"])


def signed_in() -> SignIn:
    """Return who is signed in; the guard has made sure that someone is."""
    return cast(SignIn, g.sign_in)


def me() -> Account:
    """Return the account that is signed in."""
    return signed_in().account


class Forbidden(Problem):
    """The account may not do that."""

    code = "forbidden"


def check_still(was: str | None, now: str, where: str) -> None:
    """Raise Conflict where a part is no longer what its author changed it from; None for any."""
    if was is not None and was != now:
        raise Conflict(
            f"The {where} was changed by someone else meanwhile.",
            where=where,
            hint="Read it anew; make your change again if it is needed.",
        )


def need_version(version: int | None) -> int:
    """Return the version that a change is made on; raises BadInput where it is not said."""
    if version is None:
        raise BadInput("Say which version was read.", where="version")
    return version


def need_lead() -> None:
    """Raise Forbidden unless a lead is signed in."""
    if me().role != "lead":
        raise Forbidden("Only a lead may do that.", hint="Ask a lead of your team.")


def blueprint(name: str) -> APIBlueprint:
    """Return a blueprint of the API, with the one shape of errors declared."""
    problems: Any = dict.fromkeys((400, 401, 403, 404, 409, 422, 429), shapes.Problem)
    return APIBlueprint(name, __name__, url_prefix="/api", abp_responses=problems)


def safe(session: Session, text: str) -> str:
    """Return a text that a person wrote without the secrets that stand in it."""
    return services().vault.hide(session, text)


def reply(shape: BaseModel, status: int = 200) -> Response:
    """Return a shape as a JSON response."""
    return Response(shape.model_dump_json(), status, mimetype="application/json")


def bytes_of(text: str, where: str) -> bytes:
    """Return the bytes that a text of base64 stands for; raises BadInput with `where` it was."""
    try:
        return base64.b64decode(text, validate=True)
    except ValueError as error:  # letters that are none of its own, or no whole number of bytes
        raise BadInput("The content of a file is sent as base64.", where=where) from error


def done() -> Response:
    """Return that it is done."""
    return reply(shapes.Done())


def attached(content: str | bytes, mime: str, name: str) -> Response:
    """Return a text, or bytes, as a file that is saved under a name."""
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(content, mimetype=mime, headers=headers)
