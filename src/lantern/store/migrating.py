"""Bringing a database to the newest version, and telling how far it is from that."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, text

from lantern.store.database import Database

HERE = Path(__file__).parent
_ONE_AT_A_TIME = text("SELECT pg_advisory_xact_lock(5091872)")


def alembic_config(connection: Connection) -> Config:
    """Return Alembic's configuration for a connection."""
    config = Config()
    config.set_main_option("script_location", str(HERE / "migrations"))
    config.set_main_option("path_separator", "os")
    config.attributes["connection"] = connection
    return config


def migrate(database: Database) -> None:
    """Run the migrations that are missing; two processes may do so at once."""
    with database.engine.begin() as connection:
        connection.execute(_ONE_AT_A_TIME)
        command.upgrade(alembic_config(connection), "head")


def rehearse_migrations(database: Database) -> None:
    """Run the migrations that are missing and take all of it back; raises what they raise."""
    with database.engine.connect() as connection, connection.begin() as all_of_it:
        connection.execute(_ONE_AT_A_TIME)
        command.upgrade(alembic_config(connection), "head")
        all_of_it.rollback()


@dataclass(frozen=True)
class Standing:
    """How far a database is: its `revision`, "" for an empty one, and what it is `missing`.

    `unknown` tells that this release does not know the revision: a newer one made it.
    """

    revision: str
    missing: tuple[str, ...]
    unknown: bool


def standing(database: Database) -> Standing:
    """Return how far a database is; changes nothing."""
    with database.engine.connect() as connection:
        revision = MigrationContext.configure(connection).get_current_revision() or ""
        scripts = ScriptDirectory.from_config(alembic_config(connection))
    ordered = [one.revision for one in reversed(list(scripts.walk_revisions()))]
    if revision and revision not in ordered:
        return Standing(revision, (), unknown=True)
    done = ordered.index(revision) + 1 if revision else 0
    return Standing(revision, tuple(ordered[done:]), unknown=False)
