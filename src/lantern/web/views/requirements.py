"""Requirements: how they are named, the list of them, and how they stand."""

from __future__ import annotations

import csv
import io
from dataclasses import replace

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput
from lantern.core.review.requirements import Scheme, read_known
from lantern.exchange.csv_rows import separator
from lantern.store import requirements
from lantern.web import shapes
from lantern.web.context import blueprint, need_lead, reply, services

api = blueprint("requirements")


@api.get("/requirements", operation_id="requirements", responses={200: shapes.Requirements})
def list_requirements() -> Response:
    """List the requirements that are known or covered, and how they stand on each release."""
    with services().database.session() as session:
        shape = _all(session)
    return reply(shape)


def _all(session: Session) -> shapes.Requirements:
    scheme, found, releases, names = requirements.all_of(session)
    return shapes.Requirements(
        requirements=[
            shapes.RequirementOut(
                id=one.id,
                title=one.title,
                link=scheme.link(one.id),
                tests=[
                    shapes.CoversOut(test=test, name=names[test])
                    for test in sorted(one.tests, key=lambda test: names[test])
                ],
                releases=[
                    shapes.StandingOut(
                        release=release, outcome=its.outcome, run=its.run, rows=its.rows
                    )
                    for release, its in one.releases.items()
                ],
            )
            for one in found
        ],
        releases=releases,
        scheme=shapes.SchemeOut(form=scheme.form, column=scheme.column, address=scheme.address),
        known=len(scheme.known),
    )


@api.put("/requirements/scheme", operation_id="putScheme", responses={200: shapes.Requirements})
def put_scheme(body: shapes.SchemeOut) -> Response:
    """Set how requirements are named; only a lead may."""
    need_lead()
    with services().database.session() as session:
        known = requirements.scheme(session).known
        requirements.put_scheme(session, Scheme(**body.model_dump(), known=known))
        shape = _all(session)
    return reply(shape)


@api.put("/requirements/known", operation_id="putKnown", responses={200: shapes.Requirements})
def put_known(body: shapes.KnownIn) -> Response:
    """Take the list of all requirements in, from a CSV with a line of headers."""
    text = body.csv.removeprefix("\ufeff")
    try:
        lines = list(csv.reader(io.StringIO(text), delimiter=separator(text), strict=True))
    except csv.Error as error:
        raise BadInput(f"That is no CSV: {error}.", where="csv") from error
    rows = [{str(n): cell for n, cell in enumerate(line)} for line in lines[1:]]
    with services().database.session() as session:
        scheme = requirements.scheme(session)
        requirements.put_scheme(session, replace(scheme, known=read_known(rows)))
        shape = _all(session)
    return reply(shape)
