"""Elements of the pages under test."""

from __future__ import annotations

import hashlib
import json
import uuid
from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import func, or_, select, text
from sqlalchemy.orm import Session

from lantern.core.elements import clues as core
from lantern.core.elements.clues import POSITION
from lantern.core.elements.facts import Facts
from lantern.core.elements.repair import propose
from lantern.core.elements.suggesting import suggest
from lantern.core.problems import Conflict, Missing
from lantern.core.recording.proposals import Proposal
from lantern.store import acts, models
from lantern.store.database import tell
from lantern.store.paging import Order, Page, page


def signature(element: core.Element) -> str:
    """Return a digest that is equal for elements recognised in the same way on the same page."""
    shape = [element.page, element.kind, [c.as_json() for c in element.clues]]
    return hashlib.sha256(json.dumps(shape).encode()).hexdigest()


def new(proposal: Proposal, name: str = "") -> core.Element:
    """Return a new element for a proposal, under the proposed name or another."""
    return core.Element(
        uuid.uuid4().hex[:12],
        name.strip() or proposal.name,
        proposal.kind,
        proposal.clues,
        proposal.spare,
        proposal.page,
        proposal.seen,
        proposal.lookalikes,
    )


def same(session: Session, element: core.Element) -> core.Element | None:
    """Return the known element that is recognised in the same way on the same page, if any."""
    query = select(models.Element).filter_by(signature=signature(element))
    known = session.scalars(query).first()
    return core.Element.read(known.body) if known else None


def take(session: Session, proposal: Proposal) -> core.Element:
    """Return the element for a proposal: a known one that is the same thing, or a new one."""
    element = new(proposal)
    known = same(session, element) or _alike(session, element)
    if known:
        return known
    save(session, element)
    return element


def _alike(session: Session, element: core.Element) -> core.Element | None:
    """Return the one known element of the page that finds this very thing, and looks like it.

    It may have been taken in or written by hand, and go by other clues. A text that the new one
    was not to be known by, since it is what is checked, must not be what the known one goes by.
    """
    if element.seen is None:
        return None
    around = [element.seen, *element.lookalikes]
    banned = SAID - {clue.fact for clue in element.clues} if element.kind == "text" else frozenset()
    found = []
    for row in of_page(session, element.page):
        known = core.Element.read(row.body)
        facts = {clue.fact for clue in known.clues}
        if known.kind != element.kind or facts & banned or POSITION in facts:
            continue  # a place among the few that are known here says nothing
        if known.among(around) == [element.seen] and _looks_like(known, element.seen, around):
            found.append(known)
    return found[0] if len(found) == 1 else None


def _looks_like(known: core.Element, seen: Facts, around: Sequence[Facts]) -> bool:
    best = propose(known, around, most=1)
    return not known.seen or bool(best and best[0].facts == seen and best[0].high)


SAID = frozenset(("text", "own", "name"))
"""Facts that are what a text says."""


def save(session: Session, element: core.Element, *, base: int | None = None) -> models.Element:
    """Keep an element, new or changed; `base` is the version that was changed.

    Raises Conflict when someone else changed it since.
    """
    row = session.get(models.Element, element.id, with_for_update=True)
    if row is None:
        row = models.Element(id=element.id, version=0)
    elif base is not None and base != row.version:
        raise Conflict(
            "The element was changed by someone else meanwhile.",
            where=element.name,
            hint="Its newest version is shown now; make your change again if it is needed.",
        )
    body = element.as_json()
    if row.version and body == row.body:
        return row
    old = core.Element.read(row.body) if row.version else None
    if old is not None:
        _keep_first(session, row)
    row.page, row.name, row.kind = element.page, element.name, element.kind
    row.signature, row.body = signature(element), body
    row.version = (row.version or _last_number(session, element.id)) + 1
    row.changed_at = datetime.now(UTC)
    session.add(row)
    _note(session, row, body, changed_in_words(old, element))
    session.flush()
    return row


def _last_number(session: Session, key: str) -> int:
    """Return the number of an element's newest version; 0 for one that never was."""
    query = select(func.max(models.ElementVersion.number)).filter_by(element_id=key)
    return session.scalar(query) or 0


def _keep_first(session: Session, row: models.Element) -> None:
    """Keep what an element was before it is changed, where no version tells of it yet."""
    if session.get(models.ElementVersion, (row.id, row.version)) is None:
        session.add(
            models.ElementVersion(
                element_id=row.id, number=row.version, body=row.body, summary="", at=row.changed_at
            )
        )


def _note(session: Session, row: models.Element, body: dict[str, Any] | None, summary: str) -> None:
    """Keep what becomes of an element as a version of it, as part of the act under way."""
    new = row.version == 1 and body is not None  # it is made by the way, by what uses it
    act = acts.under_way(session) if new else acts.current(session, None, None, summary)
    session.add(
        models.ElementVersion(
            element_id=row.id,
            number=row.version + (body is None),
            body=body,
            summary=summary,
            author_id=act and act.account_id,
            act_id=act and act.id,
        )
    )


