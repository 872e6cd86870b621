"""Two plays side by side, and their pictures."""

from __future__ import annotations

from flask import Response

from lantern.core.review.parting import Beat, Pair, first_parting
from lantern.store import besides
from lantern.store.models import Cast, Mask, Run
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, reply, services

api = blueprint("besides")


def _side(cast: Cast, run: Run) -> shapes.SideOut:
    return shapes.SideOut(
        cast=cast.id,
        run=run.id,
        kind=run.kind,
        test=run.test_id,
        test_name=run.test_name,
        version=run.test_version,
        number=cast.number,
        values={name: str(value) for name, value in cast.values.items()},
        browser=cast.browser,
        environment=run.environment_name,
        release=run.release,
        outcome=cast.outcome,
        at=cast.started_at,
    )


def _beat(one: Beat | None) -> shapes.BeatOut | None:
    names = ("result", "sentence", "outcome", "used", "found", "expected", "message")
    if one is None:
        return None
    return shapes.BeatOut.model_validate({name: getattr(one, name) for name in names})


def _pair(pair: Pair) -> shapes.PairOut:
    return shapes.PairOut(
        one=_beat(pair.one),
        other=_beat(pair.other),
        differs=[
            shapes.DifferingOut(what=one.what, one=list(one.one), other=list(one.other))
            for one in pair.differs
        ],
        aside=pair.aside,
        parts=pair.parts,
    )


@api.get("/casts/<int:id>/beside", operation_id="playsBeside", responses={200: shapes.PlaysBeside})
def plays_beside(path: shapes.ById) -> Response:
    """List the plays that a row may be held against: when it passed, other rows, earlier runs."""
    with services().database.session() as session:
        own = besides.side(session, path.id)
        plays = [_side(cast, run) for cast, run in besides.offered(session, own)]
        shape = shapes.PlaysBeside(one=_side(own.cast, own.run), plays=plays)
    return reply(shape)


@api.get(
    "/casts/<int:id>/beside/<int:other>",
    operation_id="castsBeside",
    responses={200: shapes.CastsBeside},
)
def casts_beside(path: shapes.TwoCasts) -> Response:
    """Hold two rows against each other, sentence by sentence, down to where they part."""
    with services().database.session() as session:
        one, other = besides.side(session, path.id), besides.side(session, path.other)
        pairs = besides.compared(session, one, other)
        shape = shapes.CastsBeside(
            one=_side(one.cast, one.run),
            other=_side(other.cast, other.run),
            pairs=[_pair(pair) for pair in pairs],
            first=first_parting(pairs),
        )
    return reply(shape)


def _mask(mask: Mask) -> shapes.MaskOut:
    return shapes.MaskOut(id=mask.id, box=[mask.x, mask.y, mask.width, mask.height])


@api.get(
    "/results/<int:id>/beside/<int:other>",
    operation_id="picturesBeside",
    responses={200: shapes.BesideOut},
)
def pictures_beside(path: shapes.TwoCasts) -> Response:
    """Tell where the pictures of two results differ."""
    with services().database.session() as session:
        found = besides.pictures_of(session, path.id, path.other)
        shape = shapes.BesideOut(
            one=found.one,
            other=found.other,
            places=[list(place) for place in found.lit.places],
            share=found.lit.share,
            masks=[_mask(one) for one in found.masks],
            learned=found.learned,
        )
    return reply(shape)


@api.post("/results/<int:id>/masks", operation_id="addMask", responses={200: shapes.MaskOut})
def add_mask(path: shapes.ById, body: shapes.MaskIn) -> Response:
    """Let a part of the picture of a sentence differ from now on."""
    with services().database.session() as session:
        x, y, width, height = body.box
        shape = _mask(besides.mask(session, path.id, (x, y, width, height), me().id))
    return reply(shape)


@api.delete("/masks/<int:id>", operation_id="deleteMask", responses={200: shapes.Done})
def delete_mask(path: shapes.ById) -> Response:
    """Let a part of a picture count again."""
    with services().database.session() as session:
        besides.unmask(session, path.id)
    return done()
