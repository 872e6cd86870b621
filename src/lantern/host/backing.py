"""Backups: all that Lantern keeps in one file, and a Lantern made of such a file.

Format: a tar archive (POSIX.1-2001) of `manifest.json`, `database.dump` (pg_dump's custom format,
a snapshot of one moment whatever goes on) and `secret.key`. Files and pictures lie in the database.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path

from psycopg.conninfo import conninfo_to_dict

from lantern import __version__
from lantern.account import give
from lantern.host.postgres import Cluster
from lantern.host.setup import STATE, SetupFailed, postgres_programs
from lantern.host.state import KEY, LOCK, running_state
from lantern.store.database import Database
from lantern.store.migrating import standing

FORMAT = 1
MANIFEST, DUMP, KEY_NAME = "manifest.json", "database.dump", "secret.key"
BLOCK = 1024 * 1024
PG_NAMES = {
    "host": "PGHOST", "port": "PGPORT", "user": "PGUSER", "password": "PGPASSWORD",
    "dbname": "PGDATABASE", "sslmode": "PGSSLMODE", "sslrootcert": "PGSSLROOTCERT",
}  # fmt: skip
"""What programs of PostgreSQL call the parts of an address in their environment."""


@dataclass(frozen=True)
class Manifest:
    """What a backup says of itself; `digests` are the SHA-256 of its other members by name."""

    format: int
    version: str
    revision: str
    made_at: str
    digests: dict[str, str]


# -- making ---------------------------------------------------------------------------------------


def backup(file: Path, url: str, key: Path) -> Manifest:
    """Write a backup of a database and a key; the file is there when it is whole, and not before.

    Its owner alone can read it, since it holds the key of all secrets. Raises SetupFailed.
    """
    if not file.resolve().parent.is_dir():
        raise SetupFailed(f"The folder of {file} does not exist.")
    database = Database(url)
    try:
        revision = standing(database).revision
    finally:
        database.close()
    if not key.is_file():
        raise SetupFailed(f"There is no key at {key}; without it no secret could be opened.")
    with tempfile.TemporaryDirectory(prefix=".lantern-backup-", dir=file.resolve().parent) as place:
        folder = Path(place)
        _program("pg_dump", url, ["--format=custom", "--no-owner", f"--file={folder / DUMP}"])
        shutil.copyfile(key, folder / KEY_NAME)
        digests = {name: _digest(folder / name) for name in (DUMP, KEY_NAME)}
        now = datetime.now(UTC).isoformat(timespec="seconds")
        manifest = Manifest(FORMAT, __version__, revision, now, digests)
        (folder / MANIFEST).write_text(json.dumps(asdict(manifest), indent=2), encoding="utf-8")
        whole = folder / "whole.tar"
        with os.fdopen(os.open(whole, os.O_CREAT | os.O_WRONLY, 0o600), "wb") as out:
            with tarfile.open(fileobj=out, mode="w") as archive:
                for name in (MANIFEST, DUMP, KEY_NAME):
                    archive.add(folder / name, name)
            out.flush()
            os.fsync(out.fileno())
        whole.replace(file)
    return manifest


def _program(name: str, url: str, arguments: list[str]) -> None:
    """Run a program of PostgreSQL on a database; its password stands in no list of processes."""
    programs = postgres_programs()
    program = str(programs / name) if programs else shutil.which(name)
    if not program:
        raise SetupFailed(f"{name} is not installed: apt-get install postgresql-client")
    parts = {key: str(value) for key, value in conninfo_to_dict(url).items() if value}
    env = {**os.environ, **{PG_NAMES[key]: parts[key] for key in PG_NAMES if key in parts}}
    done = subprocess.run(
        [program, *arguments], env=env, capture_output=True, text=True, check=False
    )
    if done.returncode != 0:
        raise SetupFailed(f"{name} failed:\n{done.stderr.strip()[-2000:]}")


def _digest(file: Path) -> str:
    found = hashlib.sha256()
    with file.open("rb") as content:
        while block := content.read(BLOCK):
            found.update(block)
    return found.hexdigest()


@contextmanager
def url_at_hand(given: str) -> Iterator[str]:
    """Give the address of the database: one that is `given`, that of a running Lantern, or an own.

    An own one is started for as long as it is needed. Raises SetupFailed.
    """
    state = running_state()
    if given or (state and state["database"]):
        yield given or str((state or {})["database"])
        return
    if not (STATE / "postgres").exists():
        raise SetupFailed(f"There is no Lantern in {STATE}.")
    with nobody_else():
        cluster = Cluster(STATE / "postgres")
        cluster.start()
        try:
            yield cluster.url
        finally:
            cluster.stop()


# -- reading --------------------------------------------------------------------------------------


def _take_out(archive: tarfile.TarFile, name: str, folder: Path) -> None:
    """Write a member's content alone: whatever else an archive says of it counts for nothing."""
    content = archive.extractfile(name)
    if content is None:
        raise KeyError(name)
    with content, (folder / name).open("wb") as out:
        shutil.copyfileobj(content, out, BLOCK)


