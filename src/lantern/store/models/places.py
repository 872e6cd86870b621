"""Where tests play, what holds for all of them, and pictures of whatever it is."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    ForeignKey,
    Identity,
    String,
    UniqueConstraint,
)
from sqlalchemy.orm import Mapped, mapped_column

from lantern.store.models.base import Base, Now


class Environment(Base):
    """A named address of the application under test, with variables and secrets."""

    __tablename__ = "environments"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    address: Mapped[str]
    reset: Mapped[str] = mapped_column(server_default="")
    """Where a POST sets the application back to a known state; "" when it can not be."""
    variables: Mapped[dict[str, Any]] = mapped_column(server_default="{}")


class Secret(Base):
    """A secret of an environment, encrypted with a key that is not in the database."""

    __tablename__ = "secrets"
    __table_args__ = (UniqueConstraint("environment_id", "name"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    environment_id: Mapped[int] = mapped_column(ForeignKey("environments.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(80))
    sealed: Mapped[bytes]


class Preference(Base):
    """What holds for the whole project, by name."""

    __tablename__ = "preferences"

    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[dict[str, Any]]


class Picture(Base):
    """A picture, kept once under the SHA-256 of its bytes; `at` is when it was kept last."""

    __tablename__ = "pictures"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    mime: Mapped[str] = mapped_column(String(255))
    content: Mapped[bytes]
    at: Mapped[datetime] = mapped_column(server_default=Now)


class Station(Base):
    """What owns browsers; `beat_at` is when it last said that it lives, `ended_at` when it ended.

    Its id is that of the place where it runs, so that it is the same one when it is started again.
    One that joined over the network is known by a secret, of which there is a hash, and is a
    `worker` of the queue by proxy; it has no address, and shows no stages.
    """

    __tablename__ = "stations"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    address: Mapped[str]
    browser: Mapped[str] = mapped_column(server_default="")
    busy: Mapped[int] = mapped_column(default=0)
    places: Mapped[int] = mapped_column(default=2, server_default="2")
    """How many casts it plays at once."""
    engines: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    """What it can start, by the names of core.engine.browsers."""
    versions: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    """The versions of its engines, by the same names."""
    labels: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    mode: Mapped[str] = mapped_column(String(10), default="works", server_default="works")
    load: Mapped[float] = mapped_column(default=0.0, server_default="0")
    """How busy its machine is: processes that run or wait, by processor."""
    ended_at: Mapped[datetime | None]
    started_at: Mapped[datetime] = mapped_column(server_default=Now)
    beat_at: Mapped[datetime] = mapped_column(server_default=Now)
    secret_hash: Mapped[str | None] = mapped_column(String(64), unique=True)
    worker: Mapped[int | None] = mapped_column(BigInteger)


class Invitation(Base):
    """What lets one station join until it ends: only a hash of its token is kept."""

    __tablename__ = "invitations"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    token_hash: Mapped[str] = mapped_column(String(64), unique=True)
    made_by: Mapped[str] = mapped_column(String(120))
    ends_at: Mapped[datetime]


class RemoteBrowser(Base):
    """A browser elsewhere, behind an address that speaks WebDriver.

    `engine` is its name as rows have it, `sealed` the password of `user`; `told` is what the last
    session showed of it, {} before there was one.
    """

    __tablename__ = "remote_browsers"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(40))
    engine: Mapped[str] = mapped_column(String(60), unique=True)
    address: Mapped[str] = mapped_column(String(500))
    user: Mapped[str] = mapped_column(String(200), default="", server_default="")
    sealed: Mapped[bytes | None]
    capabilities: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    told: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
