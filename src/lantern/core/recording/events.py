"""Raw events of a live stage: what the probe and the station report while recording."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

from lantern.core.elements.facts import Facts

EventType = Literal[
    "click", "dblclick", "contextmenu", "input", "change", "key", "opened", "dialog", "window",
    "window closed", "option", "files", "slide", "drag", "idle", "history", "download", "after",
    "write", "lost", "hover", "scroll",
]  # fmt: skip
"""Kinds of events; "hover" and "scroll" are parts of others: what had to be done for them."""


@dataclass(frozen=True)
class Node:
    """A node with its rivals, as the probe describes it; `at` is a place in it ("20% 50%")."""

    facts: Facts
    rivals: tuple[Facts, ...] = ()
    at: str = ""

    @classmethod
    def read(cls, raw: Mapping[str, Any] | None) -> Node | None:
        """Build a node from the probe's description; None stays None."""
        if not raw:
            return None
        return cls(
            Facts.read(raw["facts"]),
            tuple(Facts.read(one) for one in raw.get("rivals") or ()),
            str(raw.get("at") or ""),
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


_FLAGS = ("editor", "empty", "changed", "mutated", "appeared", "prevented", "left", "pressed")


@dataclass(frozen=True)
class Event:
    """One raw event.

    `facts` and `rivals` describe the node it happened on, `page` and `address` the page it was
    on. `value` is the new text, option or key; `ticked` the new state of a tick box; `detail`
    the number of presses in a row (0 when the keyboard did it); `secret` that the value was
    typed into a password field; `on_label` that a label was pressed whose control answers.
    `press` numbers the acts of a document, that of `frame` ("" for the page's own), `hovers` are
    what had to be pointed at for this to be there, outermost first, `onto` what something was
    dragged to, `by` how far it was carried where it only moved in its place (CSS pixels to the
    right and down), `spot` the place inside a drawing or an editor ("25% 60%"), `meanwhile` what
    became ready since the event before, where the person took their time. `editor` tells that a
    key went to an editor, `pressed` that a slider was set by a press beside it, `scrolled` how far
    down (CSS pixels) what holds the node was scrolled before the page drew it,
    `empty` that an editor was empty before something was written.

    The type "after" tells what came of the act `press`: whether the page `changed` at all, was
    `mutated` (changed in more than what has the focus), whether something `appeared`, whether the
    page `prevented` what the browser would have done, and whether a field was `left` with another
    value. "idle" tells that it is certain that nothing came of it.
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
    hovers: tuple[Node, ...] = ()
    onto: Node | None = None
    by: tuple[int, int] | None = None
    spot: str = ""
    editor: bool = False
    empty: bool = False
    changed: bool = False
    mutated: bool = False
    appeared: bool = False
    prevented: bool = False
    left: bool = False
    pressed: bool = False
    scrolled: int | None = None
    meanwhile: tuple[Meanwhile, ...] = ()

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Event:
        """Build an event from the probe's JSON object."""
        facts = raw.get("facts")
        flags: Any = {flag: bool(raw.get(flag)) for flag in _FLAGS}
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
            hovers=tuple(node for one in raw.get("hovers") or () if (node := Node.read(one))),
            onto=Node.read(raw.get("onto")),
            by=(int(raw["by"][0]), int(raw["by"][1])) if raw.get("by") else None,
            spot=str(raw.get("spot") or ""),
            scrolled=None if raw.get("scrolled") is None else int(raw["scrolled"]),
            **flags,
            meanwhile=tuple(map(Meanwhile.read, raw.get("meanwhile") or ())),
        )

    def inside(self, frame: str, frames: tuple[str, ...], offset: tuple[float, float]) -> Event:
        """Return the event with all its nodes in a frame whose corner is at `offset`."""

        def there(facts: Facts) -> Facts:
            box = replace(facts.box, x=facts.box.x + offset[0], y=facts.box.y + offset[1])
            return replace(facts, frame=frame, frames=frames, box=box)

        def all_there(node: Node | None) -> Node | None:
            return node and Node(there(node.facts), tuple(map(there, node.rivals)), node.at)

        return replace(
            self,
            frame=frame,
            facts=self.facts and there(self.facts),
            rivals=tuple(map(there, self.rivals)),
            hovers=tuple(node for one in self.hovers if (node := all_there(one))),
            onto=all_there(self.onto),
            meanwhile=tuple(replace(one, node=all_there(one.node)) for one in self.meanwhile),
        )
