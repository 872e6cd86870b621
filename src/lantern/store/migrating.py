"""Bringing a database to the newest version."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, text

from lantern.store.database import Database

HERE = Path(__file__).parent


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
        connection.execute(text("SELECT pg_advisory_xact_lock(5091872)"))
        command.upgrade(alembic_config(connection), "head")
