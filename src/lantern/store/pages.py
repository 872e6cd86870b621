"""Saved pages: what was on a page, for looking at it again without a browser."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, Row, and_, exists, func, literal, or_, select, union
from sqlalchemy.orm import Session

from lantern.core.elements.facts import Facts
from lantern.core.problems import Missing
from lantern.core.runs.work import seeing
from lantern.core.steps.actions.navigating import title_pattern
from lantern.store.models import Cast, Element, Result, Run, SavedPage, Test
from lantern.store.paging import Order, Page, page

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
        placed = {"handle": facts.order + 1, "inside": facts.inside, "in_row": facts.in_row}
        kept.append(facts.brief() | {name: number for name, number in placed.items() if number})
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


_USED = exists().where(
    or_(
        *(
            Test.body["steps"].contains(
                func.jsonb_build_array(func.jsonb_build_object(role, Element.id))
            )
            for role in ("element", "onto")
        )
    )
)
"""Whether a sentence uses an element; the index of sentences answers it."""


def listed(
    session: Session, words: str = "", unused: bool = False, after: str = ""
) -> Page[Row[Any]]:
    """Return a page of the titles that are known, each with how many `elements` it has.

    With `words` those that have them in their title, or in the name or kind of an element, which
    then are the elements that count; `unused` counts only those that no sentence uses. Raises
    BadInput for an `after` that is none.
    """
    known = union(select(SavedPage.page), select(Element.page)).subquery()
    here = and_(Element.page == known.c.page, *_fitting(known.c.page, words, unused))
    count = func.count(Element.id)
    query = select(known.c.page, count.label("elements")).select_from(
        known.outerjoin(Element, here)
    )
    query = query.group_by(known.c.page)
    if words or unused:
        titled = known.c.page.icontains(words, autoescape=True)
        query = query.having(count > 0 if unused else or_(count > 0, titled))
    return page(session, query, Order((known.c.page,)), after)


def elements_of(
    session: Session, title: str, words: str = "", unused: bool = False
) -> Sequence[Element]:
    """Return the elements of a page by name, of those that `listed` counts for it."""
    query = select(Element).filter(Element.page == title, *_fitting(literal(title), words, unused))
    return session.scalars(query.order_by(Element.name, Element.id)).all()


def _fitting(title: ColumnElement[str], words: str, unused: bool) -> Iterator[ColumnElement[bool]]:
    if words:
        yield or_(
            *(it.icontains(words, autoescape=True) for it in (title, Element.name, Element.kind))
        )
    if unused:
        yield ~_USED


def newest(session: Session, titles: Collection[str] | None = None) -> dict[str, SavedPage]:
    """Return the newest saved page of each title, or of some."""
    ranked = select(func.max(SavedPage.id)).group_by(SavedPage.page)
    if titles is not None:
        ranked = ranked.filter(SavedPage.page.in_(titles))
    found = session.scalars(select(SavedPage).filter(SavedPage.id.in_(ranked)))
    return {page.page: page for page in found}


def of_run(session: Session, run_id: int) -> Sequence[SavedPage]:
    """Return the pages that a run saved, in the order of saving."""
    return session.scalars(select(SavedPage).filter_by(run_id=run_id).order_by(SavedPage.id)).all()


def address_of(session: Session, test_id: int, step_id: str, but: int = 0) -> str:
    """Return the address of the page that was saved last when a sentence was played, or "".

    The page `but` does not count, nor do those on which it failed.
    """
    query = select(SavedPage.address).filter_by(test_id=test_id, step_id=step_id)
    query = query.filter(SavedPage.id != but)
    return session.scalars(query.order_by(SavedPage.id.desc()).limit(1)).first() or ""


@dataclass(frozen=True)
class Green:
    """All that was on a page in a run that passed, and the number of the run (0: none)."""

    nodes: tuple[Facts, ...] = ()
    run: int = 0


def last_green(
    session: Session, test_id: int, title: str, *, at: str = "", before: int | None = None
) -> Green:
    """Return what was on a page of a test's last row that passed; empty when none was kept.

    Of several moments it is the one before the sentence `at`, "" for the last. Only casts `before`
    one count, by its id; None for all.
    """
    query = (
        select(SavedPage.cast_id)
        .join(Cast, Cast.id == SavedPage.cast_id)
        .filter(
            SavedPage.test_id == test_id,
            SavedPage.page == title_pattern(title),
            Cast.outcome == "passed",
        )
        .order_by(SavedPage.id.desc())
        .limit(1)
    )
    if before is not None:
        query = query.filter(Cast.id < before)
    cast = session.scalar(query)
    if cast is None:
        return Green()
    there = select(SavedPage).filter_by(cast_id=cast, page=title_pattern(title))
    kept = _just_before(session, session.scalars(there.order_by(SavedPage.id)).all(), at)
    return Green(tuple(nodes_of(kept)), kept.run_id or 0)


def _just_before(session: Session, kept: Sequence[SavedPage], at: str) -> SavedPage:
    """Return which page of a row was there before a sentence of it was carried out.

    A page is kept behind its sentence; where that only reads it, it was like that before as well.
    """
    if len(kept) == 1 or not at:
        return kept[-1]
    query = select(Result.step_id, func.min(Result.position))
    query = query.filter(Result.cast_id == kept[0].cast_id).group_by(Result.step_id)
    places: dict[str, int] = {row[0]: row[1] for row in session.execute(query)}
    if at not in places:
        return kept[-1]
    run = session.get_one(Run, kept[0].run_id)
    reads = at in seeing(run.body, run.flows)
    earlier = [
        one
        for one in kept
        if places.get(one.step_id, LAST) < places[at] or (reads and one.step_id == at)
    ]
    return earlier[-1] if earlier else kept[0]


LAST = 1 << 31
"""The place of what is kept at the end of a row: behind all sentences."""


def history(session: Session, page: str, tests: Sequence[int]) -> Sequence[SavedPage]:
    """Return the pages of one title that earlier runs of some tests saved, newest first."""
    query = (
        select(SavedPage)
        .filter(SavedPage.page == page, SavedPage.test_id.in_(list(tests)))
        .order_by(SavedPage.id.desc())
        .limit(MOST_HISTORY)
    )
    return session.scalars(query).all()
