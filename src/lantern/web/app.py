"""The web application."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterable
from functools import partial
from pathlib import Path
from typing import Any

import structlog
from flask import Response, send_from_directory
from flask.json.provider import DefaultJSONProvider
from flask_openapi3 import Info, OpenAPI
from werkzeug.exceptions import NotFound
from werkzeug.middleware.proxy_fix import ProxyFix

from lantern import __version__
from lantern.core.storable import read_json
from lantern.store import logs
from lantern.store.database import Database, address
from lantern.store.reconciling import keep_reconciling
from lantern.store.vault import Vault
from lantern.web import guard, live, metrics, problems, sending
from lantern.web.context import Services
from lantern.web.document import Documented
from lantern.web.hub import Hub
from lantern.web.views import (
    besides,
    blind,
    comments,
    defects,
    designs,
    element_history,
    elements,
    flows,
    hooks,
    impact,
    joined,
    keeping,
    mail,
    pages,
    places,
    plan_runs,
    plans,
    project,
    proofs,
    rehearsing,
    remotes,
    reports,
    requirements,
    runs,
    schedules,
    sign_in,
    stations,
    tables,
    tests,
    texts,
    trackers,
    trends,
    verdicts,
    versions,
    visits,
)

log = structlog.get_logger()
VIEWS = (
    sign_in,
    places,
    project,
    tests,
    tables,
    designs,
    flows,
    elements,
    element_history,
    impact,
    pages,
    plans,
    plan_runs,
    schedules,
    proofs,
    runs,
    stations,
    joined,
    remotes,
    hooks,
    mail,
    keeping,
    rehearsing,
    defects,
    trackers,
    verdicts,
    blind,
    besides,
    trends,
    requirements,
    reports,
    comments,
    versions,
    visits,
    texts,
)
"""The resources of the API."""
STATIC = Path(__file__).parent / "static"
LARGEST_REQUEST = 32 * 1024 * 1024
SWEEP = 3.0
"""Seconds between two looks for runs whose station died."""

METHODS = ("GET", "POST", "PUT", "PATCH", "DELETE")
"""What an address of the API can be asked with: the wrong one leads to nothing as well."""
Wsgi = Callable[[dict[str, Any], Callable[..., Any]], Iterable[bytes]]


class Json(DefaultJSONProvider):
    """Reads bodies of requests so that all their texts can be kept."""

    def loads(self, s: str | bytes, **_: Any) -> Any:  # noqa: ANN401 - any JSON value
        """Return the value of a JSON text; raises ValueError."""
        return read_json(s)


class Uncompressed:
    """WSGI: WebSockets without compression, which costs more than it saves with pictures."""

    def __init__(self, inner: Wsgi) -> None:
        self._inner = inner

    def __call__(self, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        """Pass a request on without the header that offers compression."""
        environ.pop("HTTP_SEC_WEBSOCKET_EXTENSIONS", None)
        return self._inner(environ, start)


def create_app(url: str | None = None, key_file: str | None = None) -> OpenAPI:
    """Return the application for a database address and a key file (else the environment's)."""
    url = url or address()
    app = Documented(
        __name__,
        info=Info(title="Lantern", version=__version__),
        security_schemes={
            "signIn": {"type": "apiKey", "in": "cookie", "name": guard.COOKIE},
        },
        validation_error_callback=problems.of_validation,
        doc_prefix="/api",
        doc_ui=True,
        static_folder=None,
    )
    app.json = Json(app)
    app.config["MAX_CONTENT_LENGTH"] = LARGEST_REQUEST
    database = Database(url)
    app.extensions["lantern"] = Services(database, Vault(key_file), Hub(database, runs.delta_of))
    guard.init_app(app)
    problems.init_app(app)
    for views in VIEWS:
        app.register_api(views.api)
    live.init_app(app)
    _serve_pages(app)
    app.wsgi_app = Uncompressed(app.wsgi_app)  # type: ignore[method-assign,assignment]
    metrics.init_app(app)
    return app


def _serve_pages(app: OpenAPI) -> None:
    @app.route("/api/<path:path>", methods=METHODS)
    def nothing(path: str) -> Response:
        raise NotFound("There is nothing at that address.")

    @app.route("/")
    @app.route("/<path:path>")
    def page(path: str = "") -> Response:
        if path and (STATIC / path).is_file():
            response = send_from_directory(STATIC, path)
            if path.startswith("assets/"):  # their names change with their content
                response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return response
        return send_from_directory(STATIC, "index.html")


def trust_proxies(app: OpenAPI, count: int) -> None:
    """Take the word of so many reverse proxies in front about who asks, and how."""
    if count:
        app.wsgi_app = ProxyFix(  # type: ignore[method-assign]
            app.wsgi_app, x_for=count, x_proto=count, x_host=count
        )


def serve() -> OpenAPI:
    """Return the application for gunicorn, with its housekeeping started."""
    logs.configure()
    os.environ.setdefault("LANTERN_SAMPLE", "")
    app = create_app()
    trust_proxies(app, int(os.environ.get("LANTERN_PROXIES", "0")))
    database = app.extensions["lantern"].database
    reconciling = partial(keep_reconciling, database, threading.Event().wait)
    threading.Thread(target=reconciling, name="reconciler", daemon=True).start()
    vault = app.extensions["lantern"].vault
    sending.begin(database, vault, os.environ.get("LANTERN_ADDRESS", "").rstrip("/"))
    return app
