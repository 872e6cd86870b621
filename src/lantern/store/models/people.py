"""Who works here, and what is on record of them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    ForeignKey,
    Identity,
    String,
    UniqueConstraint,
)
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lantern.store.models.base import Base, Now


class Account(Base):
    """A person who can sign in, unless `disabled`; one that is `gone` was deleted.

    What a person did keeps their name, so the entry of one that was deleted stays.
    """

    __tablename__ = "accounts"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    username: Mapped[str] = mapped_column(String(80), unique=True)
    name: Mapped[str] = mapped_column(String(120))
    role: Mapped[str] = mapped_column(String(20))
    password_hash: Mapped[str]
    email: Mapped[str] = mapped_column(String(254), default="", server_default="")
    """Where mails to them go, "" for nowhere."""
    disabled: Mapped[bool] = mapped_column(default=False, server_default="false")
    gone: Mapped[bool] = mapped_column(default=False, server_default="false")
    breakpoints_off: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether no breakpoint of theirs stops a rehearsal for the time being."""
    created_at: Mapped[datetime] = mapped_column(server_default=Now)


class Breakpoint(Base):
    """A sentence (`step_id` in the test or flow `place`) before which a person's rehearsals stop.

    `only_in` is the test in whose rehearsals it stops, None for all.
    """

    __tablename__ = "breakpoints"
    __table_args__ = (
        UniqueConstraint("account_id", "place", "step_id", name="uq_breakpoints_sentence"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    account_id: Mapped[int] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"))
    place: Mapped[int] = mapped_column(ForeignKey("tests.id", ondelete="CASCADE"), index=True)
    step_id: Mapped[str] = mapped_column(String(32))
    only_in: Mapped[int | None] = mapped_column(
        ForeignKey("tests.id", ondelete="CASCADE"), index=True
    )
    enabled: Mapped[bool]
    condition: Mapped[dict[str, Any]]


class SecurityEvent(Base):
    """Something that matters for security: `who` did what, `about` what, from where."""

    __tablename__ = "security_events"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    at: Mapped[datetime] = mapped_column(server_default=Now, index=True)
    what: Mapped[str] = mapped_column(String(40))
    who: Mapped[str] = mapped_column(String(120), server_default="")
    about: Mapped[str] = mapped_column(server_default="")
    origin: Mapped[str] = mapped_column(String(64), server_default="")


class SignIn(Base):
    """A signed-in browser; only a hash of its token is kept."""

    __tablename__ = "sign_ins"

    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    account_id: Mapped[int] = mapped_column(
        ForeignKey("accounts.id", ondelete="CASCADE"), index=True
    )
    csrf: Mapped[str] = mapped_column(String(64))
    expires_at: Mapped[datetime]
    account: Mapped[Account] = relationship(lazy="joined")


class SignInAttempt(Base):
    """A sign-in that was tried and did not succeed (yet), counted for the rate limit."""

    __tablename__ = "sign_in_attempts"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    username: Mapped[str] = mapped_column(String(80))
    origin: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(server_default=Now, index=True)


class AccessToken(Base):
    """What lets a program in as a person: only a hash of it is kept, and how it `begins`."""

    __tablename__ = "access_tokens"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    account_id: Mapped[int] = mapped_column(
        ForeignKey("accounts.id", ondelete="CASCADE"), index=True
    )
    name: Mapped[str] = mapped_column(String(80))
    begins: Mapped[str] = mapped_column(String(12))
    token_hash: Mapped[str] = mapped_column(String(64), unique=True)
    scope: Mapped[str] = mapped_column(String(10))
    made_at: Mapped[datetime] = mapped_column(server_default=Now)
    ends_at: Mapped[datetime]
    used_at: Mapped[datetime | None]
    used_from: Mapped[str] = mapped_column(String(64), default="", server_default="")
    account: Mapped[Account] = relationship(lazy="joined")
