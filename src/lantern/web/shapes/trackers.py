"""Outside trackers, and defects that were handed over to them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import Field

from lantern.web.shapes.base import Shape


class FieldMapShape(Shape):
    """How a tracker's items are written: where each part of a defect goes, and in which words.

    `fields`: part → path; `words`: part → word here → word there; `back`: state there → here;
    `fixed`: path → value of every new item; `key`, `link`, `said`: paths of id, page, comment.
    """

    fields: dict[str, str]
    words: dict[str, dict[str, str]] = Field(default_factory=dict)
    back: dict[str, str] = Field(default_factory=dict)
    fixed: dict[str, Any] = Field(default_factory=dict)
    key: str = "id"
    link: str = "url"
    said: str = "text"


class TrackerIn(Shape):
    """A tracker as it is to be, read as `version` (null for a new one).

    A `token` or `inbox` of null stays as it is, "" is none.

    It is asked `every` so many seconds what came of its defects, 0 for never.
    """

    name: str = Field(max_length=200)
    kind: str = "rest"
    address: str = Field(max_length=1000)
    header: str = "Authorization"
    token: str | None = Field(default=None, max_length=4000)
    inbox: str | None = Field(default=None, max_length=4000)
    mapping: FieldMapShape
    enabled: bool = True
    every: int = 60
    version: int | None = None


class TrackerOut(Shape):
    """A tracker; neither its token nor its secret is ever told."""

    id: int
    name: str
    kind: str
    address: str
    header: str
    has_token: bool
    has_inbox: bool
    mapping: FieldMapShape
    enabled: bool
    every: int
    stand_in: bool
    shown: str
    failing: bool
    version: int


class TrackerKind(Shape):
    """A kind of tracker that Lantern can speak to."""

    name: str
    title: str


class TrackerList(Shape):
    """All trackers by name, with what a new one can be made of."""

    trackers: list[TrackerOut]
    kinds: list[TrackerKind]
    parts: list[str]
    usual: FieldMapShape


class TrackerName(Shape):
    """A tracker that a defect may be handed over to."""

    id: int
    name: str


class TrackerNames(Shape):
    """The trackers that are switched on, by name."""

    trackers: list[TrackerName]


class TrackerTried(Shape):
    """What came of speaking to a tracker, "" for all well."""

    said: str


class HandOverAsk(Shape):
    """Which tracker to hand a defect over to."""

    tracker: int


class HandedOut(Shape):
    """A defect at a tracker: `key` is "" until it was taken.

    `waits` counts messages that were not taken yet, `said` tells why, or why it could not be asked.
    """

    id: int
    tracker_id: int
    tracker: str
    key: str
    link: str
    state: str
    gone: bool
    waits: int
    given_up: bool
    said: str
    looked_at: datetime | None


class HandingOut(Shape):
    """A message to a tracker."""

    id: int
    defect: int
    about: str
    state: str
    tries: int
    said: str
    made_at: datetime
    next_at: datetime | None
    done_at: datetime | None


class HandingList(Shape):
    """The newest messages to a tracker."""

    messages: list[HandingOut]


class LookAsk(Shape):
    """What a tracker says: that something of the item with this `id` changed."""

    id: str = Field(max_length=200)
