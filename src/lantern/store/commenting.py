"""Comments on runs, rows, sentences, defects and tests, and whom they mention."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing
from lantern.core.review.comments import Place, check_text, mentioned
from lantern.store import handing
from lantern.store.database import tell
from lantern.store.models import (
    Account,
    Base,
    Cast,
    Comment,
    Defect,
    Mention,
    Result,
    Run,
    Test,
)

OF: dict[Place, type[Base]] = {
    "run": Run,
    "row": Cast,
    "sentence": Result,
    "defect": Defect,
    "test": Test,
}
MOST_NOTICES = 50


def of(session: Session, place: Place, key: int) -> Sequence[Comment]:
    """Return the comments on something, oldest first."""
    query = select(Comment).filter_by(place=place, key=key).order_by(Comment.id)
    return session.scalars(query).all()


def of_run(session: Session, run_id: int) -> Sequence[Comment]:
    """Return the comments on a run, its rows and its sentences, oldest first."""
    casts = select(Cast.id).filter_by(run_id=run_id)
    results = select(Result.id).filter(Result.cast_id.in_(casts))
    query = select(Comment).filter(
        ((Comment.place == "run") & (Comment.key == run_id))
        | ((Comment.place == "row") & Comment.key.in_(casts))
        | ((Comment.place == "sentence") & Comment.key.in_(results))
    )
    return session.scalars(query.order_by(Comment.id)).all()


def add(
    session: Session, place: Place, key: int, text: str, account: int, *, looked: bool = False
) -> Comment:
    """Comment on something; who is mentioned gets a notice. Raises Missing, or BadInput."""
    if session.get(OF[place], key) is None:
        raise Missing(f"That {place} does not exist any more.", where=str(key))
    made = Comment(
        place=place,
        key=key,
        text=check_text(text, looked=looked),
        looked=looked,
        account_id=account,
    )
    session.add(made)
    session.flush()
    session.refresh(made)
    _mention(session, made)
    if place == "defect":
        handing.commented(session, key, made.id)
    tell(session, "comment", place=place, id=key)
    return made


def _mention(session: Session, comment: Comment) -> None:
    people = select(Account.username, Account.id).filter(~Account.gone, ~Account.disabled)
    known = {row[0].lower(): row[1] for row in session.execute(people)}
    told = set(session.scalars(select(Mention.account_id).filter_by(comment_id=comment.id)))
    for account in mentioned(comment.text, known):
        if account not in told and account != comment.account_id:
            session.add(Mention(comment_id=comment.id, account_id=account))


def _own(session: Session, comment_id: int, account: int) -> Comment:
    comment = session.get(Comment, comment_id)
    if comment is None:
        raise Missing("That comment does not exist any more.", where=str(comment_id))
    if comment.account_id != account:
        raise BadInput("Only who wrote a comment may change it.", hint="Write one of your own.")
    return comment


def change(session: Session, comment_id: int, text: str, account: int) -> Comment:
    """Say something else in one's own comment; raises Missing or BadInput."""
    comment = _own(session, comment_id, account)
    comment.text = check_text(text, looked=comment.looked)
    comment.changed_at = datetime.now(UTC)
    _mention(session, comment)
    tell(session, "comment", place=comment.place, id=comment.key)
    return comment


def remove(session: Session, comment_id: int, account: int) -> None:
    """Take one's own comment back; raises Missing or BadInput."""
    comment = _own(session, comment_id, account)
    tell(session, "comment", place=comment.place, id=comment.key)
    session.delete(comment)


def forget_gone(session: Session) -> None:
    """Delete the comments on what does not exist any more."""
    for place, model in OF.items():
        there = select(model.id)  # type: ignore[attr-defined]
        session.execute(delete(Comment).filter(Comment.place == place, Comment.key.not_in(there)))


@dataclass(frozen=True)
class Notice:
    """A comment that mentions a person: where it is, and where that is shown."""

    comment: Comment
    link: str
    seen: bool


def notices(session: Session, account: int) -> list[Notice]:
    """Return the comments that mention a person, newest first."""
    query = (
        select(Comment, Mention.seen_at)
        .join(Mention, Mention.comment_id == Comment.id)
        .filter(Mention.account_id == account)
        .order_by(Comment.id.desc())
        .limit(MOST_NOTICES)
    )
    rows = session.execute(query).all()
    return [Notice(comment, _link(session, comment), seen is not None) for comment, seen in rows]


def unseen(session: Session, account: int) -> int:
    """Return how many comments mention a person who has not seen them."""
    query = select(func.count()).select_from(Mention)
    return session.scalar(query.filter_by(account_id=account, seen_at=None)) or 0


def see(session: Session, account: int) -> None:
    """Take note that a person has seen what mentions them."""
    now = datetime.now(UTC)
    session.execute(update(Mention).filter_by(account_id=account, seen_at=None).values(seen_at=now))


def _link(session: Session, comment: Comment) -> str:
    if comment.place == "sentence" and (result := session.get(Result, comment.key)):
        cast = session.get_one(Cast, result.cast_id)
        return f"/runs/{cast.run_id}?row={cast.id}&result={result.id}"
    if comment.place == "row" and (cast_ := session.get(Cast, comment.key)):
        return f"/runs/{cast_.run_id}?row={cast_.id}"
    places = {"run": "runs", "defect": "defects", "test": "tests"}
    return f"/{places.get(comment.place, 'runs')}/{comment.key}"
