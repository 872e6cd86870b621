"""What stations that joined over the network, and those who invite them, ask and are told."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import BaseModel, Field

from lantern.core.runs.life import Outcome
from lantern.core.runs.places import Mode
from lantern.web.shapes.base import Shape


class Invited(Shape):
    """A token by which one station can join, until it ends."""

    token: str
    ends_at: datetime


class Joining(Shape):
    """A station wants to join."""

    token: str = Field(max_length=200)
    name: str = Field(max_length=200)
    places: int = 2


class Joined(Shape):
    """Who the station is from now on; the secret is told only now."""

    station: str
    secret: str


class JoinedBeat(Shape):
    """A station lives: what it has, how busy it is, and what it plays, by casts under tokens."""

    plays: dict[int, str] = Field(default={}, max_length=200)
    version: str = Field(max_length=40)
    busy: int = Field(default=0, ge=0, le=1000)
    browser: str = Field(default="", max_length=500)
    engines: list[str] = Field(default=[], max_length=50)
    versions: dict[str, str] = Field(default={}, max_length=50)
    load: float = 0.0


class Orders(Shape):
    """What a station is to do: whether it takes casts, and which of them are to stop."""

    mode: Mode
    stop: list[int]


class JoinedTake(Shape):
    """A station has a place for a cast beside those that it plays."""

    plays: list[int] = Field(default=[], max_length=200)


class Taken(Shape):
    """A cast to play, as core.runs.work has it; null where there is none."""

    work: dict[str, Any] | None


class JoinedNotes(Shape):
    """What happened to a cast that is played under a token, as store.noting has it."""

    token: str = Field(max_length=64)
    notes: list[dict[str, Any]] = Field(max_length=100)


class JoinedToken(BaseModel):
    """The token under which a cast is played."""

    token: str = Field(max_length=64)


class JoinedContent(JoinedToken):
    """What kind of content is kept."""

    mime: str = Field(max_length=120)


class JoinedFile(JoinedToken):
    """The name of a file of the test."""

    name: str


class Following(Shape):
    """The browser of the next cast of a run; null where none waits."""

    browser: str | None


class HowItEnded(Shape):
    """The end of a cast: how, and whether it was `lost`, so that another may play it."""

    outcome: Outcome = "interrupted"
    message: str = ""
    stops: str = ""
    counts: bool = False
    lost: bool = False


class JoinedEnd(Shape):
    """A cast that was played under a token, by a job of the queue, is over."""

    token: str = Field(max_length=64)
    job: int
    ended: HowItEnded
    release: str = Field(default="", max_length=200)
