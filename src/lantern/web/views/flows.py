"""Flows: their list, what calls them, making them of sentences and putting them back."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import asdict
from datetime import UTC, datetime

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.engine.attempt import Flow
from lantern.core.engine.coding import trial
from lantern.core.values.sources import Names
from lantern.store import flows, tests
from lantern.store.models import Test
from lantern.store.rows import unpacked
from lantern.web import shapes
from lantern.web.context import blueprint, me, reply, services
from lantern.web.stations import asked
from lantern.web.views.tests import flow_brief, test_out

api = blueprint("flows")
TRIAL = 20.0
"""Seconds for which code that is tried may run."""


def _uses(found: Sequence[flows.Uses]) -> list[shapes.FlowUses]:
    return [
        shapes.FlowUses(id=use.id, kind=use.kind, name=use.name, sentences=list(use.sentences))
        for use in found
    ]


def _flow(session: Session, flow: Test) -> shapes.FlowOut:
    document = unpacked(flow)
    return shapes.FlowOut(
        flow=flow_brief(str(flow.id), Flow(flow.name, document)),
        steps=len(document.steps),
        environment=flow.environment.name,
        uses=_uses(flows.uses(session, flow.id)),
    )


@api.get("/flows", operation_id="listFlows", responses={200: shapes.FlowList})
def list_flows(query: shapes.ListAsk) -> Response:
    """List flows by name, with what calls them."""
    with services().database.session() as session:
        found = flows.listed(session, query.q.strip(), query.after)
    listed = [
        shapes.FlowOut(
            flow=flow_brief(str(one.id), one.flow),
            steps=one.steps,
            environment=one.environment,
            uses=_uses(one.uses),
        )
        for one in found.rows
    ]
    return reply(shapes.FlowList(flows=listed, next=found.next))


@api.get("/flows/<int:id>", operation_id="getFlow", responses={200: shapes.FlowOut})
def get_flow(path: shapes.ById) -> Response:
    """Return a flow with what calls it."""
    with services().database.session() as session:
        shape = _flow(session, flows.get(session, path.id))
    return reply(shape)


@api.post("/flows/<int:id>/try", operation_id="tryCode", responses={200: shapes.CodeTried})
def try_code(path: shapes.ById, body: shapes.CodeTry) -> Response:
    """Run a flow's code once on a station, as it is written now; nothing is kept."""
    with services().database.session() as session:
        flow = flows.get(session, path.id)
        env = {**flow.environment.variables, "base_url": flow.environment.address}
    names = Names(env=env, today=datetime.now(UTC).date())
    wanted = trial(body.code, body.inputs, names, TRIAL)
    started = time.monotonic()
    ran = asked({"code": path.id}, asdict(wanted), TRIAL + 10)
    seconds = round(time.monotonic() - started, 2)
    return reply(shapes.CodeTried(**ran, seconds=seconds))


@api.delete("/flows/<int:id>", operation_id="deleteFlow", responses={200: shapes.Count})
def delete_flow(path: shapes.ById) -> Response:
    """Delete a flow; what called it gets its sentences back."""
    with services().database.session() as session:
        count = flows.delete(session, path.id, me().id)
    return reply(shapes.Count(count=count))


@api.post("/tests/<int:id>/cut", operation_id="proposeFlow", responses={200: shapes.CutOut})
def propose_flow(path: shapes.ById, body: shapes.CutAsk) -> Response:
    """Tell what a flow of some sentences would take and give."""
    with services().database.session() as session:
        cut = flows.proposal(session, path.id, body.steps)
    return reply(
        shapes.CutOut(
            steps=len(cut.steps),
            takes=[shapes.GivenOut.model_validate(one) for one in cut.takes],
            gives=list(cut.gives),
        )
    )


@api.post("/tests/<int:id>/extract", operation_id="makeFlow", responses={200: shapes.ExtractOut})
def make_flow(path: shapes.ById, body: shapes.ExtractAsk) -> Response:
    """Make a flow of sentences; the test calls it in their place."""
    with services().database.session() as session:
        flow = flows.extract(
            session,
            path.id,
            body.steps,
            body.name,
            body.takes,
            body.gives,
            me().id,
            base=body.base,
        )
        shape = shapes.ExtractOut(
            test=test_out(session, tests.get(session, path.id)),
            flow=str(flow.id),
            alike=_uses(flows.alike(session, flow.id)),
        )
    return reply(shape)


@api.get("/flows/<int:id>/alike", operation_id="findAlike", responses={200: shapes.AlikeOut})
def find_alike(path: shapes.ById) -> Response:
    """Find where the sentences of a flow stand as they are."""
    with services().database.session() as session:
        shape = shapes.AlikeOut(alike=_uses(flows.alike(session, path.id)))
    return reply(shape)


@api.post("/flows/<int:id>/replace", operation_id="callInstead", responses={200: shapes.FlowOut})
def call_instead(path: shapes.ById, body: shapes.ReplaceAsk) -> Response:
    """Call the flow in tests wherever its sentences stand in them; all or none."""
    with services().database.session() as session:
        for test_id in body.tests:
            flows.replace_in(session, path.id, test_id, me().id)
        shape = _flow(session, flows.get(session, path.id))
    return reply(shape)


@api.post("/tests/<int:id>/put-back", operation_id="putBack", responses={200: shapes.TestOut})
def put_back(path: shapes.ById, body: shapes.PutBackAsk) -> Response:
    """Replace a call of a flow by the flow's own sentences."""
    with services().database.session() as session:
        test = flows.put_back(session, path.id, body.step, me().id, base=body.base)
        shape = test_out(session, test)
    return reply(shape)
