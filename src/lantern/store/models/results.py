"""Runs, what came of them, and the defects that were raised."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    ForeignKey,
    Identity,
    Index,
    String,
    text,
)
from sqlalchemy.orm import Mapped, MappedColumn, mapped_column, relationship

from lantern.store.models.base import Base, Now
from lantern.store.models.people import Account


def _content(**more: Any) -> MappedColumn[Any]:  # noqa: ANN401 - as SQLAlchemy has it
    """A large part of a run, read together with the others when one of them is asked for."""
    return mapped_column(deferred=True, deferred_group="content", **more)


class Run(Base):
    """A run on record, or a try; `body` is the test as it was, with its elements."""

    __tablename__ = "runs"
    __table_args__ = (
        Index("ix_runs_test_id_kind_id", "test_id", "kind", "id"),
        Index("ix_runs_kind_id", "kind", "id"),
        Index("ix_runs_state_id", "state", "id"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(String(10))
    state: Mapped[str] = mapped_column(String(20))
    test_id: Mapped[int | None] = mapped_column(ForeignKey("tests.id", ondelete="SET NULL"))
    test_name: Mapped[str]
    test_version: Mapped[int]
    environment_name: Mapped[str]
    environment_id: Mapped[int | None] = mapped_column(
        ForeignKey("environments.id", ondelete="SET NULL"), index=True
    )
    address: Mapped[str]
    body: Mapped[dict[str, Any]] = mapped_column(deferred=True)
    elements: Mapped[dict[str, Any]] = _content()
    files: Mapped[dict[str, Any]] = _content(server_default="{}")
    choice: Mapped[str] = mapped_column(server_default="all")
    seed: Mapped[str] = mapped_column(String(40), server_default="")
    variables: Mapped[dict[str, Any]] = _content(server_default="{}")
    flows: Mapped[dict[str, Any]] = _content(server_default="{}")
    browser: Mapped[str] = mapped_column(server_default="")
    release: Mapped[str] = mapped_column(server_default="")
    message: Mapped[str] = mapped_column(server_default="")
    cancel_asked: Mapped[bool] = mapped_column(default=False)
    cancel_asked_at: Mapped[datetime | None]
    stopped: Mapped[str] = mapped_column(default="", server_default="")
    """Why no further cast begins, "" when nothing stopped the run."""
    again: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether interrupted casts are played again."""
    pinned: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether somebody wants it kept for good."""
    plan_run_id: Mapped[int | None] = mapped_column(
        ForeignKey("plan_runs.id", ondelete="SET NULL"), index=True
    )
    phase: Mapped[str] = mapped_column(String(10), default="main", server_default="main")
    """When a run of a plan has its turn: before the others, among them, or after them."""
    place: Mapped[int] = mapped_column(default=0, server_default="0")
    """Its place among the runs of a plan."""
    retries: Mapped[int] = mapped_column(default=0, server_default="0")
    needs: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    """Labels that a station must have to play it."""
    fragile: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether a row that failed for good stops it."""
    share_id: Mapped[int | None] = mapped_column(
        ForeignKey("shares.id", ondelete="SET NULL"), index=True
    )
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    queued_at: Mapped[datetime] = mapped_column(server_default=Now)
    started_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
    account: Mapped[Account | None] = relationship(lazy="joined")
    casts: Mapped[list[Cast]] = relationship(
        order_by="Cast.position", cascade="all, delete-orphan", passive_deletes=True
    )


