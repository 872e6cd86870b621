"""Pictures, kept once under the SHA-256 of their bytes."""

from __future__ import annotations

import hashlib
from collections.abc import Collection

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.store.models import Picture


def digest_of(content: bytes) -> str:
    """Return the digest under which a picture is kept."""
    return hashlib.sha256(content).hexdigest()


def keep(session: Session, content: bytes, mime: str = "image/jpeg") -> str:
    """Keep a picture and return its digest.

    What shows it may be written a while later: for a day from now on it is not tidied away.
    """
    digest = digest_of(content)
    row = {"digest": digest, "mime": mime, "content": content}
    query = insert(Picture).values(row)
    again = {"at": func.clock_timestamp()}
    session.execute(query.on_conflict_do_update(index_elements=["digest"], set_=again))
    return digest


def load(session: Session, digest: str) -> Picture | None:
    """Return the picture of that digest, or None."""
    return session.get(Picture, digest)


def contents(session: Session, digests: Collection[str]) -> dict[str, bytes]:
    """Return the bytes of pictures by digest; those that are gone are left out."""
    query = select(Picture.digest, Picture.content).filter(Picture.digest.in_(digests))
    return dict(session.execute(query).tuples().all())
