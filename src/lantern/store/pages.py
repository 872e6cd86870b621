"""Saved pages: what was on a page, for looking at it again without a browser."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.elements.facts import Facts
from lantern.core.problems import Missing
from lantern.core.steps.actions.navigating import title_pattern
from lantern.store.models import SavedPage

MOST_HISTORY = 40
"""Saved pages that an element is tried against, the newest first."""
MOST_NODES = 6000
"""Nodes that are kept of a page."""


def save(
    session: Session,
    title: str,
    nodes: Sequence[Facts],
    *,
    address: str = "",
    release: str = "",
    picture: str = "",
    test_id: int | None = None,
    run_id: int | None = None,
    cast_id: int | None = None,
    step_id: str = "",
) -> SavedPage:
    """Save a page under its title, in which numbers are open."""
    kept = []
    for facts in nodes[:MOST_NODES]:
        kept.append(facts.brief() | {"handle": facts.order + 1})
    page = SavedPage(
        page=title_pattern(title),
        address=address,
        release=release,
        nodes=kept,
        picture=picture,
        test_id=test_id,
        run_id=run_id,
        cast_id=cast_id,
        step_id=step_id,
    )
    session.add(page)
    session.flush()
    return page


def get(session: Session, page_id: int) -> SavedPage:
    """Return a saved page; raises Missing."""
    page = session.get(SavedPage, page_id)
    if page is None:
        raise Missing("That page is no longer kept.", where=str(page_id))
    return page


def nodes_of(page: SavedPage) -> list[Facts]:
    """Return the facts of a saved page; handles number the nodes from 1."""
    return [Facts.read(raw) for raw in page.nodes]


def newest(session: Session) -> dict[str, SavedPage]:
    """Return the newest saved page of each title."""
    ranked = select(func.max(SavedPage.id)).group_by(SavedPage.page)
    found = session.scalars(select(SavedPage).filter(SavedPage.id.in_(ranked)))
    return {page.page: page for page in found}


def of_run(session: Session, run_id: int) -> Sequence[SavedPage]:
    """Return the pages that a run saved, in the order of saving."""
    return session.scalars(select(SavedPage).filter_by(run_id=run_id).order_by(SavedPage.id)).all()


def history(session: Session, page: str, tests: Sequence[int]) -> Sequence[SavedPage]:
    """Return the pages of one title that earlier runs of some tests saved, newest first."""
    query = (
        select(SavedPage)
        .filter(SavedPage.page == page, SavedPage.test_id.in_(list(tests)))
        .order_by(SavedPage.id.desc())
        .limit(MOST_HISTORY)
    )
    return session.scalars(query).all()
