"""Webhooks and the log of what was sent to them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import Field

from lantern.core.plans.posting import Event
from lantern.web.shapes.base import Shape


class HookIn(Shape):
    """A webhook as it is to be; a `secret` of null stays as it is."""

    name: str = Field(max_length=200)
    address: str = Field(max_length=1000)
    events: list[Event]
    plan: int | None = None
    enabled: bool = True
    secret: str | None = Field(default=None, max_length=400)


class HookOut(Shape):
    """A webhook; `failing` tells that its newest message was not taken."""

    id: int
    name: str
    address: str
    events: list[Event]
    plan: int | None
    enabled: bool
    failing: bool


class HookList(Shape):
    """All webhooks, by name."""

    hooks: list[HookOut]


class MessageOut(Shape):
    """What goes out, to a program or a person: `said` is what was answered last."""

    id: int
    plan_run_id: int | None
    state: str
    tries: int
    said: str
    made_at: datetime
    next_at: datetime | None
    done_at: datetime | None


class DeliveryOut(MessageOut):
    """A message to a webhook."""

    event: str
    body: dict[str, Any]


class DeliveryList(Shape):
    """The newest messages to a webhook."""

    deliveries: list[DeliveryOut]
