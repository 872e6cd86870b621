"""What a station says over a live connection. Boxes are in CSS pixels of the viewport."""

from __future__ import annotations

from typing import Any, Literal

from typing_extensions import TypedDict

from lantern.core.channel.boxes import BoxSaid
from lantern.core.channel.rehearsing import RehearsalSaidAny


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
    | RehearsalSaidAny
)
"""Everything that a station says over a live connection, told apart by `type`."""
