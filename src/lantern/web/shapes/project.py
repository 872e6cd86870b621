"""What holds for the whole project, and renaming its variables."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from lantern.web.shapes.base import Query, Shape
from lantern.web.shapes.flows import FlowUses


class ProjectOut(Shape):
    """Limits that tests inherit (`limit` in seconds), and flows played around each row."""

    limit: float = Field(ge=0.1, le=600)
    on_failure: Literal["stop", "go on", "stop everything"]
    pictures: Literal["each step", "failures", "none"]
    retries: int = Field(ge=0, le=5)
    on_interrupted: Literal["leave", "play again"] = "leave"
    before: str
    after: str


class VariableAsk(Query):
    """A variable of environments."""

    name: str


class VariableUses(Shape):
    """Where a variable is used: sentences of tests and flows, and names of elements."""

    tests: list[FlowUses]
    elements: list[str]


class VariableRename(Shape):
    """A variable's name, and another for it."""

    old: str
    new: str
