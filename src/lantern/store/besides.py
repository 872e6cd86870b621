"""Two casts side by side: their sentences, what their pages showed, and where pictures differ."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import or_, select
from sqlalchemy.orm import Session, undefer, undefer_group

from lantern.core.problems import BadInput, Missing
from lantern.core.review.lit import Lit, Shares, lit
from lantern.core.review.parting import Beat, Pair, moving_between, side_by_side
from lantern.store import pages, pictures
from lantern.store.models import Cast, Mask, Result, Run, SavedPage

LEARNED = 2
"""Plays that passed of which what differs between them is known to move by itself."""
OFFERED = 12
"""Plays that are offered to be held against another."""


@dataclass(frozen=True)
class Side:
    """A cast with its run."""

    cast: Cast
    run: Run


def side(session: Session, cast_id: int) -> Side:
    """Return a cast with its run; raises Missing."""
    cast = session.get(Cast, cast_id)
    if cast is None:
        raise Missing("That row is no longer kept.", where=str(cast_id))
    whole = (undefer(Run.body), undefer_group("content"))
    return Side(cast, session.get_one(Run, cast.run_id, options=whole))


def compared(session: Session, one: Side, other: Side) -> list[Pair]:
    """Return the sentences of two casts in pairs, with what differs."""
    moving: set[str] = set()
    if one.run.test_id and one.run.test_id == other.run.test_id:
        moving = _moving(session, one, other)
    return side_by_side(_beats(session, one.cast), _beats(session, other.cast), moving)


def _beats(session: Session, cast: Cast) -> list[Beat]:
    texts = _texts(session, cast)
    query = select(Result).filter_by(cast_id=cast.id, taking=max(cast.takings, 1))
    return [
        Beat(
            one.step_id,
            one.sentence,
            one.outcome,
            one.used,
            one.found,
            one.expected,
            one.message,
            tuple(one.details.get("requests", ())),
            tuple(one.details.get("console", ())),
            texts.get(one.step_id),
            one.id,
        )
        for one in session.scalars(query.order_by(Result.position, Result.id))
    ]


def _texts(session: Session, cast: Cast) -> dict[str, tuple[str, ...]]:
    """Return what pages showed by the sentence at which they were kept."""
    kept = session.scalars(
        select(SavedPage)
        .filter_by(cast_id=cast.id)
        .options(undefer(SavedPage.nodes))
        .order_by(SavedPage.id)
    )
    return {page.step_id: _said_on(page) for page in kept}


def _said_on(page: SavedPage) -> tuple[str, ...]:
    nodes = pages.nodes_of(page)
    holders = {one.inside for one in nodes if one.text}
    return tuple(
        one.text for one in nodes if one.text and one.visible and one.handle not in holders
    )


def _moving(session: Session, one: Side, other: Side) -> set[str]:
    """Return texts that differed between the last two plays of the test that passed."""
    query = (
        select(Cast)
        .join(Run, Run.id == Cast.run_id)
        .filter(
            Run.test_id == one.run.test_id,
            Cast.outcome == "passed",
            Cast.values == one.cast.values,
            Cast.id.not_in([one.cast.id, other.cast.id]),
        )
        .order_by(Cast.id.desc())
        .limit(LEARNED)
    )
    green = [_texts(session, cast) for cast in session.scalars(query)]
    if len(green) < LEARNED:
        return set()
    return {
        text
        for step in green[0].keys() & green[1].keys()
        for text in moving_between(green[0][step], green[1][step])
    }


def offered(session: Session, found: Side) -> list[tuple[Cast, Run]]:
    """Return casts that a cast may be held against, the likeliest first.

    The same row when it passed last, other rows and browsers of its run, its earlier runs.
    """
    cast, run = found.cast, found.run
    query = (
        select(Cast, Run)
        .join(Run, Run.id == Cast.run_id)
        .filter(
            or_(Run.id == run.id, Run.test_id == run.test_id),
            Cast.id != cast.id,
            Cast.takings > 0,
        )
        .order_by(
            (Cast.values == cast.values).desc(),
            (Cast.outcome == "passed").desc(),
            (Cast.run_id == run.id).desc(),
            Cast.id.desc(),
        )
        .limit(OFFERED)
    )
    return [(row[0], row[1]) for row in session.execute(query)]


@dataclass(frozen=True)
class Beside:
    """Where the pictures of two results differ, which masks hold, whether any was learned."""

    one: str
    other: str
    lit: Lit
    masks: Sequence[Mask]
    learned: bool


def pictures_of(session: Session, one_id: int, other_id: int) -> Beside:
    """Hold the pictures of two results against each other; raises Missing, or BadInput for none."""
    one, other = (session.get(Result, key) for key in (one_id, other_id))
    if one is None or other is None:
        raise Missing("That result does not exist any more.")
    first, second = (pictures.load(session, result.picture) for result in (one, other))
    if first is None or second is None:
        raise BadInput("No pictures of both are kept.", hint="The rules of keeping freed them.")
    run = session.get_one(Run, session.get_one(Cast, other.cast_id).run_id)
    masks = of_test(session, run.test_id or 0, other.step_id)
    alike = _alike(session, run.test_id or 0, one, other)
    boxes = [_shares(one) for one in masks]
    found = lit(first.content, second.content, boxes, alike)
    return Beside(one.picture, other.picture, found, masks, alike is not None)


def _alike(
    session: Session, test_id: int, one: Result, other: Result
) -> tuple[bytes, bytes] | None:
    """Return the pictures of the last two times that a sentence passed with the same row."""
    cast = session.get_one(Cast, other.cast_id)
    query = (
        select(Result.picture)
        .join(Cast, Cast.id == Result.cast_id)
        .join(Run, Run.id == Cast.run_id)
        .filter(
            Run.test_id == test_id,
            Result.step_id == other.step_id,
            Result.picture != "",
            Result.id.not_in([one.id, other.id]),
            Cast.outcome == "passed",
            Cast.values == cast.values,
            Cast.browser == cast.browser,
        )
        .order_by(Result.id.desc())
        .limit(LEARNED)
    )
    kept = [pictures.load(session, digest) for digest in session.scalars(query)]
    there = [one.content for one in kept if one]
    return (there[0], there[1]) if len(there) == LEARNED else None


def _shares(mask: Mask) -> Shares:
    return (float(mask.x), float(mask.y), float(mask.width), float(mask.height))


def of_test(session: Session, test_id: int, step_id: str) -> Sequence[Mask]:
    """Return the parts of a sentence's picture that may differ."""
    query = select(Mask).filter_by(test_id=test_id, step_id=step_id).order_by(Mask.id)
    return session.scalars(query).all()


def mask(session: Session, result_id: int, box: Shares, account: int) -> Mask:
    """Let a part of a sentence's picture differ from now on; raises Missing or BadInput."""
    result = session.get(Result, result_id)
    if result is None:
        raise Missing("That result does not exist any more.")
    run = session.get_one(Run, session.get_one(Cast, result.cast_id).run_id)
    if run.test_id is None:
        raise Missing("Its test was deleted.")
    x, y, width, height = box
    if not (0 <= x <= 1 and 0 <= y <= 1 and 0 < width <= 1 and 0 < height <= 1):
        raise BadInput("That is no part of the picture.", where="box")
    made = Mask(
        test_id=run.test_id, step_id=result.step_id, x=x, y=y, width=width, height=height,
        account_id=account,
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def unmask(session: Session, mask_id: int) -> None:
    """Let a part of a picture count again; one that is gone already stays so."""
    found = session.get(Mask, mask_id)
    if found:
        session.delete(found)
