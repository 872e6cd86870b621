"""Tests, flows and tables, their elements, and what recordings knew."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    JSON,
    ForeignKey,
    Identity,
    Index,
    String,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lantern.store.models.base import Base, Now
from lantern.store.models.places import Environment


class Element(Base):
    """An element of a page of the application under test; `body` is core's JSON of it."""

    __tablename__ = "elements"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    page: Mapped[str]
    name: Mapped[str]
    kind: Mapped[str] = mapped_column(String(40))
    signature: Mapped[str] = mapped_column(String(64), index=True)
    body: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    changed_at: Mapped[datetime] = mapped_column(server_default=Now)
    created_at: Mapped[datetime] = mapped_column(server_default=Now)


class SeenWait(Base):
    """What became ready before a step was recorded: `property` of `element`, or of its own."""

    __tablename__ = "seen_waits"

    step_id: Mapped[str] = mapped_column(String(32), primary_key=True)
    property: Mapped[str] = mapped_column(String(20))
    element: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))


class RecordedEffect(Base):
    """What came of a step while it was recorded: core's effects by the path of frames."""

    __tablename__ = "recorded_effects"

    test_id: Mapped[int] = mapped_column(
        ForeignKey("tests.id", ondelete="CASCADE"), primary_key=True
    )
    step_id: Mapped[str] = mapped_column(String(32), primary_key=True)
    body: Mapped[dict[str, Any]]
    inputs: Mapped[dict[str, Any]] = mapped_column(server_default="{}")
    """What the step was given while it was recorded."""
    at: Mapped[datetime] = mapped_column(server_default=Now)


class Proof(Base):
    """Whether playing a recording did the same: `found` lists the sentences that differed.

    `aside` holds shapes of lines that a person knows to move by themselves, `compared` how many
    sentences were held against the recording; `at` is None when only something was set aside.
    """

    __tablename__ = "proofs"

    test_id: Mapped[int] = mapped_column(
        ForeignKey("tests.id", ondelete="CASCADE"), primary_key=True
    )
    run_id: Mapped[int | None] = mapped_column(
        ForeignKey("runs.id", ondelete="SET NULL"), index=True
    )
    found: Mapped[list[Any]] = mapped_column(server_default="[]")
    aside: Mapped[list[Any]] = mapped_column(server_default="[]")
    compared: Mapped[int] = mapped_column(server_default="0")
    at: Mapped[datetime | None]


class TestFile(Base):
    """A file kept with a test, to be given to pages; its bytes are among the pictures."""

    __tablename__ = "test_files"

    test_id: Mapped[int] = mapped_column(
        ForeignKey("tests.id", ondelete="CASCADE"), primary_key=True
    )
    name: Mapped[str] = mapped_column(String(255), primary_key=True)
    digest: Mapped[str] = mapped_column(String(64))
    size: Mapped[int]
    at: Mapped[datetime] = mapped_column(server_default=Now)


class SavedPage(Base):
    """A page as it was: all that was recognised on it (core's facts), and its picture.

    From a run (then it goes with the run), or from a still that someone took.
    """

    __tablename__ = "saved_pages"
    __table_args__ = (
        Index("ix_saved_pages_picture", "picture", postgresql_where=text("picture <> ''")),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    page: Mapped[str] = mapped_column(index=True)
    address: Mapped[str] = mapped_column(server_default="")
    release: Mapped[str] = mapped_column(server_default="")
    nodes: Mapped[list[Any]] = mapped_column(deferred=True)
    picture: Mapped[str] = mapped_column(String(64), server_default="")
    test_id: Mapped[int | None] = mapped_column(
        ForeignKey("tests.id", ondelete="SET NULL"), index=True
    )
    run_id: Mapped[int | None] = mapped_column(
        ForeignKey("runs.id", ondelete="CASCADE"), index=True
    )
    cast_id: Mapped[int | None] = mapped_column(
        ForeignKey("casts.id", ondelete="CASCADE"), index=True
    )
    step_id: Mapped[str] = mapped_column(String(32), server_default="")
    at: Mapped[datetime] = mapped_column(server_default=Now)


class Test(Base):
    """A test, a flow that tests call, or a table that tests share (`kind`).

    Its rows are kept apart: store.rows makes a body of a document and a document of a body.

    `version` is the number of its newest version, `body` that version's document, `baseline` the
    number of the version that counts as its clean run, `table_version` that of the version in
    which its table changed last.
    """

    __tablename__ = "tests"
    __table_args__ = (
        Index(
            "ix_tests_steps",
            text("(body -> 'steps')"),
            postgresql_using="gin",
            postgresql_ops={"(body -> 'steps')": "jsonb_path_ops"},
        ),
        Index("ix_tests_table", text("(body ->> 'table')")),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(String(10), server_default="test", index=True)
    name: Mapped[str] = mapped_column(String(200), unique=True)
    environment_id: Mapped[int] = mapped_column(ForeignKey("environments.id"), index=True)
    version: Mapped[int] = mapped_column(default=1)
    body: Mapped[dict[str, Any]]
    baseline: Mapped[int | None]
    table_version: Mapped[int] = mapped_column(default=1, server_default="1")
    created_by: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    created_at: Mapped[datetime] = mapped_column(server_default=Now)
    changed_at: Mapped[datetime] = mapped_column(server_default=Now)
    environment: Mapped[Environment] = relationship(lazy="joined")


class RowChunk(Base):
    """Some rows of a table, kept once under the SHA-256 of their JSON."""

    __tablename__ = "row_chunks"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    rows: Mapped[list[Any]] = mapped_column(JSON)


class Act(Base):
    """What one person did at once: the versions of tests and elements that belong together.

    `place` is the test in which it was done, None for the library; `undoes` the act that it takes
    back; `fold` what more of the same is added to it ("" for nothing); `key` what its author calls
    it, so that it is not done twice where the answer never arrived.
    """

    __tablename__ = "acts"
    __table_args__ = (Index("ix_acts_place_account", "place", "account_id", "id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    place: Mapped[int | None] = mapped_column(ForeignKey("tests.id", ondelete="CASCADE"))
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    summary: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=Now)
    undoes: Mapped[int | None] = mapped_column(
        ForeignKey("acts.id", ondelete="SET NULL"), index=True
    )
    fold: Mapped[str] = mapped_column(String(80), server_default="", default="")
    key: Mapped[str | None] = mapped_column(String(40), unique=True)


class ElementVersion(Base):
    """What an act made of an element: core's JSON of it, None when it was deleted."""

    __tablename__ = "element_versions"

    element_id: Mapped[str] = mapped_column(String(32), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    body: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    summary: Mapped[str]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    act_id: Mapped[int | None] = mapped_column(
        ForeignKey("acts.id", ondelete="SET NULL"), index=True
    )
    at: Mapped[datetime] = mapped_column(server_default=Now)


class Version(Base):
    """A version of a test, with the act that made it."""

    __tablename__ = "versions"

    test_id: Mapped[int] = mapped_column(
        ForeignKey("tests.id", ondelete="CASCADE"), primary_key=True
    )
    number: Mapped[int] = mapped_column(primary_key=True)
    body: Mapped[dict[str, Any]]
    summary: Mapped[str]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"), index=True)
    at: Mapped[datetime] = mapped_column(server_default=Now)
    act_id: Mapped[int | None] = mapped_column(
        ForeignKey("acts.id", ondelete="SET NULL"), index=True
    )
