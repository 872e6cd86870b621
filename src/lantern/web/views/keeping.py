"""How long things are kept: the rules, what they would free, and freeing it."""

from __future__ import annotations

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.keeping import SUGGESTED, Rules
from lantern.store import audit, keeping, queue
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, need_lead, reply, services

api = blueprint("keeping")


def _holdings(session: Session, rules: Rules) -> list[shapes.HoldingOut]:
    return [
        shapes.HoldingOut.model_validate(one, from_attributes=True)
        for one in keeping.holdings(session, rules)
    ]


@api.get("/keeping", operation_id="getKeeping", responses={200: shapes.KeepingOut})
def get_keeping() -> Response:
    """Return how long things are kept, and what there is; only a lead may ask."""
    need_lead()
    with services().database.session() as session:
        rules, last = keeping.rules(session), keeping.tidied(session)
        shape = shapes.KeepingOut(
            rules=shapes.RulesOut(**rules.as_json()),
            suggested=shapes.RulesOut(**SUGGESTED.as_json()),
            holdings=_holdings(session, rules),
            tidied=shapes.TidiedOut(at=last.pop("at"), freed=last) if last else None,
        )
    return reply(shape)


@api.post("/keeping/look", operation_id="lookAtKeeping", responses={200: shapes.Holdings})
def look(body: shapes.RulesOut) -> Response:
    """Tell what rules would free, without freeing it; only a lead may."""
    need_lead()
    with services().database.session() as session:
        shape = shapes.Holdings(holdings=_holdings(session, Rules.read(body.model_dump())))
    return reply(shape)


@api.put("/keeping", operation_id="setKeeping", responses={200: shapes.Done})
def set_keeping(body: shapes.RulesOut) -> Response:
    """Set how long things are kept; only a lead may."""
    need_lead()
    with services().database.session() as session:
        keeping.put_rules(session, Rules.read(body.model_dump()))
        audit.note(session, "rules of keeping", me().name)
    return done()


@api.post("/keeping/tidy", operation_id="tidy", responses={200: shapes.Done})
def tidy() -> Response:
    """Queue the freeing of what is not kept any longer; only a lead may."""
    need_lead()
    with services().database.session() as session:
        queue.offer_tidying(session)
        audit.note(session, "tidied", me().name)
    return done()
