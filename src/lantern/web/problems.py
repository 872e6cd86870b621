"""Errors as answers: one body for all of them."""

from __future__ import annotations

from typing import Any

import structlog
from flask import Flask, Response, request
from pydantic import ValidationError
from sqlalchemy.exc import DataError, IntegrityError, OperationalError
from werkzeug.exceptions import HTTPException

from lantern.core.problems import Problem
from lantern.core.runs.life import TooLate
from lantern.core.storable import storable
from lantern.web import shapes
from lantern.web.context import reply

log = structlog.get_logger()
STATUS = {
    "bad_input": 422,
    "unknown_name": 422,
    "missing": 404,
    "conflict": 409,
    "built_on": 409,
    "forbidden": 403,
    "not_invited": 403,
    "sign_in_needed": 401,
    "too_many": 429,
    "no_station": 503,
    "not_printed": 503,
}


def problem(code: str, message: str, status: int, where: str = "", hint: str = "") -> Response:
    """Return an error's answer."""
    return reply(shapes.Problem(code=code, message=message, where=where, hint=hint), status)


def of_problem(error: Problem) -> Response:
    """Return the answer for an error of the core."""
    status = STATUS.get(error.code, 422)
    return problem(error.code, error.message, status, error.where, error.hint)


def of_validation(error: ValidationError) -> Response:
    """Return the answer for a request that does not have the declared shape."""
    if request.data and request.is_json:
        try:
            request.get_json()
        except HTTPException:
            return problem("bad_json", "The request is not valid JSON.", 400)
    first: Any = error.errors(include_url=False)[0]
    where = ".".join(str(part) for part in first["loc"])
    if first["type"] == "union_tag_invalid":
        told = first["ctx"]
        said = f"There is no {first['loc'][-1]} named “{told['tag']}”."
        return problem("bad_input", said, 422, where, f"Known: {told['expected_tags']}.")
    return problem("bad_input", f"{where}: {first['msg']}.", 422, where)


def init_app(app: Flask) -> None:
    """Attach the error handlers."""

    @app.before_request
    def readable() -> Response | None:
        asked = (request.path, *request.args.keys(), *request.args.values())
        if all(storable(text) == text for text in asked):
            return None
        return problem("bad_text", "The address holds characters that are no text.", 400)

    @app.errorhandler(Problem)
    def core(error: Problem) -> Response:
        return of_problem(error)

    @app.errorhandler(TooLate)
    def too_late(error: TooLate) -> Response:
        return problem("too_late", str(error), 410)

    @app.errorhandler(IntegrityError)
    def taken(error: IntegrityError) -> Response:
        log.warning("integrity", error=str(error.orig))
        return problem("conflict", "That is taken or still in use elsewhere.", 409)

    @app.errorhandler(DataError)
    def no_such_value(error: DataError) -> Response:
        log.warning("data", error=type(error.orig).__name__)
        return problem("bad_input", "A number in the request is larger than any that is kept.", 422)

    @app.errorhandler(OperationalError)
    def no_database(error: OperationalError) -> Response:
        log.error("database_away", error=str(error.orig))
        return problem(
            "no_database", "The database does not answer.", 503, hint="Try again in a moment."
        )

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Response:
        if error.response is not None:
            return error.response  # type: ignore[return-value]
        code = (error.name or "error").lower().replace(" ", "_")
        return problem(code, error.description or error.name, error.code or 500)

    @app.errorhandler(Exception)
    def unforeseen(error: Exception) -> Response:
        log.exception("unforeseen", path=request.path)
        return problem(
            "unforeseen",
            "Lantern itself made a mistake; its log says more.",
            500,
            hint="Try again. If it stays, tell whoever runs Lantern.",
        )
