"""Signing in and out, and people."""

from __future__ import annotations

from flask import Response, request
from sqlalchemy import select

from lantern.store import accounts
from lantern.store.models import Account
from lantern.web import shapes
from lantern.web.context import blueprint, done, need_lead, reply, services, signed_in
from lantern.web.guard import COOKIE
from lantern.web.problems import problem

api = blueprint("sign_in")


@api.post("/sign-in", operation_id="signIn", responses={200: shapes.Me})
def sign_in(body: shapes.SignInAsk) -> Response:
    """Sign in with a name and a password."""
    with services().database.session() as session:
        account = accounts.check_password(
            session, body.username.strip(), body.password, request.remote_addr or ""
        )
        if account:
            token, entry = accounts.sign_in(session, account)
    if account is None:
        return problem("wrong", "That name and password do not fit together.", 401, "password")
    answer = reply(shapes.Me(account=shapes.Person.model_validate(account), csrf=entry.csrf))
    answer.set_cookie(
        COOKIE,
        token,
        max_age=accounts.SIGN_IN_LASTS,
        httponly=True,
        samesite="Lax",
        secure=request.is_secure,
    )
    return answer


@api.post("/sign-out", operation_id="signOut", responses={200: shapes.Done})
def sign_out() -> Response:
    """Sign out on this browser."""
    with services().database.session() as session:
        accounts.sign_out(session, request.cookies.get(COOKIE, ""))
    answer = done()
    answer.delete_cookie(COOKIE)
    return answer


@api.get("/me", operation_id="me", responses={200: shapes.Me})
def who() -> Response:
    """Tell who is signed in."""
    entry = signed_in()
    return reply(shapes.Me(account=shapes.Person.model_validate(entry.account), csrf=entry.csrf))


@api.get("/people", operation_id="listPeople", responses={200: shapes.People})
def people() -> Response:
    """List the accounts."""
    with services().database.session() as session:
        found = session.scalars(select(Account).order_by(Account.name)).all()
    return reply(shapes.People(people=[shapes.Person.model_validate(one) for one in found]))


@api.post("/people", operation_id="createPerson", responses={200: shapes.Person})
def create_person(body: shapes.NewPerson) -> Response:
    """Create an account; only a lead may."""
    need_lead()
    with services().database.session() as session:
        account = accounts.create(session, body.username, body.name, body.role, body.password)
    return reply(shapes.Person.model_validate(account))
