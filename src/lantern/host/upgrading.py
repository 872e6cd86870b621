"""`lantern upgrade`: what a newer release does to the database, looked at first and backed up."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import text

from lantern import __version__
from lantern.host.backing import backup, nobody_else
from lantern.host.postgres import Cluster
from lantern.host.settings import Settings
from lantern.host.setup import STATE, say
from lantern.host.state import KEY
from lantern.store.database import Database
from lantern.store.migrating import Standing, migrate, rehearse_migrations, standing
from lantern.store.vault import Vault

BACKUPS = STATE / "backups"
ROOM = 1.5
"""How many times the size of the database has to be free on the disk."""


@dataclass(frozen=True)
class Finding:
    """What a check found: `stops` tells that nothing is done before it is mended."""

    words: str
    stops: bool = False


@contextmanager
def database_at_rest(settings: Settings) -> Iterator[Database]:
    """Give the database while no Lantern of this folder runs; raises SetupFailed while one does."""
    with nobody_else():
        cluster = None if settings.database else Cluster(STATE / "postgres")
        if cluster:
            cluster.start()
        database = Database(settings.database or (cluster.url if cluster else ""))
        try:
            yield database
        finally:
            database.close()
            if cluster:
                cluster.stop()


def upgrade(settings: Settings, *, check: bool, kept: Path | None, careless: bool) -> int:
    """Check what is to be done, back up to `kept` (unless `careless`), and do it; the exit code.

    With `check` nothing is changed. Raises SetupFailed.
    """
    with database_at_rest(settings) as database:
        now = standing(database)
        say(f"Lantern {__version__}; the database is at {now.revision or 'nothing yet'}.")
        findings = list(look(database, now))
        for one in findings:
            say(f"  {'stops' if one.stops else 'fine '}  {one.words}")
        if any(one.stops for one in findings):
            say("Nothing was changed.")
            return 1
        if check or not now.missing:
            return 0
        if not careless:
            BACKUPS.mkdir(exist_ok=True)
            stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
            file = kept or BACKUPS / f"before-{__version__}-{stamp}.tar"
            backup(file, _url(database), KEY)
            say(f"A backup is kept: {file}")
        migrate(database)
        say(f"The database is at {standing(database).revision}.")
    return 0


def _url(database: Database) -> str:
    return database.url


def look(database: Database, now: Standing) -> Iterator[Finding]:
    """Check all that an upgrade rests on; changes nothing."""
    if now.unknown:
        yield Finding("A newer Lantern made this database; this one can not use it.", stops=True)
        return
    if not now.missing:
        yield Finding("Nothing is missing: the database fits this release.")
    for check in (_room, _key):
        yield from check(database) if now.revision else ()
    if now.missing and now.revision:
        yield from _trial(database, now)


def _room(database: Database) -> Iterator[Finding]:
    with database.session() as session:
        size = session.scalar(text("SELECT pg_database_size(current_database())")) or 0
    free = shutil.disk_usage(STATE).free
    words = f"{free // 10**6} MB are free; the database has {size // 10**6} MB."
    yield Finding(words, stops=free < size * ROOM)


def _key(database: Database) -> Iterator[Finding]:
    vault = Vault(str(KEY))
    with database.session() as session:
        ids = session.scalars(text("SELECT id FROM environments")).all()
        try:
            opened = sum(len(vault.values(session, int(one))) for one in ids)
        except Exception as error:  # noqa: BLE001 - whatever it is, the key does not do
            yield Finding(f"The key {KEY} does not open the secrets: {error}", stops=True)
            return
    yield Finding(f"The key opens all {opened} secrets.")


def _trial(database: Database, now: Standing) -> Iterator[Finding]:
    try:
        rehearse_migrations(database)
    except Exception as error:  # noqa: BLE001 - whatever it is, it would fail in earnest as well
        yield Finding(f"The changes {', '.join(now.missing)} fail on a trial: {error}", stops=True)
        return
    yield Finding(f"The changes {', '.join(now.missing)} work on a trial, which was taken back.")
