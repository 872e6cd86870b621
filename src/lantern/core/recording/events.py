"""Raw events of a live stage: what the probe and the station report while recording."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

from lantern.core.elements.facts import Facts

EventType = Literal[
    "click", "dblclick", "contextmenu", "input", "change", "key", "opened", "dialog", "window",
    "window closed", "option", "files", "slide", "drag", "idle", "history", "download",
]  # fmt: skip


@dataclass(frozen=True)
class Node:
    """A node with its rivals, as the probe describes it."""

    facts: Facts
    rivals: tuple[Facts, ...] = ()

    @classmethod
    def read(cls, raw: Mapping[str, Any] | None) -> Node | None:
        """Build a node from the probe's description; None stays None."""
        if not raw:
            return None
        return cls(
            Facts.read(raw["facts"]), tuple(Facts.read(one) for one in raw.get("rivals") or ())
        )


@dataclass(frozen=True)
class Meanwhile:
    """What became ready while a person waited: `how` is "shown" or "enabled".

    `node` is None for the thing itself that the event is about.
    """

    how: Literal["shown", "enabled"]
    node: Node | None = None

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Meanwhile:
        """Build it from the probe's JSON object."""
        how: Literal["shown", "enabled"] = "enabled" if raw.get("how") == "enabled" else "shown"
        return cls(how, None if raw.get("own") else Node.read(raw))


@dataclass(frozen=True)
class Event:
    """One raw event.

    `facts` and `rivals` describe the node it happened on, `page` and `address` the page it was
    on. `value` is the new text, option or key; `ticked` the new state of a tick box; `detail`
    the number of presses in a row (0 when the keyboard did it); `secret` that the value was
    typed into a password field; `on_label` that a label was pressed whose control answers.
    `press` numbers the presses of a document, that of `frame` ("" for the page's own), `hover` is
    what had to be pointed at for this to be there, `onto` what something was dragged to,
    `meanwhile` what became ready since the event before, where the person took their time.
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
    frame: str = ""
    press: int = 0
    hover: Node | None = None
    onto: Node | None = None
    meanwhile: tuple[Meanwhile, ...] = ()

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
            press=int(raw.get("press") or 0),
            hover=Node.read(raw.get("hover")),
            onto=Node.read(raw.get("onto")),
            meanwhile=tuple(map(Meanwhile.read, raw.get("meanwhile") or ())),
        )

    def inside(self, frame: str, frames: tuple[str, ...], offset: tuple[float, float]) -> Event:
        """Return the event with all its nodes in a frame whose corner is at `offset`."""

        def there(facts: Facts) -> Facts:
            box = replace(facts.box, x=facts.box.x + offset[0], y=facts.box.y + offset[1])
            return replace(facts, frame=frame, frames=frames, box=box)

        def all_there(node: Node | None) -> Node | None:
            return node and Node(there(node.facts), tuple(map(there, node.rivals)))

        return replace(
            self,
            frame=frame,
            facts=self.facts and there(self.facts),
            rivals=tuple(map(there, self.rivals)),
            hover=all_there(self.hover),
            onto=all_there(self.onto),
            meanwhile=tuple(replace(one, node=all_there(one.node)) for one in self.meanwhile),
        )
