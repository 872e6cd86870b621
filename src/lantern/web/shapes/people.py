"""People and signing in."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from lantern.web.shapes.base import Shape


class SignInAsk(Shape):
    """Who wants to sign in."""

    username: str = Field(max_length=200)
    password: str = Field(max_length=1000)


class FirstAsk(Shape):
    """The first lead, let in by the `token` of the address that the start of Lantern said."""

    token: str = Field(max_length=200)
    username: str = Field(max_length=80)
    name: str = Field(default="", max_length=120)
    password: str = Field(max_length=1000)


class Person(Shape):
    """An account."""

    id: int
    username: str
    name: str
    role: str
    disabled: bool
    email: str


class PersonNamed(Shape):
    """An account by its name."""

    id: int
    name: str


class Me(Shape):
    """Who is signed in; `csrf` goes into the header X-CSRF-Token of every change."""

    account: Person
    csrf: str


class NewPerson(Shape):
    """An account to be created."""

    username: str = Field(max_length=80)
    name: str = Field(default="", max_length=120)
    role: str = "tester"
    password: str = Field(max_length=1000)
    email: str = Field(default="", max_length=254)


class PasswordChange(Shape):
    """One's own password, and another for it."""

    old: str = Field(max_length=1000)
    new: str = Field(max_length=1000)


class PersonChange(Shape):
    """What is to change of an account; what is left out stays."""

    name: str | None = Field(default=None, max_length=120)
    role: str | None = None
    disabled: bool | None = None
    email: str | None = Field(default=None, max_length=254)
    password: str | None = Field(default=None, max_length=1000)


class SecurityEventOut(Shape):
    """Something that matters for security: `who` did what, `about` what, from where."""

    id: int
    at: datetime
    what: str
    who: str
    about: str
    origin: str


class SecurityEvents(Shape):
    """A page of the security events, newest first; `next` leads to older ones, "" at the end."""

    events: list[SecurityEventOut]
    next: str


class People(Shape):
    """A page of the accounts, by name; `next` leads on, "" at the end."""

    people: list[Person]
    next: str


class TokenAsk(Shape):
    """Make a token that lets a program in as oneself, for some days."""

    name: str = Field(max_length=200)
    scope: Literal["read", "run", "write"] = "run"
    days: int = 90


class TokenOut(Shape):
    """A token as it is listed: how it `begins`, what it is good for, and when it was used last."""

    id: int
    name: str
    begins: str
    scope: str
    made_at: datetime
    ends_at: datetime
    used_at: datetime | None
    used_from: str


class TokenMade(Shape):
    """A token that was just made; `token` is told only now."""

    token: str
    made: TokenOut


class TokenList(Shape):
    """One's own tokens, newest first."""

    tokens: list[TokenOut]
