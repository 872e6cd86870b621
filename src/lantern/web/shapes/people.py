"""People and signing in."""

from __future__ import annotations

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


class Me(Shape):
    """Who is signed in; `csrf` goes into the header X-CSRF-Token of every change."""

    account: Person
    csrf: str


class NewPerson(Shape):
    """An account to be created."""

    username: str
    name: str = ""
    role: str = "tester"
    password: str


class People(Shape):
    """All accounts."""

    people: list[Person]
