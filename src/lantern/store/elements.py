"""Elements of the pages under test."""

from __future__ import annotations

import hashlib
import json
import uuid
from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.elements import clues as core
from lantern.core.recording.recorder import Proposal
from lantern.store import models


def signature(element: core.Element) -> str:
    """Return a digest that is equal for elements recognised in the same way on the same page."""
    shape = [element.page, element.kind, [c.as_json() for c in element.clues]]
    return hashlib.sha256(json.dumps(shape).encode()).hexdigest()


def take(session: Session, proposal: Proposal) -> core.Element:
    """Return the element for a proposal: a known one that is recognised the same way, or new."""
    element = core.Element(
        uuid.uuid4().hex[:12],
        proposal.name,
        proposal.kind,
        proposal.clues,
        proposal.spare,
        proposal.page,
        proposal.seen,
        proposal.lookalikes,
    )
    digest = signature(element)
    known = session.scalars(select(models.Element).filter_by(signature=digest)).first()
    if known:
        return core.Element.read(known.body)
    save(session, element)
    return element


def save(session: Session, element: core.Element) -> None:
    """Keep an element, new or changed."""
    row = session.get(models.Element, element.id) or models.Element(id=element.id)
    row.page, row.name, row.kind = element.page, element.name, element.kind
    row.signature, row.body = signature(element), element.as_json()
    session.add(row)
    session.flush()


def load(session: Session, ids: Iterable[str]) -> dict[str, core.Element]:
    """Return the elements of those ids that exist, by id."""
    rows = session.scalars(select(models.Element).filter(models.Element.id.in_(list(ids))))
    return {row.id: core.Element.read(row.body) for row in rows}
