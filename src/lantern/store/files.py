"""Files kept with tests, to be given to the pages under test."""

from __future__ import annotations

import mimetypes
from collections.abc import Sequence
from pathlib import PurePath

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing
from lantern.store import pictures
from lantern.store.database import tell
from lantern.store.models import TestFile

LARGEST = 25 * 1024 * 1024
"""Bytes of the largest file that is kept with a test."""


def named(name: str, content: bytes) -> tuple[str, str]:
    """Return the name and the kind (MIME) under which a file is kept; raises BadInput."""
    name = PurePath(name.replace("\\", "/")).name.strip()[:255]
    if not name or name in (".", ".."):
        raise BadInput("A file needs a name.", where="file")
    if len(content) > LARGEST:
        raise BadInput(
            f"{name} has {len(content) / 1024 / 1024:.0f} MB; up to {LARGEST >> 20} MB are kept.",
            where=name,
            hint="Give a smaller file that serves as well.",
        )
    return name, mimetypes.guess_type(name)[0] or "application/octet-stream"


def put(session: Session, test_id: int, name: str, content: bytes) -> TestFile:
    """Keep a file under its name, in place of an older one; raises BadInput."""
    name, mime = named(name, content)
    kept = session.get(TestFile, (test_id, name)) or TestFile(test_id=test_id, name=name)
    kept.digest, kept.size = pictures.keep(session, content, mime), len(content)
    session.add(kept)
    session.flush()
    tell(session, "files", id=test_id)
    return kept


def listed(session: Session, test_id: int) -> Sequence[TestFile]:
    """Return the files of a test by name."""
    return session.scalars(
        select(TestFile).filter_by(test_id=test_id).order_by(TestFile.name)
    ).all()


def digests(session: Session, test_id: int) -> dict[str, str]:
    """Return the digests of a test's files by name: what a run takes along."""
    return {kept.name: kept.digest for kept in listed(session, test_id)}


def remove(session: Session, test_id: int, name: str) -> None:
    """Remove a file from a test; raises Missing."""
    kept = session.get(TestFile, (test_id, name))
    if kept is None:
        raise Missing(f"This test keeps no file named “{name}”.", where=name)
    session.delete(kept)
    tell(session, "files", id=test_id)
