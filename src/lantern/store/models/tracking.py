"""Outside trackers, the defects that were handed over to them, and what is to be sent there."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Identity, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lantern.store.models.base import Base, Now
from lantern.store.models.results import Defect
from lantern.store.models.reviewing import Comment
from lantern.store.models.telling import Outgoing


class Tracker(Base):
    """A tracker of another program: `kind` says how it is spoken to, `mapping` how its items are.

    `sealed` is what is said in the `header` to be let in, `inbox` the secret with which it signs
    what it tells; both are sealed by the vault. It is asked `every` so many seconds, 0 for never.
    """

    __tablename__ = "trackers"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    kind: Mapped[str] = mapped_column(String(20))
    address: Mapped[str] = mapped_column(String(500))
    header: Mapped[str] = mapped_column(String(80))
    sealed: Mapped[bytes | None]
    inbox: Mapped[bytes | None]
    mapping: Mapped[dict[str, Any]]
    enabled: Mapped[bool] = mapped_column(default=True, server_default="true")
    every: Mapped[int] = mapped_column(default=60, server_default="60")
    stand_in: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether it is the demo's: where that listens is known anew at each start."""
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    made_at: Mapped[datetime] = mapped_column(server_default=Now)


class Handover(Base):
    """A defect at a tracker: its `key` there, "" until it was taken.

    `sent` holds what the tracker was told last, by path; `seen_state` and `seen_fixed_in` what it
    said last. It is asked again at `look_at`; `gone` tells that it does not know it any more.
    """

    __tablename__ = "handovers"
    __table_args__ = (UniqueConstraint("defect_id", "tracker_id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    defect_id: Mapped[int] = mapped_column(ForeignKey("defects.id", ondelete="CASCADE"))
    tracker_id: Mapped[int] = mapped_column(
        ForeignKey("trackers.id", ondelete="CASCADE"), index=True
    )
    reference: Mapped[str] = mapped_column(String(40))
    """What it is created by: who is told of one twice makes one item of it."""
    key: Mapped[str] = mapped_column(String(200), default="", server_default="", index=True)
    link: Mapped[str] = mapped_column(default="", server_default="")
    sent: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    seen_state: Mapped[str] = mapped_column(default="", server_default="")
    seen_fixed_in: Mapped[str] = mapped_column(default="", server_default="")
    gone: Mapped[bool] = mapped_column(default=False, server_default="false")
    said: Mapped[str] = mapped_column(default="", server_default="")
    """Why it could not be asked last, "" where it could."""
    look_at: Mapped[datetime | None] = mapped_column(index=True)
    looked_at: Mapped[datetime | None]
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)
    tracker: Mapped[Tracker] = relationship(lazy="joined")
    defect: Mapped[Defect] = relationship()


class Handing(Outgoing, Base):
    """A message to a tracker: that a defect is new or changed, or what was commented on it."""

    __tablename__ = "handings"

    handover_id: Mapped[int] = mapped_column(
        ForeignKey("handovers.id", ondelete="CASCADE"), index=True
    )
    comment_id: Mapped[int | None] = mapped_column(
        ForeignKey("comments.id", ondelete="CASCADE"), index=True
    )
    """The comment that it takes over, None for the defect itself."""
    handover: Mapped[Handover] = relationship()
    comment: Mapped[Comment | None] = relationship()
