"""What web and stations say to each other over live connections, and what everybody is told.

Typed dictionaries: mypy holds who says something to them, pydantic what comes in, and the front
end's types are made from them. Boxes and points are in CSS pixels of the window's viewport.
"""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

from lantern.core.elements.facts import Box


class BoxSaid(TypedDict):
    """A box in the window."""

    x: float
    y: float
    width: float
    height: float


def box_said(box: Box) -> BoxSaid:
    """Return a box as it is said."""
    return {"x": box.x, "y": box.y, "width": box.width, "height": box.height}


# -- what a station says -------------------------------------------------------------------------


class WindowSaid(TypedDict):
    """A window of the stage."""

    id: str
    title: str
    address: str
    current: bool


class DialogSaid(TypedDict):
    """A browser dialog that is open."""

    type: str
    message: str
    default: str


class StateSaid(TypedDict):
    """What there is to say of the windows; `chooser` when the page waits for files."""

    type: Literal["state"]
    windows: list[WindowSaid]
    address: str
    dialog: DialogSaid | None
    viewport: tuple[int, int] | None
    chooser: bool


class RecordingSaid(TypedDict):
    """Whether what is done is recorded."""

    type: Literal["recording"]
    on: bool


class LightSaid(TypedDict):
    """What is under the pointer; no box for nothing."""

    type: Literal["light"]
    box: BoxSaid | None
    name: str
    kind: str


class ShineSaid(TypedDict):
    """Where an element is now."""

    type: Literal["shine"]
    boxes: list[BoxSaid]
    name: str
    kind: str


class OptionSaid(TypedDict):
    """An option of a list."""

    text: str
    disabled: bool


class OptionsSaid(TypedDict):
    """A native list that was opened; its options are shown by Lantern."""

    type: Literal["options"]
    handle: int
    frame: str
    box: BoxSaid
    options: list[OptionSaid]
    selected: int


class PropertySaid(TypedDict):
    """A property that can be checked; `first` for the one that is mostly meant."""

    name: str
    value: str
    holds: str
    common: bool
    first: bool


class PickedSaid(TypedDict):
    """What was pointed at, and what can be checked of it."""

    type: Literal["picked"]
    name: str
    kind: str
    box: BoxSaid
    clues: list[str]
    properties: list[PropertySaid]
    comparisons: list[str]


class CheckedSaid(TypedDict):
    """The checks were added."""

    type: Literal["checked"]


class TriedSaid(TypedDict):
    """What a check would find now; `why` it can not be told, "" where it can."""

    property: str
    holds: bool
    found: str
    why: str


class AllTriedSaid(TypedDict):
    """What each check would find now."""

    type: Literal["tried"]
    checks: list[TriedSaid]


class StillSaid(TypedDict):
    """A still was taken: the number of the saved page."""

    type: Literal["still"]
    page: int


class PeekedSaid(TypedDict):
    """What a thing of the still shows on the stage now, by property."""

    type: Literal["peeked"]
    node: int
    shows: dict[str, str]


class VerdictSaid(TypedDict):
    """What an element finds on the stage as it is being edited."""

    type: Literal["verdict"]
    word: str
    fine: bool
    why: str
    count: int
    boxes: list[BoxSaid]
    shows: list[str]


class RepickedSaid(TypedDict):
    """An element learned anew from the thing that was pointed at."""

    type: Literal["repicked"]
    element: dict[str, Any]
    handle: int
    strength: float
    weakest: str


class PlayingSaid(TypedDict):
    """A sentence is being played on the stage."""

    type: Literal["playing"]
    step: str


class PlayedSaid(TypedDict):
    """Playing on the stage is over; `failed` says why not, "" for well."""

    type: Literal["played"]
    failed: str
    hint: str


class ProvedSaid(TypedDict):
    """The test was held against its recording: how many sentences differ."""

    type: Literal["proved"]
    differ: int


class TroubleSaid(TypedDict):
    """Something went wrong, or the connection is refused."""

    type: Literal["error", "refused"]
    message: str
    hint: str


class EndedSaid(TypedDict):
    """There is nothing to watch any more."""

    type: Literal["ended"]


Said = (
    StateSaid
    | RecordingSaid
    | LightSaid
    | ShineSaid
    | OptionsSaid
    | PickedSaid
    | CheckedSaid
    | AllTriedSaid
    | StillSaid
    | PeekedSaid
    | VerdictSaid
    | RepickedSaid
    | PlayingSaid
    | PlayedSaid
    | ProvedSaid
    | TroubleSaid
    | EndedSaid
)
"""Everything that a station says over a live connection, told apart by `type`."""


# -- what an author asks a stage for -------------------------------------------------------------


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
)
"""Everything that an author asks a stage for, told apart by `type`."""


# -- what everybody is told ------------------------------------------------------------------------


class Notice(TypedDict):
    """Something has changed: ids only. An empty `about` follows a gap: anything may have."""

    about: Literal[
        "", "test", "element", "files", "run", "defect", "project", "stations", "signed out", "stop"
    ]
    id: NotRequired[int | str]
    row: NotRequired[int]
