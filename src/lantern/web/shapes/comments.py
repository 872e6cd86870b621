"""Comments, and notices of those that mention a person."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from lantern.core.review.comments import LONGEST, Place
from lantern.web.shapes.base import Query, Shape


class CommentsAsk(Query):
    """On what."""

    place: Place
    key: int


class CommentIn(Shape):
    """A comment on something; `looked` says that one has looked at a run: with no word too."""

    place: Place
    key: int
    text: str = Field(default="", max_length=LONGEST)
    looked: bool = False


class CommentChange(Shape):
    """What one's own comment says instead."""

    text: str = Field(max_length=LONGEST)


class CommentOut(Shape):
    """A comment; `own` tells that it may be changed and taken back."""

    id: int
    place: Place
    key: int
    text: str
    looked: bool
    author: str
    own: bool
    at: datetime
    changed_at: datetime | None


class CommentList(Shape):
    """Comments, oldest first."""

    comments: list[CommentOut]


class NoticeOut(Shape):
    """A comment that mentions who asks, and where it is shown."""

    comment: CommentOut
    link: str
    seen: bool


class Notices(Shape):
    """What mentions who asks, newest first, and how many of it they have not seen."""

    notices: list[NoticeOut]
    unseen: int
