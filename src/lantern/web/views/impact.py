"""What a change would touch, before it is made."""

from __future__ import annotations

from dataclasses import asdict

from flask import Response

from lantern.store import impact
from lantern.web import shapes
from lantern.web.context import blueprint, reply, services

api = blueprint("impact")


@api.get("/impact", operation_id="impactOf", responses={200: shapes.ImpactOut})
def impact_of(query: shapes.ImpactAsk) -> Response:
    """Tell which tests, plans and people a change of something would touch."""
    with services().database.session() as session:
        found = impact.of(session, query.kind, query.key)
        shape = shapes.ImpactOut.model_validate(asdict(found))
    return reply(shape)
