"""What an author asks a stage for. Points are in CSS pixels of the viewport."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

from lantern.core.channel.rehearsing import RehearsalAsked


class OpenAsked(TypedDict):
    """Open an address, or a path of the environment."""

    type: Literal["open"]
    address: str


class HistoryAsked(TypedDict):
    """Go back, forward or load anew."""

    type: Literal["history"]
    to: Literal["back", "forward", "reload"]


class DialogAsked(TypedDict):
    """Answer the open dialog."""

    type: Literal["dialog"]
    accept: bool
    text: NotRequired[str]


class ChooseAsked(TypedDict):
    """Choose an option of a native list."""

    type: Literal["choose"]
    handle: int
    option: str
    frame: NotRequired[str]


class FileAsked(TypedDict):
    """A file: its content as base64."""

    name: str
    content: str


class FilesAsked(TypedDict):
    """Give files to the page that waits for them."""

    type: Literal["files"]
    files: list[FileAsked]


class WindowAsked(TypedDict):
    """Go to a window, or close it."""

    type: Literal["window", "close window"]
    id: str


class RecordAsked(TypedDict):
    """Record from now on, or no more; `after` is the sentence to go on behind."""

    type: Literal["record"]
    on: bool
    after: NotRequired[str | None]


class MouseAsked(TypedDict):
    """What the mouse does; see browser.session.PointerInput."""

    type: Literal["mouse"]
    kind: Literal["move", "down", "up", "wheel"]
    x: float
    y: float
    button: NotRequired[Literal["none", "left", "middle", "right"]]
    buttons: NotRequired[int]
    count: NotRequired[int]
    modifiers: NotRequired[int]
    dx: NotRequired[float]
    dy: NotRequired[float]


class KeyAsked(TypedDict):
    """A key that goes down or up; see browser.session.KeyInput."""

    type: Literal["key"]
    kind: Literal["down", "up"]
    key: str
    code: NotRequired[str]
    number: NotRequired[int]
    modifiers: NotRequired[int]
    text: NotRequired[str]


class TextAsked(TypedDict):
    """A text that is put in whole, or that an input method is still composing."""

    type: Literal["text", "compose"]
    text: str


class PointAsked(TypedDict):
    """Point at something: `wider` takes in so many steps more around it."""

    type: Literal["point", "pick"]
    x: float
    y: float
    wider: NotRequired[int]


class ShineAsked(TypedDict):
    """Show where an element is."""

    type: Literal["shine"]
    element: str


class CheckAsked(TypedDict):
    """A check of what was picked."""

    property: str
    comparison: str
    expected: str


ChecksAsked = TypedDict(
    "ChecksAsked",
    {
        "type": Literal["checks"],
        "checks": list[CheckAsked],
        "as": NotRequired[Literal["check", "wait until", "keep"]],
    },
)
"""Add checks of what was picked, or what waits for it or keeps it."""


class TryChecksAsked(TypedDict):
    """Say what checks of what was picked would find now."""

    type: Literal["try checks"]
    checks: list[CheckAsked]


class PlainAsked(TypedDict):
    """Take a still, prove the recording, or stop playing."""

    type: Literal["still", "prove", "stop playing"]


class PeekAsked(TypedDict):
    """Tell what a thing of the still shows now."""

    type: Literal["peek"]
    node: int


class ActAsked(TypedDict):
    """Add a sentence for a thing of the still, and carry it out with `perform`."""

    type: Literal["act"]
    node: int
    action: str
    name: NotRequired[str]
    inputs: NotRequired[dict[str, str]]
    perform: NotRequired[bool]


class TryAsked(TypedDict):
    """Tell what an element finds as it is being edited; `meant` is the node that it is to be."""

    type: Literal["try"]
    element: dict[str, Any]
    meant: NotRequired[int]


class RepickAsked(TypedDict):
    """Learn the element anew from the thing at a point."""

    type: Literal["repick"]
    x: float
    y: float


class PlayToAsked(TypedDict):
    """Play up to a sentence, `without` some, and with `record` go on recording there."""

    type: Literal["play to"]
    step: str
    without: NotRequired[list[str]]
    record: NotRequired[bool]


Asked = (
    OpenAsked
    | HistoryAsked
    | DialogAsked
    | ChooseAsked
    | FilesAsked
    | WindowAsked
    | RecordAsked
    | MouseAsked
    | KeyAsked
    | TextAsked
    | PointAsked
    | ShineAsked
    | ChecksAsked
    | TryChecksAsked
    | PlainAsked
    | PeekAsked
    | ActAsked
    | TryAsked
    | RepickAsked
    | PlayToAsked
    | RehearsalAsked
)
"""Everything that an author asks a stage for, told apart by `type`."""