def changed_in_words(old: core.Element | None, new: core.Element) -> str:
    """Return what became of an element, as a line."""
    if old is None:
        return f"element “{new.name}”"
    if old.name != new.name:
        return f"element “{old.name}” is called “{new.name}”"
    parts = [
        word
        for word, changed in (
            ("clues", old.clues != new.clues),
            ("kind", old.kind != new.kind),
            ("page", old.page != new.page),
        )
        if changed
    ]
    return f"{' and '.join(parts) or 'spare clues'} of element “{new.name}”"


def version_before(session: Session, key: str, number: int) -> models.ElementVersion | None:
    """Return the newest version of an element below a number; None for none."""
    of = models.ElementVersion
    query = select(of).filter(of.element_id == key, of.number < number)
    return session.scalars(query.order_by(of.number.desc()).limit(1)).first()


def versions(session: Session, key: str) -> Sequence[models.ElementVersion]:
    """Return the versions of an element, newest first; none for one that never changed."""
    query = select(models.ElementVersion).filter_by(element_id=key)
    return session.scalars(query.order_by(models.ElementVersion.number.desc()).limit(100)).all()


def drop(session: Session, row: models.Element) -> None:
    """Delete an element; its versions stay, so that it can come back."""
    _keep_first(session, row)
    _note(session, row, None, f"element “{row.name}” deleted")
    session.delete(row)
    session.flush()


def load(session: Session, ids: Iterable[str]) -> dict[str, core.Element]:
    """Return the elements of those ids that exist, by id."""
    rows = session.scalars(select(models.Element).filter(models.Element.id.in_(list(ids))))
    return {row.id: core.Element.read(row.body) for row in rows}


def remember(session: Session, key: str, nodes: Sequence[Facts]) -> None:
    """Let an element that was written by hand know what it looks like, where it is found alone."""
    row = session.get(models.Element, key, with_for_update=True)
    element = core.Element.read(row.body) if row else None
    found = element.among(nodes) if element else []
    if row is None or element is None or element.seen or len(found) != 1:
        return
    suggestion = suggest(found[0], nodes)
    known = {clue.fact for clue in (*element.clues, *element.spare)}
    more = [clue for clue in (*suggestion.clues, *suggestion.spare) if clue.fact not in known]
    seen = replace(
        element,
        seen=found[0],
        lookalikes=suggestion.lookalikes,
        spare=(*element.spare, *more),
    )
    row.body = seen.as_json()


def get(session: Session, key: str, *, lock: bool = False) -> models.Element:
    """Return an element's row, with `lock` for a change of its own; raises Missing."""
    row = session.get(models.Element, key, with_for_update=lock)
    if row is None:
        raise Missing("That element does not exist.", where=key)
    return row


def listed(session: Session) -> Sequence[models.Element]:
    """Return all elements by page and name."""
    query = select(models.Element).order_by(models.Element.page, models.Element.name)
    return session.scalars(query).all()


def chosen(
    session: Session, words: str = "", kind: str = "", after: str = ""
) -> Page[models.Element]:
    """Return a page of the elements by name, of a `kind` ("" for any), with `words` in theirs.

    Raises BadInput for an `after` that is none.
    """
    query = select(models.Element)
    if kind:
        query = query.filter_by(kind=kind)
    if words:
        held = (
            it.icontains(words, autoescape=True)
            for it in (models.Element.name, models.Element.page)
        )
        query = query.filter(or_(*held))
    by = (func.lower(models.Element.name), models.Element.id.expression)
    found = page(session, query, Order(by), after)
    return Page([row[0] for row in found.rows], found.next)


def of_page(session: Session, page: str) -> Sequence[models.Element]:
    """Return the elements of one page."""
    return session.scalars(select(models.Element).filter_by(page=page)).all()


_USES = text(
    """
    SELECT key, tests.id, tests.name, array_agg(number ORDER BY number)
    FROM unnest(CAST(:keys AS text[])) AS key
    JOIN tests ON tests.body -> 'steps' @> jsonb_build_array(jsonb_build_object('element', key))
               OR tests.body -> 'steps' @> jsonb_build_array(jsonb_build_object('onto', key)),
         jsonb_array_elements(tests.body -> 'steps') WITH ORDINALITY AS each(step, number)
    WHERE key IN (step ->> 'element', step ->> 'onto')
    GROUP BY key, tests.id, tests.name
    ORDER BY tests.name, tests.id
    """
)


Uses = dict[str, list[tuple[int, str, list[int]]]]
"""By element: the tests that use it, each with id, name and the numbers of the steps, from 1."""


def uses(session: Session, *keys: str) -> Uses:
    """Return which tests use elements, by the element's id."""
    found: Uses = {}
    for element, test, name, steps in session.execute(_USES, {"keys": list(keys)}):
        found.setdefault(element, []).append((test, name, list(steps)))
    return found


def remove(session: Session, key: str) -> None:
    """Delete an element that no test uses; raises Conflict when one does."""
    row = get(session, key)
    users = uses(session, key).get(key, [])
    if users:
        names = ", ".join(f"“{name}”" for _, name, _ in users[:3])
        raise Conflict(
            f"“{row.name}” is used by {names}.",
            where=key,
            hint="Merge it with another element, or change those tests first.",
        )
    drop(session, row)
    tell(session, "element", id=key)
