"""The tables."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    JSON,
    BigInteger,
    DateTime,
    ForeignKey,
    Identity,
    Index,
    MetaData,
    String,
    UniqueConstraint,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Base(DeclarativeBase):
    """All tables of Lantern."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {  # noqa: RUF012 - as SQLAlchemy wants it
        datetime: DateTime(timezone=True),
        dict[str, Any]: JSONB,
        list[Any]: JSONB,
    }


Now = func.clock_timestamp()


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
    disabled: Mapped[bool] = mapped_column(default=False, server_default="false")
    gone: Mapped[bool] = mapped_column(default=False, server_default="false")
    created_at: Mapped[datetime] = mapped_column(server_default=Now)


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
    account_id: Mapped[int] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"))
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
    environment_id: Mapped[int] = mapped_column(ForeignKey("environments.id"))
    version: Mapped[int] = mapped_column(default=1)
    body: Mapped[dict[str, Any]]
    baseline: Mapped[int | None]
    table_version: Mapped[int] = mapped_column(default=1, server_default="1")
    created_by: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"))
    created_at: Mapped[datetime] = mapped_column(server_default=Now)
    changed_at: Mapped[datetime] = mapped_column(server_default=Now)
    environment: Mapped[Environment] = relationship(lazy="joined")


class RowChunk(Base):
    """Some rows of a table, kept once under the SHA-256 of their JSON."""

    __tablename__ = "row_chunks"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    rows: Mapped[list[Any]] = mapped_column(JSON)


class Preference(Base):
    """What holds for the whole project, by name."""

    __tablename__ = "preferences"

    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[dict[str, Any]]


class Version(Base):
    """A version of a test. `undo_to` and `redo_to` are the versions that undo and redo give."""

    __tablename__ = "versions"

    test_id: Mapped[int] = mapped_column(
        ForeignKey("tests.id", ondelete="CASCADE"), primary_key=True
    )
    number: Mapped[int] = mapped_column(primary_key=True)
    body: Mapped[dict[str, Any]]
    summary: Mapped[str]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"))
    at: Mapped[datetime] = mapped_column(server_default=Now)
    undo_to: Mapped[int | None]
    redo_to: Mapped[int | None]


class Picture(Base):
    """A picture, kept once under the SHA-256 of its bytes."""

    __tablename__ = "pictures"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    mime: Mapped[str] = mapped_column(String(255))
    content: Mapped[bytes]


class Station(Base):
    """A process that owns browsers; `beat_at` is when it last said that it lives."""

    __tablename__ = "stations"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    address: Mapped[str]
    browser: Mapped[str] = mapped_column(server_default="")
    busy: Mapped[int] = mapped_column(default=0)
    engines: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    """What it can start, by the names of core.engine.browsers."""
    started_at: Mapped[datetime] = mapped_column(server_default=Now)
    beat_at: Mapped[datetime] = mapped_column(server_default=Now)


class Run(Base):
    """A run on record, or a try; `body` is the test as it was, with its elements."""

    __tablename__ = "runs"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(String(10))
    state: Mapped[str] = mapped_column(String(20), index=True)
    test_id: Mapped[int | None] = mapped_column(
        ForeignKey("tests.id", ondelete="SET NULL"), index=True
    )
    test_name: Mapped[str]
    test_version: Mapped[int]
    environment_name: Mapped[str]
    environment_id: Mapped[int | None] = mapped_column(
        ForeignKey("environments.id", ondelete="SET NULL")
    )
    address: Mapped[str]
    body: Mapped[dict[str, Any]]
    elements: Mapped[dict[str, Any]]
    files: Mapped[dict[str, Any]] = mapped_column(server_default="{}")
    choice: Mapped[str] = mapped_column(server_default="all")
    seed: Mapped[str] = mapped_column(String(40), server_default="")
    variables: Mapped[dict[str, Any]] = mapped_column(server_default="{}")
    flows: Mapped[dict[str, Any]] = mapped_column(server_default="{}")
    browser: Mapped[str] = mapped_column(server_default="")
    release: Mapped[str] = mapped_column(server_default="")
    message: Mapped[str] = mapped_column(server_default="")
    cancel_asked: Mapped[bool] = mapped_column(default=False)
    cancel_asked_at: Mapped[datetime | None]
    stopped: Mapped[str] = mapped_column(default="", server_default="")
    """Why no further cast begins, "" when nothing stopped the run."""
    again: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether interrupted casts are played again."""
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"))
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
    taking under way, without which nothing of the cast can be written, and `takings` counts them.
    `kept` holds what it kept of the application: its result columns.
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
    station_id: Mapped[str] = mapped_column(String(32), default="", server_default="")
    message: Mapped[str] = mapped_column(default="", server_default="")
    kept: Mapped[dict[str, Any]] = mapped_column(server_default="{}")
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
    cast: Mapped[Cast] = relationship(lazy="joined")


class Defect(Base):
    """A defect raised from a failed step."""

    __tablename__ = "defects"

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
    version: Mapped[int] = mapped_column(default=1)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("accounts.id"))
    created_at: Mapped[datetime] = mapped_column(server_default=Now)
    changed_at: Mapped[datetime] = mapped_column(server_default=Now)
    account: Mapped[Account | None] = relationship(lazy="joined")


class Sighting(Base):
    """A failed step in which a defect was seen."""

    __tablename__ = "sightings"

    defect_id: Mapped[int] = mapped_column(
        ForeignKey("defects.id", ondelete="CASCADE"), primary_key=True
    )
    result_id: Mapped[int] = mapped_column(
        ForeignKey("results.id", ondelete="CASCADE"), primary_key=True
    )
    at: Mapped[datetime] = mapped_column(server_default=Now)
