"""Pictures, kept once under the SHA-256 of their bytes."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Collection
from datetime import timedelta

from PIL import Image
from sqlalchemy import func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.store.models import Picture

LATELY = timedelta(hours=1)
"""For how long after it was kept a picture need not be kept again."""


def digest_of(content: bytes) -> str:
    """Return the digest under which a picture is kept."""
    return hashlib.sha256(content).hexdigest()


def keep(session: Session, content: bytes, mime: str = "image/jpeg") -> str:
    """Keep a picture and return its digest.

    What shows it may be written a while later: for a day from now on it is not tidied away.
    """
    digest = digest_of(content)
    made = insert(Picture).values(digest=digest, mime=mime, content=content)
    again = update(Picture).filter_by(digest=digest).values(at=func.clock_timestamp())
    while not session.scalar(made.on_conflict_do_nothing().returning(Picture.digest)):
        fresh = Picture.at > func.clock_timestamp() - LATELY
        # One that was kept lately is left alone: two that keep the same ones wait for nobody.
        if session.scalar(select(fresh).filter_by(digest=digest)):
            break
        if session.scalar(again.returning(Picture.digest)):
            break  # else it was tidied away at this very moment
    return digest


def load(session: Session, digest: str) -> Picture | None:
    """Return the picture of that digest, or None."""
    return session.get(Picture, digest)


def size(session: Session, digest: str) -> tuple[int, int] | None:
    """Return how wide and high a picture is, in pixels: those of CSS of the page it is of.

    None where it is gone, or is none.
    """
    kept = load(session, digest)
    if kept is None:
        return None
    try:
        return Image.open(io.BytesIO(kept.content)).size
    except (OSError, ValueError):
        return None


def contents(session: Session, digests: Collection[str]) -> dict[str, bytes]:
    """Return the bytes of pictures by digest; those that are gone are left out."""
    query = select(Picture.digest, Picture.content).filter(Picture.digest.in_(digests))
    return {row[0]: row[1] for row in session.execute(query)}