class Cast(Base):
    """One row in one browser of a run: the unit that a station takes, plays and finishes.

    `browser` is what it is played in, as people name it, `engine` what a station must offer for
    it, `version` the browser that it was. `job` offers it in the queue; `token` is that of the
    taking under way, without which nothing of the cast can be written, and `takings` counts them;
    `failures` counts those that failed and were played again.
    `kept` holds what it kept of the application: its result columns. `hand` is who took it in
    hand while it was played, "" for nobody: such a cast never passes on record.
    """

    __tablename__ = "casts"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"), index=True)
    position: Mapped[int]
    number: Mapped[int]
    values: Mapped[dict[str, Any]]
    browser: Mapped[str] = mapped_column(server_default="")
    engine: Mapped[str] = mapped_column(String(40), server_default="chromium")
    version: Mapped[str] = mapped_column(server_default="")
    job: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    token: Mapped[str] = mapped_column(String(32), default="", server_default="", index=True)
    takings: Mapped[int] = mapped_column(default=0, server_default="0")
    failures: Mapped[int] = mapped_column(default=0, server_default="0")
    cancel_asked: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether this one alone is to stop."""
    station_id: Mapped[str] = mapped_column(String(32), default="", server_default="", index=True)
    message: Mapped[str] = mapped_column(default="", server_default="")
    kept: Mapped[dict[str, Any]] = mapped_column(server_default="{}")
    hand: Mapped[str] = mapped_column(default="", server_default="")
    outcome: Mapped[str] = mapped_column(
        String(20), default="waiting", server_default="waiting", index=True
    )
    current: Mapped[str] = mapped_column(server_default="")
    current_step: Mapped[str] = mapped_column(String(32), server_default="")
    started_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]


class Result(Base):
    """How a step of a cast ended; `details` holds lookups, console errors and requests.

    `taking` is which of the cast's takings it is of, `place` counts them within it: written twice
    after an outage, a result is there once.
    """

    __tablename__ = "results"
    __table_args__ = (
        Index("ix_results_cast_position", "cast_id", "position"),
        Index("ix_results_picture", "picture", postgresql_where=text("picture <> ''")),
        Index(
            "uq_results_place",
            "cast_id",
            "taking",
            "place",
            unique=True,
            postgresql_where=text("place > 0"),
        ),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    cast_id: Mapped[int] = mapped_column(ForeignKey("casts.id", ondelete="CASCADE"))
    taking: Mapped[int] = mapped_column(default=1, server_default="1")
    place: Mapped[int] = mapped_column(default=0, server_default="0")
    position: Mapped[int]
    step_id: Mapped[str] = mapped_column(String(32))
    sentence: Mapped[str]
    outcome: Mapped[str] = mapped_column(String(20))
    reason: Mapped[str] = mapped_column(String(30), server_default="")
    message: Mapped[str] = mapped_column(server_default="")
    hint: Mapped[str] = mapped_column(server_default="")
    expected: Mapped[str] = mapped_column(server_default="")
    found: Mapped[str] = mapped_column(server_default="")
    used: Mapped[float]
    limit: Mapped[float]
    picture: Mapped[str] = mapped_column(String(64), server_default="")
    details: Mapped[dict[str, Any]]
    at: Mapped[datetime] = mapped_column(server_default=Now)
    cast: Mapped[Cast] = relationship()


class Defect(Base):
    """A defect raised from a failed step."""

    __tablename__ = "defects"
    __table_args__ = (
        Index("ix_defects_picture", "picture", postgresql_where=text("picture <> ''")),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    title: Mapped[str]
    severity: Mapped[str] = mapped_column(String(20))
    state: Mapped[str] = mapped_column(String(20), server_default="open")
    steps: Mapped[str]
    expected: Mapped[str]
    found: Mapped[str]
    notes: Mapped[str] = mapped_column(server_default="")
    environment: Mapped[str]
    browser: Mapped[str]
    release: Mapped[str]
    picture: Mapped[str] = mapped_column(String(64), server_default="")
    fingerprint: Mapped[str] = mapped_column(String(16), index=True)
    shown: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    """What there was to see of it when it was raised (core.review.alike), {} where unknown."""
    version: Mapped[int] = mapped_column(default=1)
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    """Who has it, None for nobody."""
    priority: Mapped[str] = mapped_column(String(20), default="normal", server_default="normal")
    fixed_in: Mapped[str] = mapped_column(default="", server_default="")
    """The release in which it is fixed, as people say, "" while nobody does."""
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    created_at: Mapped[datetime] = mapped_column(server_default=Now)
    changed_at: Mapped[datetime] = mapped_column(server_default=Now)
    account: Mapped[Account | None] = relationship(lazy="joined", foreign_keys=[account_id])
    owner: Mapped[Account | None] = relationship(lazy="joined", foreign_keys=[owner_id])


class Sighting(Base):
    """A failed step in which a defect was seen."""

    __tablename__ = "sightings"

    defect_id: Mapped[int] = mapped_column(
        ForeignKey("defects.id", ondelete="CASCADE"), primary_key=True
    )
    result_id: Mapped[int] = mapped_column(
        ForeignKey("results.id", ondelete="CASCADE"), primary_key=True, index=True
    )
    at: Mapped[datetime] = mapped_column(server_default=Now)


class Visit(Base):
    """One visit to pages that are known, by a run that opens them: after a release, say.

    `pages` holds the title and the address of each, in the order in which they are opened.
    """

    __tablename__ = "visits"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"), index=True)
    environment_id: Mapped[int] = mapped_column(
        ForeignKey("environments.id", ondelete="CASCADE"), index=True
    )
    pages: Mapped[list[Any]]
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)
    run: Mapped[Run] = relationship()
    account: Mapped[Account | None] = relationship(lazy="joined")
