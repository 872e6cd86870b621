"""Blind spots: of a test, and of all."""

from __future__ import annotations

from flask import Response

from lantern.core.elements.clues import Element
from lantern.core.elements.naming import propose_name
from lantern.core.recording.proposals import name_for
from lantern.core.review.blind.sight import Sentence
from lantern.core.review.blind.spots import ROWS_OF, Offer, Spot
from lantern.core.steps.model import Step
from lantern.core.steps.properties import avoided
from lantern.core.steps.sentences import sentence
from lantern.store import blindspots, tests
from lantern.web import shapes
from lantern.web.context import blueprint, reply, services

api = blueprint("blind")
AT_ONCE = 5
"""Tests that are looked at in one request for the list."""


@api.get("/tests/<int:id>/blind-spots", operation_id="blindSpots", responses={200: shapes.BlindOut})
def blind_spots(path: shapes.ById) -> Response:
    """Tell what may change on the pages of a test without any of its checks noticing."""
    with services().database.session() as session:
        told = blindspots.of_test(session, tests.get(session, path.id))
    look = told.look
    by_page: dict[int, shapes.BlindPage] = {}
    sentences = {one.id: one for spot in look.spots for one in spot.moment.sentences}
    for spot in look.spots:
        page = by_page.setdefault(
            spot.moment.page,
            shapes.BlindPage(
                title=spot.page, page=spot.moment.page, picture=spot.moment.picture, spots=[]
            ),
        )
        page.spots.append(_spot(spot, told))
    return reply(
        shapes.BlindOut(
            run=told.run,
            share=look.share,
            pages=[by_page[key] for key in sorted(by_page)],
            never=[
                _check(sentences[key], why) for key, why in look.never.items() if key in sentences
            ],
            untried=[_check(one) for one in look.untried],
            left_out=look.left_out,
        )
    )


def _check(one: Sentence, why: str = "") -> shapes.CheckOut:
    return shapes.CheckOut(step=one.id, sentence=one.words, why=why)


def _spot(spot: Spot, told: blindspots.Told) -> shapes.SpotOut:
    change = spot.change
    return shapes.SpotOut(
        kind=change.kind,
        name=propose_name(spot.node),
        where=_where(spot),
        before=change.before,
        after=change.after,
        weight=change.weight,
        depends=change.depends,
        box=list(spot.box.shares(spot.node.view)),
        by=spot.by.words if spot.by else "",
        step=spot.by.id if spot.by else "",
        offer=_offer(spot, spot.offer, told) if spot.offer else None,
    )


def _where(spot: Spot) -> str:
    node = spot.node
    row = next((cell for cell in node.row if any(map(str.isalpha, cell))), "")
    if spot.change.kind in ROWS_OF or not (row or node.column):
        return ""
    return ", ".join(part for part in (node.column, row and f"in the row of {row}") if part)


def _offer(spot: Spot, offer: Offer, told: blindspots.Told) -> shapes.OfferOut:
    facts = spot.moment.tree.by[offer.node]
    kind = spot.moment.tree.kinds[offer.node]
    named = Element("it", name_for(facts, avoided(kind, offer.property)), kind, ())
    inputs = {"property": offer.property, "comparison": "is", "expected": offer.expected}
    return shapes.OfferOut(
        page=offer.page,
        node=offer.node,
        after=told.after.get(offer.after),
        property=offer.property,
        expected=offer.expected,
        sentence=sentence(Step("it", "check", "it", inputs), {"it": named}),
        adds=offer.adds,
    )


@api.get("/blind-spots", operation_id="blindShares", responses={200: shapes.BlindList})
def blind_shares() -> Response:
    """Tell how much all tests would notice; some are looked at anew with each request."""
    with services().database.session() as session:
        found, left = blindspots.shares(session, AT_ONCE)
        listed = [
            shapes.BlindTest(
                test=test.id,
                name=test.name,
                share=round(kept.seen / kept.whole, 3) if kept and kept.whole else None,
                blind=kept.blind if kept else 0,
                never=kept.never if kept else 0,
            )
            for test, kept in found
        ]
        whole = sum(kept.whole for _, kept in found if kept)
        seen = sum(kept.seen for _, kept in found if kept)
    share = round(seen / whole, 3) if whole else None
    return reply(shapes.BlindList(tests=listed, share=share, left=left))
