"""Who may do what: sign-in, roles, forged requests, and the headers of every answer."""

from __future__ import annotations

import hmac
import os
import re
from http import HTTPStatus
from urllib.parse import urlsplit

from flask import Flask, Response, g, request

from lantern.core.problems import Problem
from lantern.store import accounts, audit, joining, tokens
from lantern.store.models import Account, SignIn, Station
from lantern.web.context import Forbidden, services

COOKIE = "lantern_sign_in"
OPEN = frozenset(
    {
        "/api/health",
        "/api/sign-in",
        "/api/openapi.json",
        "/api/first",
        "/api/joining",
        "/api/trackers/told",  # signed, which is looked at there
    }
)
MOST_OF_STRANGERS = 64 * 1024
"""Bytes that are read of who has not said who they are."""
JOINED = "/api/joined/"
"""Where paths begin that are for stations that joined, and for nobody else."""
SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
OWN = re.compile(r"/api/(sign-out|me/password|me/(tokens|filters)(/\d+)?|notices/seen)")
"""What everybody does for themselves, viewers too."""
ASKING = frozenset({"/api/plans/outlook", "/api/schedules/preview"})
"""What is asked with a body, and changes nothing."""
PEOPLE = ("/people", "/me/", "/sign-", "/security-events", "/live/", "/notices")
"""Where paths begin that are a person's own business."""
RUNNING = re.compile(
    r"/(plans|tests)/\d+/runs|/(plan-runs|runs|casts)/\d+/cancel|/plan-runs/\d+/(again|cell/cancel)"
)
"""What starts and stops runs."""
POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; "
    "script-src 'self'; connect-src 'self' ws: wss:; object-src 'none'; base-uri 'none'; "
    "frame-ancestors 'none'; form-action 'self'"
)


class SignInNeeded(Problem):
    """Nobody is signed in."""

    code = "sign_in_needed"


def same_origin() -> bool:
    """Tell whether the request comes from Lantern's own pages, as far as its headers say."""
    origin = request.headers.get("Origin")
    return origin is None or urlsplit(origin).netloc == request.host


def _open(path: str) -> bool:
    """Tell whether everybody may ask for it."""
    if path == "/api/metrics":
        return os.environ.get("LANTERN_METRICS") == "open"
    return not path.startswith("/api/") or path in OPEN


def check() -> None:
    """Let only those through who may; runs before every request.

    Raises SignInNeeded or Forbidden.
    """
    if _open(request.path):
        if request.method not in SAFE and not same_origin():
            raise Forbidden("That request came from another site.")
        if (request.content_length or 0) > MOST_OF_STRANGERS:
            raise Forbidden("That is more than anybody says before they are known.")
        return
    kind, _, token = request.headers.get("Authorization", "").partition(" ")
    if request.path.startswith(JOINED):
        g.station = _station(token.strip() if kind.lower() == "bearer" else "")
        return
    if kind.lower() == "bearer":
        g.sign_in = _by_token(token.strip())
        return
    with services().database.session() as session:
        entry = accounts.signed_in(session, request.cookies.get(COOKIE, ""))
    if entry is None:
        raise SignInNeeded("You are not signed in.", hint="Sign in and try again.")
    g.sign_in = entry
    if request.path.startswith("/api/live/") and not same_origin():
        raise Forbidden("That request came from another site.")
    if request.method in SAFE:
        return
    token = request.headers.get("X-CSRF-Token", "")
    if not same_origin() or not hmac.compare_digest(token.encode(), entry.csrf.encode()):
        raise Forbidden(
            "The request lacked the token of your sign-in.", hint="Reload the page and try again."
        )
    _check_role(entry.account)


def _changes() -> bool:
    """Tell whether the request may change something."""
    return request.method not in SAFE and request.path not in ASKING


def _check_role(account: Account) -> None:
    """Raise Forbidden where a viewer would change what is not their own."""
    if account.role == "viewer" and _changes() and not OWN.fullmatch(request.path):
        raise Forbidden("A viewer may look but not change anything.", hint="Ask a lead for a role.")


def _by_token(token: str) -> SignIn:
    """Return who a token lets in for this request; raises SignInNeeded or Forbidden.

    It comes from no browser, so that nobody can have forged the request by way of one.
    """
    with services().database.session() as session:
        origin = request.remote_addr or ""
        found = tokens.used(session, token, origin)
        if found is None:  # what was sent may be anything, such as a password: it is not told
            audit.note_once(session, "token refused", origin=origin)
    if found is None:
        raise SignInNeeded("That token is good for nothing.", hint="It has ended, or never was.")
    account, scope = found
    if not _may(scope, request.path.removeprefix("/api")):
        raise Forbidden(f"A token to {scope} may not do that.", hint="Make one with a wider scope.")
    _check_role(account)
    return SignIn(account=account, csrf="", token_hash="")


def _station(secret: str) -> Station:
    """Return which station a secret is of, to which it alone gives access; raises SignInNeeded."""
    with services().database.session() as session:
        found = joining.by_secret(session, secret) if secret else None
        if found is None:
            audit.note_once(session, "token refused", origin=request.remote_addr or "")
    if found is None:
        raise SignInNeeded(
            "This station is not known (any more): it was retired.",
            hint="Ask a lead for a token, and let it join anew.",
        )
    return found


def _may(scope: tokens.Scope, path: str) -> bool:
    """Tell whether a token with a scope may do something; never what only a person may."""
    if path.startswith(PEOPLE):
        return False
    runs = scope == "run" and RUNNING.fullmatch(path) is not None
    return not _changes() or scope == "write" or runs


def add_headers(response: Response) -> Response:
    """Add the headers that keep hostile text from doing harm."""
    response.headers.setdefault("Content-Security-Policy", POLICY)
    response.headers.setdefault("X-Content-Type-Options", "nosniff")
    response.headers.setdefault("Referrer-Policy", "same-origin")
    if request.path.startswith("/api/"):
        response.headers.setdefault("Cache-Control", "no-store")
    return response


def note_what_matters(response: Response) -> Response:
    """Note refusals and exports in the list of security events."""
    refused = response.status_code == HTTPStatus.FORBIDDEN
    exported = "attachment" in response.headers.get("Content-Disposition", "")
    if not request.path.startswith("/api/") or not (refused or exported):
        return response
    entry = g.get("sign_in")
    who = entry.account.name if entry else ""
    about = f"{request.method} {request.path}"
    with services().database.session() as session:
        note = audit.note_once if refused else audit.note
        note(session, "refused" if refused else "exported", who, about, request.remote_addr or "")
    return response


def init_app(app: Flask) -> None:
    """Attach the guard."""
    app.before_request(check)
    app.after_request(add_headers)
    app.after_request(note_what_matters)
