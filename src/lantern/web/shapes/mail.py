"""Mails, and the server that takes them."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from lantern.web.shapes.base import Shape
from lantern.web.shapes.hooks import MessageOut

Security = Literal["none", "starttls", "tls"]


class MailServerIn(Shape):
    """The server that takes mails as it is to be; a `password` of null stays as it is."""

    enabled: bool = True
    host: str = Field(max_length=255)
    port: int = 587
    security: Security = "starttls"
    username: str = Field(default="", max_length=255)
    password: str | None = Field(default=None, max_length=400)
    sender: str = Field(max_length=254)
    digest_at: str = Field(default="07:00", max_length=5)
    zone: str = Field(default="UTC", max_length=60)


class MailServerOut(Shape):
    """The server that takes mails; `known` tells that one was said, `has_password` of its password.

    `stand_in` tells that it is the demo's own, whose mails are shown at the address `shown`.
    """

    known: bool
    enabled: bool
    host: str
    port: int
    security: Security
    username: str
    has_password: bool
    sender: str
    digest_at: str
    zone: str
    stand_in: bool
    shown: str


class MailOut(MessageOut):
    """A mail, and `why` it goes to that person."""

    kind: str
    person: str
    address: str
    subject: str
    why: str


class MailList(Shape):
    """The newest mails; `works` tells whether mails are sent at all."""

    mails: list[MailOut]
    works: bool


class EmailAsk(Shape):
    """One's own mail address, "" for none."""

    email: str = Field(max_length=254)
