"""What a change would touch."""

from __future__ import annotations

from datetime import datetime

from lantern.store.impact import Kind
from lantern.web.shapes.base import Query, Shape


class ImpactAsk(Query):
    """Of what: an element, flow, table or environment by its id, a page or variable by its name."""

    kind: Kind
    key: str


class TouchedTestOut(Shape):
    """A test or flow that is touched: through what, and how it came out last ("" for never)."""

    id: int
    kind: str
    name: str
    via: str
    outcome: str
    run: int
    at: datetime | None


class TouchedPlanOut(Shape):
    """A plan that plays some of them: how many, and when it starts by itself next."""

    id: int
    name: str
    tests: int
    next_at: datetime | None


class ConcernedOut(Shape):
    """A person whom it concerns, and why."""

    id: int
    name: str
    why: list[str]


class ImpactOut(Shape):
    """What a change would touch: tests first, then flows, each by name."""

    name: str
    tests: list[TouchedTestOut]
    plans: list[TouchedPlanOut]
    people: list[ConcernedOut]
