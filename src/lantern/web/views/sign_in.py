"""Signing in and out, people, and what of it matters for security."""

from __future__ import annotations

from flask import Response, request

from lantern.store import accounts, audit, first, lists, tokens
from lantern.store.models import Account
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, need_lead, reply, services, signed_in
from lantern.web.guard import COOKIE
from lantern.web.problems import problem

api = blueprint("sign_in")


def _origin() -> str:
    return request.remote_addr or ""


@api.post("/sign-in", operation_id="signIn", responses={200: shapes.Me})
def sign_in(body: shapes.SignInAsk) -> Response:
    """Sign in with a name and a password."""
    account = checked(body.username, body.password)
    if account is None:
        return problem("wrong", "That name and password do not fit together.", 401, "password")
    return _signed_in(account)


def _signed_in(account: Account) -> Response:
    """Sign somebody in on this browser."""
    with services().database.session() as session:
        account = accounts.get(session, account.id)
        token, entry = accounts.sign_in(session, account)
        audit.note(session, "signed in", account.name, origin=_origin())
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


def checked(username: str, password: str) -> Account | None:
    """Return the account whose name and password these are; raises TooMany.

    The attempt is committed before the password is looked at: many at once are counted as well.
    """
    username = username.strip()
    database = services().database
    try:
        with database.session() as session:
            attempt = accounts.begin_sign_in(session, username, _origin())
        with database.session() as session:
            account = accounts.check_password(session, username, password, attempt)
            if account is None:
                audit.note(session, "sign-in failed", about=username, origin=_origin())
    except accounts.TooMany:
        with database.session() as session:
            audit.note_once(session, "sign-in refused", about=username, origin=_origin())
        raise
    return account


@api.post("/first", operation_id="firstLead", responses={200: shapes.Me})
def first_lead(body: shapes.FirstAsk) -> Response:
    """Make the account of the first lead, by the address that the start of Lantern said."""
    with services().database.session() as session:
        account = first.make(session, body.token, body.username, body.name, body.password)
        audit.note(session, "account created", account.name, f"{account.name}, lead", _origin())
    return _signed_in(account)


@api.post("/sign-out", operation_id="signOut", responses={200: shapes.Done})
def sign_out() -> Response:
    """Sign out on this browser; what is open under it ends at once."""
    with services().database.session() as session:
        accounts.sign_out(session, request.cookies.get(COOKIE, ""))
        audit.note(session, "signed out", me().name, origin=_origin())
    answer = done()
    answer.delete_cookie(COOKIE)
    return answer


@api.post("/me/password", operation_id="changePassword", responses={200: shapes.Done})
def change_password(body: shapes.PasswordChange) -> Response:
    """Change one's own password; all other sign-ins of the account end."""
    if checked(me().username, body.old) is None:
        return problem("wrong", "That is not your password.", 422, "old")
    with services().database.session() as session:
        account = accounts.get(session, me().id)
        accounts.change_password(session, account, body.new, request.cookies.get(COOKIE, ""))
        audit.note(session, "password changed", account.name, origin=_origin())
    return done()


@api.get("/me", operation_id="me", responses={200: shapes.Me})
def who() -> Response:
    """Tell who is signed in."""
    entry = signed_in()
    return reply(shapes.Me(account=shapes.Person.model_validate(entry.account), csrf=entry.csrf))


@api.get("/me/tokens", operation_id="listTokens", responses={200: shapes.TokenList})
def list_tokens() -> Response:
    """List one's own access tokens."""
    with services().database.session() as session:
        found = [shapes.TokenOut.model_validate(one) for one in tokens.of(session, me().id)]
    return reply(shapes.TokenList(tokens=found))


@api.post("/me/tokens", operation_id="makeToken", responses={200: shapes.TokenMade})
def make_token(body: shapes.TokenAsk) -> Response:
    """Make an access token; what it is is told only now."""
    with services().database.session() as session:
        token, row = tokens.make(session, me().id, body.name, body.scope, body.days)
        audit.note(session, "token made", me().name, f"{row.name}, to {row.scope}", _origin())
        session.refresh(row)
        made = shapes.TokenOut.model_validate(row)
    return reply(shapes.TokenMade(token=token, made=made))


@api.delete("/me/tokens/<int:id>", operation_id="dropToken", responses={200: shapes.Done})
def drop_token(path: shapes.ById) -> Response:
    """Take an access token back; it is good for nothing from now on."""
    with services().database.session() as session:
        row = tokens.drop(session, me().id, path.id)
        audit.note(session, "token taken back", me().name, row.name, _origin())
    return done()


@api.get("/people", operation_id="listPeople", responses={200: shapes.People})
def people(query: shapes.ListAsk) -> Response:
    """List the accounts by name; words are looked for in both of their names."""
    with services().database.session() as session:
        found = lists.of_people(session, query.q.strip(), query.after)
        listed = [shapes.Person.model_validate(one) for one in found.rows]
    return reply(shapes.People(people=listed, next=found.next))


@api.post("/people", operation_id="createPerson", responses={200: shapes.Person})
def create_person(body: shapes.NewPerson) -> Response:
    """Create an account; only a lead may."""
    need_lead()
    with services().database.session() as session:
        account = accounts.create(session, body.username, body.name, body.role, body.password)
        accounts.change(session, account, email=body.email)
        audit.note(session, "account created", me().name, f"{account.name}, {account.role}")
    return reply(shapes.Person.model_validate(account))


@api.patch("/people/<int:id>", operation_id="changePerson", responses={200: shapes.Person})
def change_person(path: shapes.ById, body: shapes.PersonChange) -> Response:
    """Change somebody's name, role or password, disable or enable them; only a lead may."""
    need_lead()
    with services().database.session() as session:
        account = accounts.get(session, path.id)
        before = account.role, account.disabled, account.name
        accounts.change(
            session,
            account,
            name=body.name,
            role=body.role,
            disabled=body.disabled,
            email=body.email,
        )
        if body.password is not None:
            accounts.change_password(session, account, body.password)
            audit.note(session, "password reset", me().name, account.name, _origin())
        if account.role != before[0]:
            told = f"{account.name}: {before[0]} → {account.role}"
            audit.note(session, "role changed", me().name, told, _origin())
        if account.disabled != before[1]:
            what = "account disabled" if account.disabled else "account enabled"
            audit.note(session, what, me().name, account.name, _origin())  # type: ignore[arg-type]
        if account.name != before[2]:
            told = f"{before[2]} → {account.name}"
            audit.note(session, "name changed", me().name, told, _origin())
    return reply(shapes.Person.model_validate(account))


@api.delete("/people/<int:id>", operation_id="deletePerson", responses={200: shapes.Done})
def delete_person(path: shapes.ById) -> Response:
    """Delete somebody's account; what they did keeps their name. Only a lead may."""
    need_lead()
    with services().database.session() as session:
        account = accounts.get(session, path.id)
        accounts.remove(session, account)
        audit.note(session, "account deleted", me().name, account.name, _origin())
    return done()


@api.get("/security-events", operation_id="securityEvents", responses={200: shapes.SecurityEvents})
def security_events(query: shapes.ListAsk) -> Response:
    """List what matters for security, newest first; only a lead may."""
    need_lead()
    with services().database.session() as session:
        found = audit.listed(session, query.q.strip(), query.after)
        events = [shapes.SecurityEventOut.model_validate(one) for one, *_ in found.rows]
    return reply(shapes.SecurityEvents(events=events, next=found.next))
