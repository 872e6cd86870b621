"""How long things are kept."""

from __future__ import annotations

from datetime import datetime

from lantern.web.shapes.base import Shape


class RulesOut(Shape):
    """Days for which things are kept, 0 for good; see core.keeping."""

    tries: int
    passed: int
    failed: int
    least: int
    pictures: int
    pages: int
    versions: int


class HoldingOut(Shape):
    """How much there is of a kind, about how many bytes it takes, and how many rules would free."""

    kind: str
    count: int
    size: int
    frees: int


class TidiedOut(Shape):
    """When it was tidied the last time, and how much was freed of each kind."""

    at: datetime
    freed: dict[str, int]


class KeepingOut(Shape):
    """The rules that hold, those that are suggested, what is there, and the last tidying."""

    rules: RulesOut
    suggested: RulesOut
    holdings: list[HoldingOut]
    tidied: TidiedOut | None


class Holdings(Shape):
    """What there is of each kind, and what the rules would free that were asked about."""

    holdings: list[HoldingOut]


class RunChange(Shape):
    """What is changed of a run: whether it is kept for good."""

    pinned: bool
