"""Whose fault failures are: what was judged, and what people said of it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Identity, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lantern.store.models.base import Base, Now
from lantern.store.models.people import Account


class Judgement(Base):
    """The verdict on a failed result, as it was made: `body` holds shares, signs and the act."""

    __tablename__ = "judgements"

    result_id: Mapped[int] = mapped_column(
        ForeignKey("results.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    fingerprint: Mapped[str] = mapped_column(String(16), index=True)
    verdict: Mapped[str] = mapped_column(String(12))
    body: Mapped[dict[str, Any]]
    at: Mapped[datetime] = mapped_column(server_default=Now)


class Correction(Base):
    """What a person says that failures of one cause are, in one run or in one run of a plan.

    `verdict` is what Lantern had said; the newest one of a cause holds. It outlives its run.
    """

    __tablename__ = "corrections"
    __table_args__ = (Index("ix_corrections_fingerprint_id", "fingerprint", "id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    fingerprint: Mapped[str] = mapped_column(String(16))
    run_id: Mapped[int | None] = mapped_column(
        ForeignKey("runs.id", ondelete="SET NULL"), index=True
    )
    plan_run_id: Mapped[int | None] = mapped_column(
        ForeignKey("plan_runs.id", ondelete="SET NULL"), index=True
    )
    verdict: Mapped[str] = mapped_column(String(12))
    kind: Mapped[str] = mapped_column(String(12))
    word: Mapped[str] = mapped_column(default="", server_default="")
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)
    account: Mapped[Account | None] = relationship(lazy="joined")


class BlindShare(Base):
    """How much of what its pages show a test would notice: weights, and how many spots are blind.

    As it was told on the pages of a run (its id, also where the run is gone), for a version of the
    test; `never` counts checks that can never fail.
    """

    __tablename__ = "blind_shares"

    test_id: Mapped[int] = mapped_column(
        ForeignKey("tests.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    run_id: Mapped[int]
    version: Mapped[int]
    whole: Mapped[float]
    seen: Mapped[float]
    blind: Mapped[int]
    never: Mapped[int]


class Mask(Base):
    """A part of the picture of a sentence that may differ, as shares of it from 0 to 1."""

    __tablename__ = "masks"
    __table_args__ = (Index("ix_masks_test_id_step_id", "test_id", "step_id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    test_id: Mapped[int] = mapped_column(ForeignKey("tests.id", ondelete="CASCADE"))
    step_id: Mapped[str] = mapped_column(String(32))
    x: Mapped[float]
    y: Mapped[float]
    width: Mapped[float]
    height: Mapped[float]
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)


class Comment(Base):
    """What a person says of something: the `place` says of what, `key` which one.

    `looked` tells that they have looked at a run. It goes when what it is about goes.
    """

    __tablename__ = "comments"
    __table_args__ = (Index("ix_comments_place_key", "place", "key"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    place: Mapped[str] = mapped_column(String(10))
    key: Mapped[int]
    text: Mapped[str]
    looked: Mapped[bool] = mapped_column(default=False, server_default="false")
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)
    changed_at: Mapped[datetime | None]
    account: Mapped[Account | None] = relationship(lazy="joined")


class Mention(Base):
    """A person whom a comment mentions, and when they have seen it."""

    __tablename__ = "mentions"

    comment_id: Mapped[int] = mapped_column(
        ForeignKey("comments.id", ondelete="CASCADE"), primary_key=True
    )
    account_id: Mapped[int] = mapped_column(
        ForeignKey("accounts.id", ondelete="CASCADE"), primary_key=True, index=True
    )
    seen_at: Mapped[datetime | None]


class DefectChange(Base):
    """Something of a defect that was changed, for its history."""

    __tablename__ = "defect_changes"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    defect_id: Mapped[int] = mapped_column(ForeignKey("defects.id", ondelete="CASCADE"), index=True)
    what: Mapped[str] = mapped_column(String(20))
    before: Mapped[str] = mapped_column(default="", server_default="")
    after: Mapped[str] = mapped_column(default="", server_default="")
    source: Mapped[str] = mapped_column(String(80), default="", server_default="")
    """The tracker that changed it, "" for a person here or for seeing it again."""
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)
    account: Mapped[Account | None] = relationship(lazy="joined")


class DefectFile(Base):
    """A file that belongs to a defect, kept as pictures are: once, under its digest."""

    __tablename__ = "defect_files"

    defect_id: Mapped[int] = mapped_column(
        ForeignKey("defects.id", ondelete="CASCADE"), primary_key=True
    )
    name: Mapped[str] = mapped_column(String(255), primary_key=True)
    digest: Mapped[str] = mapped_column(String(64), index=True)
    mime: Mapped[str] = mapped_column(String(120))
    size: Mapped[int]
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)
    account: Mapped[Account | None] = relationship(lazy="joined")


class SavedFilter(Base):
    """What a person looks for again and again in a list: `view` says in which."""

    __tablename__ = "saved_filters"
    __table_args__ = (UniqueConstraint("account_id", "view", "name"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    account_id: Mapped[int] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"))
    view: Mapped[str] = mapped_column(String(20))
    name: Mapped[str] = mapped_column(String(60))
    body: Mapped[dict[str, Any]]
