"""Whether a recording was proved: what playing it once did to the pages."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.proving.comparing import Difference
from lantern.store import preferences, proofs, tests
from lantern.web import shapes
from lantern.web.context import blueprint, reply, services

api = blueprint("proofs")


def found_out(found: list[Any], body: Mapping[str, Any]) -> list[shapes.FoundOut]:
    """Return the shapes of sentences that differed; `body` is the test that they stand in."""
    own = [step["id"] for step in body.get("steps", []) if step["id"] not in preferences.AROUND]
    places = {step: number for number, step in enumerate(own, 1)}
    return [
        shapes.FoundOut(
            step=one["step"],
            place=places.get(one["step"], 0),
            sentence=one["sentence"],
            told=[_difference(Difference(**each)) for each in one["told"]],
        )
        for one in found
    ]


def _difference(one: Difference) -> shapes.DiffersOut:
    return shapes.DiffersOut(
        said=one.said, line="" if one.sort in ("page", "address") else one.line
    )


def _proof_out(session: Session, test_id: int) -> shapes.ProofOut:
    proof = proofs.get(session, test_id)
    return shapes.ProofOut(
        recorded=len(proofs.effects(session, test_id)),
        due=proofs.is_due(session, test_id),
        at=proof.at if proof else None,
        run=proof.run_id if proof else None,
        compared=proof.compared if proof else 0,
        found=found_out(proof.found if proof else [], tests.get(session, test_id).body),
        aside=proof.aside if proof else [],
    )


@api.get("/tests/<int:id>/proof", operation_id="proof", responses={200: shapes.ProofOut})
def proof(path: shapes.ById) -> Response:
    """Tell whether playing the test did what recording it did."""
    with services().database.session() as session:
        return reply(_proof_out(session, path.id))


@api.post("/tests/<int:id>/proof/aside", operation_id="setAside", responses={200: shapes.ProofOut})
def set_aside(path: shapes.ById, body: shapes.AsideIn) -> Response:
    """Set differences aside whose lines move by themselves."""
    with services().database.session() as session:
        tests.get(session, path.id)
        proofs.set_aside(session, path.id, body.lines)
        return reply(_proof_out(session, path.id))
