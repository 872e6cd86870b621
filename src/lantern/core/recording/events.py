"""Raw events of a live stage: what the probe and the station report while recording."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from lantern.core.elements.facts import Facts

EventType = Literal[
    "click", "dblclick", "contextmenu", "input", "change", "key", "opened", "dialog", "window",
    "window closed",
]  # fmt: skip


@dataclass(frozen=True)
class Event:
    """One raw event.

    `facts` and `rivals` describe the node it happened on, `page` and `address` the page it was
    on. `value` is the new text, option or key; `ticked` the new state of a tick box; `detail`
    the number of presses in a row (0 when the keyboard did it); `secret` that the value was
    typed into a password field; `on_label` that a label was pressed whose control answers.
    """

    type: EventType
    facts: Facts | None = None
    rivals: Sequence[Facts] = ()
    value: str = field(default="", repr=False)
    ticked: bool = False
    detail: int = 1
    secret: bool = False
    on_label: bool = False
    pressable: bool = True
    page: str = ""
    address: str = ""
    window: str = ""

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Event:
        """Build an event from the probe's JSON object."""
        facts = raw.get("facts")
        return cls(
            type=raw["type"],
            facts=Facts.read(facts) if facts else None,
            rivals=tuple(Facts.read(rival) for rival in raw.get("rivals") or ()),
            value=str(raw.get("value") or ""),
            ticked=bool(raw.get("ticked")),
            detail=int(raw.get("detail", 1)),
            secret=bool(raw.get("secret")),
            on_label=bool(raw.get("onLabel")),
            pressable=bool(raw.get("pressable", True)),
            page=str(raw.get("page") or ""),
            address=str(raw.get("address") or ""),
            window=str(raw.get("window") or ""),
        )
