"""What goes out to people and programs: webhooks, mails, and what came of each message."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Identity, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lantern.store.models.base import Base, Now
from lantern.store.models.people import Account
from lantern.store.models.plans import PlanRun


class Outgoing:
    """The part of a message that is the same for all: `state` is waiting, sent or given up.

    `said` is what was answered last, `next_at` when it is tried (again).
    """

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    state: Mapped[str] = mapped_column(String(10), default="waiting", server_default="waiting")
    tries: Mapped[int] = mapped_column(default=0, server_default="0")
    next_at: Mapped[datetime | None] = mapped_column(index=True)
    said: Mapped[str] = mapped_column(default="", server_default="")
    made_at: Mapped[datetime] = mapped_column(server_default=Now)
    done_at: Mapped[datetime | None]


class Hook(Base):
    """Where another program is told of runs of plans; its secret is sealed by the vault."""

    __tablename__ = "hooks"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    address: Mapped[str] = mapped_column(String(500))
    events: Mapped[list[Any]]
    plan_id: Mapped[int | None] = mapped_column(
        ForeignKey("plans.id", ondelete="CASCADE"), index=True
    )
    """The plan whose runs are told, None for all."""
    sealed: Mapped[bytes]
    enabled: Mapped[bool] = mapped_column(default=True, server_default="true")
    made_at: Mapped[datetime] = mapped_column(server_default=Now)


class Delivery(Outgoing, Base):
    """A message to a hook."""

    __tablename__ = "deliveries"

    hook_id: Mapped[int] = mapped_column(ForeignKey("hooks.id", ondelete="CASCADE"), index=True)
    plan_run_id: Mapped[int | None] = mapped_column(
        ForeignKey("plan_runs.id", ondelete="SET NULL"), index=True
    )
    event: Mapped[str] = mapped_column(String(10))
    body: Mapped[dict[str, Any]]
    hook: Mapped[Hook] = relationship()


class MailServer(Base):
    """The server that takes mails, one row at the most; its password is sealed by the vault.

    `digest_at` is the time of day ("07:00") in the time zone `zone` at which digests go out.
    """

    __tablename__ = "mail_server"

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    enabled: Mapped[bool]
    host: Mapped[str] = mapped_column(String(255))
    port: Mapped[int]
    security: Mapped[str] = mapped_column(String(10))
    username: Mapped[str] = mapped_column(String(255))
    sealed: Mapped[bytes | None]
    sender: Mapped[str] = mapped_column(String(254))
    digest_at: Mapped[str] = mapped_column(String(5))
    zone: Mapped[str] = mapped_column(String(60))
    stand_in: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether it is the demo's: where that listens is known anew at each start."""


class Mail(Outgoing, Base):
    """A mail to a person: of one run of a plan, a digest of several (`runs`), a report, or a try.

    It is composed when it is sent. `why` says why it goes to them; `report` says which report.
    """

    __tablename__ = "mails"

    account_id: Mapped[int] = mapped_column(
        ForeignKey("accounts.id", ondelete="CASCADE"), index=True
    )
    kind: Mapped[str] = mapped_column(String(10))
    plan_run_id: Mapped[int | None] = mapped_column(
        ForeignKey("plan_runs.id", ondelete="SET NULL"), index=True
    )
    runs: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    report: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    why: Mapped[str] = mapped_column(default="", server_default="")
    subject: Mapped[str] = mapped_column(default="", server_default="")
    address: Mapped[str] = mapped_column(String(254), default="", server_default="")
    account: Mapped[Account] = relationship(lazy="joined")
    plan_run: Mapped[PlanRun | None] = relationship()

    @property
    def person(self) -> str:
        """What the person is called to whom it goes."""
        return self.account.name


class ReportOrder(Base):
    """A report that is mailed again and again; `report` says which, `body` is when (core's JSON).

    `plan_id` is the plan whose newest run is told, None for trends.
    """

    __tablename__ = "report_orders"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    report: Mapped[dict[str, Any]]
    plan_id: Mapped[int | None] = mapped_column(
        ForeignKey("plans.id", ondelete="CASCADE"), index=True
    )
    people: Mapped[list[Any]]
    body: Mapped[dict[str, Any]]
    next_at: Mapped[datetime | None] = mapped_column(index=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    made_at: Mapped[datetime] = mapped_column(server_default=Now)


class Print(Base):
    """A document that a browser is to print, while somebody waits for it."""

    __tablename__ = "prints"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    html: Mapped[bytes]
    pdf: Mapped[bytes | None]
    said: Mapped[str] = mapped_column(default="", server_default="")
    at: Mapped[datetime] = mapped_column(server_default=Now)
    done_at: Mapped[datetime | None]
