"""Comments, and notices of those that mention a person."""

from __future__ import annotations

from flask import Response

from lantern.core.problems import BadInput
from lantern.store import commenting
from lantern.store.models import Comment
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, reply, safe, services

api = blueprint("comments")


def _out(comment: Comment) -> shapes.CommentOut:
    names = ("id", "place", "key", "text", "looked", "at", "changed_at")
    said = {name: getattr(comment, name) for name in names}
    author = comment.account.name if comment.account else ""
    own = comment.account_id == me().id
    return shapes.CommentOut.model_validate({**said, "author": author, "own": own})


@api.get("/comments", operation_id="listComments", responses={200: shapes.CommentList})
def list_comments(query: shapes.CommentsAsk) -> Response:
    """List the comments on something; on a run also those on its rows and sentences."""
    with services().database.session() as session:
        found = (
            commenting.of_run(session, query.key)
            if query.place == "run"
            else commenting.of(session, query.place, query.key)
        )
        shape = shapes.CommentList(comments=[_out(one) for one in found])
    return reply(shape)


@api.post("/comments", operation_id="addComment", responses={200: shapes.CommentOut})
def add_comment(body: shapes.CommentIn) -> Response:
    """Comment on something; who is mentioned by their user name, as in @odo, gets a notice."""
    if body.looked and body.place != "run":
        raise BadInput("Runs are looked at.", where="looked")
    with services().database.session() as session:
        text = safe(session, body.text)
        shape = _out(
            commenting.add(session, body.place, body.key, text, me().id, looked=body.looked)
        )
    return reply(shape)


@api.patch("/comments/<int:id>", operation_id="changeComment", responses={200: shapes.CommentOut})
def change_comment(path: shapes.ById, body: shapes.CommentChange) -> Response:
    """Say something else in one's own comment."""
    with services().database.session() as session:
        shape = _out(commenting.change(session, path.id, safe(session, body.text), me().id))
    return reply(shape)


@api.delete("/comments/<int:id>", operation_id="deleteComment", responses={200: shapes.Done})
def delete_comment(path: shapes.ById) -> Response:
    """Take one's own comment back."""
    with services().database.session() as session:
        commenting.remove(session, path.id, me().id)
    return done()


@api.get("/notices", operation_id="notices", responses={200: shapes.Notices})
def notices() -> Response:
    """List the comments that mention who asks."""
    with services().database.session() as session:
        found = [
            shapes.NoticeOut(comment=_out(one.comment), link=one.link, seen=one.seen)
            for one in commenting.notices(session, me().id)
        ]
        shape = shapes.Notices(notices=found, unseen=commenting.unseen(session, me().id))
    return reply(shape)


@api.post("/notices/seen", operation_id="seeNotices", responses={200: shapes.Done})
def see_notices() -> Response:
    """Take note that who asks has seen what mentions them."""
    with services().database.session() as session:
        commenting.see(session, me().id)
    return done()
