"""Plans, their versions and runs, and how all that is played shares the stations."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Identity, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lantern.store.models.base import Base, Now
from lantern.store.models.people import Account
from lantern.store.models.results import Run


class Share(Base):
    """Who shares the stations (core.plans.sharing): a run of a plan, a run by itself, all tries.

    `served` is the start tag of what of it was begun last.
    """

    __tablename__ = "shares"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    weight: Mapped[int] = mapped_column(default=1, server_default="1")
    ahead: Mapped[float] = mapped_column(default=0.0, server_default="0")
    boost: Mapped[int] = mapped_column(default=0, server_default="0")
    tag: Mapped[float] = mapped_column(default=0.0, server_default="0")
    served: Mapped[float] = mapped_column(default=0.0, server_default="0")
    tries: Mapped[bool] = mapped_column(default=False, server_default="false")


class Plan(Base):
    """A plan; `body` is core's JSON of it, `version` the number of its newest version."""

    __tablename__ = "plans"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(200), unique=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    body: Mapped[dict[str, Any]]
    created_by: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    created_at: Mapped[datetime] = mapped_column(server_default=Now)
    changed_at: Mapped[datetime] = mapped_column(server_default=Now)


class PlanVersion(Base):
    """A plan as it was."""

    __tablename__ = "plan_versions"

    plan_id: Mapped[int] = mapped_column(
        ForeignKey("plans.id", ondelete="CASCADE"), primary_key=True
    )
    number: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    body: Mapped[dict[str, Any]]
    summary: Mapped[str] = mapped_column(server_default="")
    author_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)


class PlanRun(Base):
    """A run of a plan; `body` is the plan as it was, its `runs` are one for each test.

    `cause` is what started it, `again_of` the run of a plan whose failed rows are played again,
    `expected` how long it was to take in seconds (least, usual, most), `stopped` why no further
    cast begins.
    """

    __tablename__ = "plan_runs"
    __table_args__ = (Index("ix_plan_runs_plan_id_id", "plan_id", "id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    plan_id: Mapped[int | None] = mapped_column(ForeignKey("plans.id", ondelete="SET NULL"))
    plan_name: Mapped[str] = mapped_column(String(200))
    plan_version: Mapped[int]
    body: Mapped[dict[str, Any]]
    state: Mapped[str] = mapped_column(String(20), default="queued", index=True)
    message: Mapped[str] = mapped_column(default="", server_default="")
    stopped: Mapped[str] = mapped_column(default="", server_default="")
    cancel_asked: Mapped[bool] = mapped_column(default=False, server_default="false")
    seed: Mapped[str] = mapped_column(String(40), default="", server_default="")
    cause: Mapped[str] = mapped_column(String(40), default="a person", server_default="a person")
    expected: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    share_id: Mapped[int | None] = mapped_column(
        ForeignKey("shares.id", ondelete="SET NULL"), index=True
    )
    again_of: Mapped[int | None] = mapped_column(
        ForeignKey("plan_runs.id", ondelete="SET NULL"), index=True
    )
    queued_at: Mapped[datetime] = mapped_column(server_default=Now, index=True)
    started_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
    deadline: Mapped[datetime | None]
    account: Mapped[Account | None] = relationship(lazy="joined")
    runs: Mapped[list[Run]] = relationship(order_by=Run.place, viewonly=True)


class Schedule(Base):
    """When a plan starts by itself; `body` is core's JSON of it, `next_at` its next time."""

    __tablename__ = "schedules"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("plans.id", ondelete="CASCADE"), index=True)
    body: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    next_at: Mapped[datetime | None] = mapped_column(index=True)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    made_at: Mapped[datetime] = mapped_column(server_default=Now)
    plan: Mapped[Plan] = relationship()


class ScheduleEvent(Base):
    """What came of a time of a schedule: a run of its plan, or why none was started."""

    __tablename__ = "schedule_events"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("plans.id", ondelete="CASCADE"), index=True)
    schedule_id: Mapped[int | None] = mapped_column(
        ForeignKey("schedules.id", ondelete="SET NULL"), index=True
    )
    plan_run_id: Mapped[int | None] = mapped_column(
        ForeignKey("plan_runs.id", ondelete="SET NULL"), index=True
    )
    due: Mapped[datetime] = mapped_column(index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)
    trouble: Mapped[str] = mapped_column(default="", server_default="")
    plan: Mapped[Plan] = relationship()
