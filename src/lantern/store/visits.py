"""Visiting the pages that are known once more: what would not be found on them any more.

A visit is a try of a story that nobody wrote: it signs in by a flow that does, and opens each page.
What is on the pages is kept as in any run, and held against what was kept of them before.
"""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.elements.clues import Element
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.core.problems import BadInput, Missing
from lantern.core.review.visits import Visited, visited
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.values.templates import literal
from lantern.store import calls, casts, elements, flows, models, pages, sharing
from lantern.store.database import tell
from lantern.store.models import Cast, Environment, Run, SavedPage, Visit
from lantern.store.preferences import get as project_of

MOST = 60
"""Pages that one visit opens."""
LIMIT = 12.0
"""Seconds that a page may take to open."""
EARLIER = 12
"""Pages kept before that a visited one is held against, the newest."""
NAME = "A visit of the pages"


@dataclass(frozen=True)
class Page:
    """A page that was visited: what it is called by now, and what the visit tells of it.

    `told` is None where it was not reached; `saved` is the page as it was kept, 0 for none.
    """

    page: str
    address: str
    title: str = ""
    saved: int = 0
    told: Visited | None = None


def _path(address: str) -> str:
    where = urlsplit(address)
    return (where.path or "/") + (f"?{where.query}" if where.query else "")


def known(session: Session) -> list[dict[str, str]]:
    """Return the pages that can be visited, by address: those with elements that were kept once."""
    titles = set(session.scalars(select(models.Element.page).distinct()))
    ranked = (
        select(func.max(SavedPage.id))
        .filter(SavedPage.page.in_(titles), SavedPage.address.like("http%"))
        .group_by(SavedPage.page)
    )
    found: dict[str, str] = {}
    for row in session.scalars(select(SavedPage).filter(SavedPage.id.in_(ranked))):
        found.setdefault(_path(row.address), row.page)
    return [{"page": found[path], "address": path} for path in sorted(found)][:MOST]


@dataclass(frozen=True)
class SignIn:
    """The flow that a visit signs in by, and the titles of the pages on which it does."""

    flow: str
    name: str
    pages: frozenset[str]


def that_signs_in(session: Session) -> SignIn | None:
    """Return the flow that a visit signs in by: one that needs no values given; None for none.

    The one that the project plays before others comes first.
    """
    before = project_of(session).before
    ids = sorted(flows.all_that_sign_in(session), key=lambda one: one != before)
    loaded = calls.load(session, ids)
    for key in filter(loaded.__contains__, ids):
        name, document = loaded[key].name, loaded[key].document
        if all(one.default for one in document.takes):
            asking = (title_pattern(step.page) for step in flows.typing_secrets(document))
            return SignIn(key, name, frozenset(asking))
    return None


def start(session: Session, environment_id: int, account: int) -> Visit:
    """Visit all known pages in an environment; raises Missing, or BadInput where there is none."""
    environment = session.get(Environment, environment_id)
    if environment is None:
        raise Missing("That environment does not exist.", where="environment")
    there = known(session)
    if not there:
        raise BadInput(
            "No page is known yet that could be visited.",
            hint="Run a test: the pages it goes through are kept.",
        )
    run = _run(session, environment, _story(session, there), account)
    made = Visit(run_id=run.id, environment_id=environment.id, pages=there, account_id=account)
    session.add(made)
    session.flush()
    casts.happen(session, run.id)
    tell(session, "run", id=run.id)
    return made


def _story(session: Session, there: Sequence[dict[str, str]]) -> Document:
    """Return the story of a visit: where it signs in is looked at before it has."""
    steps = [
        Step(f"v{number}", "open", inputs={"address": literal(one["address"])}, page=one["page"])
        for number, one in enumerate(there, 1)
    ]
    by = that_signs_in(session)
    if by:
        outside = [one for one in steps if one.page in by.pages]
        inside = [one for one in steps if one.page not in by.pages]
        steps = [*outside, Step("v0", "flow", flow=by.flow), *inside]
    limits = project_of(session).settings
    return Document(
        tuple(steps), settings=Settings(limit=max(LIMIT, limits.limit), on_failure="go on")
    )


def _run(session: Session, environment: Environment, story: Document, account: int) -> Run:
    called = calls.load(session, story.flow_ids())
    known_elements = elements.load(session, calls.element_ids(story, called))
    run = Run(
        kind="try", state="queued", test_id=None, test_name=NAME, test_version=0,
        environment_name=environment.name, environment_id=environment.id,
        address=environment.address, body=story.as_json(),
        elements={key: one.as_json() for key, one in known_elements.items()},
        seed=secrets.token_hex(4), variables=dict(environment.variables),
        flows={key: {"name": flow.name, "body": flow.document.as_json()}
               for key, flow in called.items()},
        account_id=account, share_id=sharing.tries(session).id,
    )  # fmt: skip
    engine = BROWSERS[USUAL].engine
    run.casts.append(Cast(position=0, number=0, values={}, browser=USUAL, engine=engine))
    session.add(run)
    session.flush()
    return run


def get(session: Session, key: int) -> Visit:
    """Return a visit; raises Missing."""
    row = session.get(Visit, key)
    if row is None:
        raise Missing("That visit is not kept any more.", where=str(key))
    return row


def listed(session: Session, most: int = 20) -> Sequence[Visit]:
    """Return the newest visits."""
    return session.scalars(select(Visit).order_by(Visit.id.desc()).limit(most)).all()


def told(session: Session, visit: Visit) -> list[Page]:
    """Return what a visit tells of each page, those on which something changed first."""
    kept = {_path(one.address): one for one in pages.of_run(session, visit.run_id)}
    found = [_page(session, visit, one, kept.get(one["address"])) for one in visit.pages]
    return sorted(found, key=lambda one: (_weight(one), one.address))


def _weight(page: Page) -> int:
    if page.told is None:
        return 0
    if any(one.lost for one in page.told.met):
        return 1
    return 2 if page.told.changed else 3


def _page(session: Session, visit: Visit, asked: dict[str, Any], kept: SavedPage | None) -> Page:
    if kept is None:
        return Page(asked["page"], asked["address"])
    query = (
        select(SavedPage)
        .filter(SavedPage.page == asked["page"], SavedPage.id < kept.id)
        .filter(SavedPage.run_id.is_distinct_from(visit.run_id))
        .order_by(SavedPage.id.desc())
        .limit(EARLIER)
    )
    before = [pages.nodes_of(one) for one in session.scalars(query)]
    there = [Element.read(row.body) for row in elements.of_page(session, asked["page"])]
    told = visited(pages.nodes_of(kept), before, sorted(there, key=lambda one: one.name.casefold()))
    return Page(asked["page"], asked["address"], kept.page, kept.id, told)
