"""People and signing in."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from lantern.web.shapes.base import Shape


class SignInAsk(Shape):
    """Who wants to sign in."""

    username: str = Field(max_length=200)
    password: str = Field(max_length=1000)


class Person(Shape):
    """An account."""

    id: int
    username: str
    name: str
    role: str
    disabled: bool


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


class PasswordChange(Shape):
    """One's own password, and another for it."""

    old: str = Field(max_length=1000)
    new: str = Field(max_length=1000)


class PersonChange(Shape):
    """What is to change of an account; what is left out stays."""

    name: str | None = Field(default=None, max_length=120)
    role: str | None = None
    disabled: bool | None = None
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
