"""Which defects a failure is likely to be, by what its page showed and said."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session, undefer

from lantern.core.review.alike import LIKELY, Shown, likeness, shown
from lantern.core.review.defects import Failure
from lantern.store import pages
from lantern.store.models import Defect, Result, SavedPage

MOST_LOOKED_AT = 400
"""Defects that a failure is held against, the newest."""
MOST = 5


@dataclass(frozen=True)
class Alike:
    """A defect that a failure is likely to be: how likely (0 to 1), and why."""

    defect: int
    share: float
    why: tuple[str, ...]


def shown_by(session: Session, failure: Failure, result: Result | None = None) -> Shown:
    """Return what there was to see of a failure: on the page that was kept of it, where one was."""
    if result is None:
        return shown(failure)
    query = (
        select(SavedPage)
        .filter_by(cast_id=result.cast_id, step_id=result.step_id)
        .order_by(SavedPage.id.desc())
        .options(undefer(SavedPage.nodes))
        .limit(1)
    )
    page = session.scalar(query)
    return shown(failure, page.page, pages.nodes_of(page)) if page else shown(failure)


def alike(session: Session, now: Shown, but: Collection[int] = ()) -> list[Alike]:
    """Return the defects that a failure is likely to be, the likeliest first."""
    query = select(Defect.id, Defect.shown).filter(Defect.shown != {}, Defect.id.not_in(but))
    found = []
    for key, raw in session.execute(query.order_by(Defect.id.desc()).limit(MOST_LOOKED_AT)):
        share, why = likeness(now, Shown.read(raw))
        if share >= LIKELY:
            found.append(Alike(key, share, why))
    return sorted(found, key=lambda one: (-one.share, -one.defect))[:MOST]