@contextmanager
def opened(file: Path) -> Iterator[tuple[Manifest, Path]]:
    """Unpack a backup and check that it is whole; raises SetupFailed with what is wrong."""
    if not file.is_file():
        raise SetupFailed(f"There is no file {file}.")
    with tempfile.TemporaryDirectory(prefix="lantern-restore-", dir=STATE) as place:
        folder = Path(place)
        try:
            with tarfile.open(file) as archive:
                for name in (MANIFEST, DUMP, KEY_NAME):
                    _take_out(archive, name, folder)
            manifest = Manifest(**json.loads((folder / MANIFEST).read_text(encoding="utf-8")))
        except (tarfile.TarError, KeyError, ValueError, TypeError, OSError) as error:
            raise SetupFailed(f"{file} is no backup of Lantern: {error}") from error
        if manifest.format != FORMAT:
            raise SetupFailed(
                f"{file} is of a newer Lantern ({manifest.version}): restore it with that one."
            )
        for name in (DUMP, KEY_NAME):
            if manifest.digests.get(name) != _digest(folder / name):
                raise SetupFailed(f"{file} is damaged: its {name} is not what was written.")
        yield manifest, folder


# -- restoring ------------------------------------------------------------------------------------


@contextmanager
def nobody_else() -> Iterator[None]:
    """Hold the data folder for oneself; raises SetupFailed while a Lantern runs in it."""
    STATE.mkdir(parents=True, exist_ok=True)
    with LOCK.open("a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            raise SetupFailed("Lantern is running. Stop it first: lantern stop") from error
        yield


def restore(file: Path, url: str, *, replace: bool) -> tuple[Manifest, list[Path]]:
    """Make the Lantern of this folder what a backup holds; `url` is "" for its own PostgreSQL.

    What is there already is replaced only if asked, and put aside: returns the manifest and where
    it lies. Until all of the backup is in place, nothing that was there is touched. Raises
    SetupFailed.
    """
    with nobody_else(), opened(file) as (manifest, folder):
        stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
        if url:
            aside = _into_given(url, folder, replace=replace)
        else:
            aside = _into_own(folder, stamp, replace=replace)
        if KEY.exists() and KEY.read_bytes() != (folder / KEY_NAME).read_bytes():
            old = KEY.with_name(f"{KEY.name}.before-{stamp}")
            KEY.replace(old)
            aside.append(old)
        _put_key(folder / KEY_NAME)
    return manifest, aside


def _put_key(source: Path) -> None:
    new = KEY.with_name(f"{KEY.name}.new")
    new.unlink(missing_ok=True)
    with os.fdopen(os.open(new, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600), "wb") as out:
        out.write(source.read_bytes())
    give(new)
    new.replace(KEY)


def _into_own(folder: Path, stamp: str, *, replace: bool) -> list[Path]:
    """Restore into a new cluster, which takes the place of the old one when it is whole."""
    place = STATE / "postgres"
    if place.exists() and not replace:
        raise SetupFailed(
            f"There are data in {STATE} already. With --replace they are put aside, not deleted."
        )
    fresh = Cluster(STATE / f"postgres-{stamp}")
    try:
        fresh.start()
        _fill(fresh.url, folder)
        fresh.stop()
    except BaseException:
        fresh.remove()
        raise
    aside = []
    if place.exists() or place.is_symlink():
        old = STATE / f"postgres.before-{stamp}"
        place.rename(old)
        aside.append(old)
    fresh.folder.rename(place)
    return aside


def _into_given(url: str, folder: Path, *, replace: bool) -> list[Path]:
    """Restore into a database of somebody else's PostgreSQL, all of it or nothing."""
    database = Database(url)
    try:
        filled = bool(standing(database).revision)
    finally:
        database.close()
    if filled and not replace:
        raise SetupFailed(
            "That database holds a Lantern already. Make a backup of it, or say --replace."
        )
    _fill(url, folder, clean=filled)
    return []


def _fill(url: str, folder: Path, *, clean: bool = False) -> None:
    options = ["--no-owner", "--no-acl", "--exit-on-error", "--single-transaction"]
    if clean:
        options += ["--clean", "--if-exists"]
    name = conninfo_to_dict(url)["dbname"]
    _program("pg_restore", url, [*options, f"--dbname={name}", str(folder / DUMP)])
