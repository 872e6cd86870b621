"""Plans as files of a project, and taken in from them."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.plans.model import Plan
from lantern.core.plans.text import Named, Read, plan_text
from lantern.core.text.names import slug
from lantern.store import models, plans
from lantern.store.models import Test


def everything_named(session: Session) -> Named:
    """Return what all is called that plans speak of."""
    named: dict[str, dict[int, str]] = {"test": {}, "flow": {}, "table": {}}
    for key, kind, name in session.execute(select(Test.id, Test.kind, Test.name)):
        named[kind][key] = name
    places = session.execute(select(models.Environment.id, models.Environment.name))
    people = session.execute(
        select(models.Account.id, models.Account.username).filter_by(gone=False)
    )
    return Named(
        named["test"],
        {str(key): name for key, name in named["flow"].items()},
        {row.id: row.name for row in places},
        {row.id: row.username for row in people},
    )


def texts_of(session: Session) -> dict[str, str]:
    """Return the texts of all plans by the paths of their files in a project."""
    named, taken = everything_named(session), set[str]()
    found = {}
    for row in session.scalars(select(models.Plan).order_by(models.Plan.name)):
        called = slug(row.name, taken)
        taken.add(called)
        found[f"plans/{called}.yaml"] = plan_text(row.name, Plan.read(row.body), named)
    return found


def put_read(session: Session, found: Read, account_id: int | None) -> str:
    """Take in what a text says: "added" or "changed", "" where it is so already.

    Raises BadInput for what can not be.
    """
    query = select(models.Plan).filter(func.lower(models.Plan.name) == found.name.lower())
    row = session.scalar(query)
    if row is None:
        plans.create(session, found.name, found.plan, account_id, "taken in")
        return "added"
    before = row.version
    plans.change(session, row.id, found.plan, account_id, base=before, summary="taken in")
    return "changed" if row.version != before else ""
