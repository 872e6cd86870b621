"""Browsers elsewhere."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from lantern.web.shapes.base import Shape


class RemoteIn(Shape):
    """A remote browser as it is said; a `password` of null stays as it is.

    `capabilities` is a JSON object as text: what every session has to have.
    """

    name: str = Field(max_length=100)
    address: str = Field(max_length=600)
    user: str = Field(default="", max_length=200)
    password: str | None = Field(default=None, max_length=500)
    capabilities: str = Field(default="{}", max_length=30_000)


class RemoteOut(Shape):
    """A remote browser: `engine` is what rows call it, `browser` what the last session was."""

    id: int
    name: str
    engine: str
    address: str
    user: str
    password_kept: bool
    capabilities: dict[str, Any]
    browser: str
    lacks: list[str]


class RemoteList(Shape):
    """The remote browsers by name."""

    remotes: list[RemoteOut]


class RemoteTried(Shape):
    """What came of a try: `error` in words, "" for none."""

    error: str
    remote: RemoteOut
