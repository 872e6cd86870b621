"""What is asked and said about a rehearsal on a stage. Times are in seconds."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

from lantern.core.channel.boxes import BoxSaid


class PathAsked(TypedDict):
    """A sentence: the calls that lead to it, outermost first, and its own id."""

    calls: list[str]
    step: str


class RehearseAsked(TypedDict):
    """Rehearse a row ("" for none), from a sentence on (None: the start).

    It begins on a `fresh` stage or on the stage as it is; `sure` begins although something is
    missing, `hold` stops before the first sentence.
    """

    type: Literal["rehearse"]
    row: NotRequired[str]
    start: NotRequired[PathAsked | None]
    fresh: NotRequired[bool]
    sure: NotRequired[bool]
    hold: NotRequired[bool]


class HandAsked(TypedDict):
    """Go on in some way, hold, try again, pass over, let it fail, or end."""

    type: Literal["hand"]
    do: Literal["play", "hold", "over", "into", "out", "again", "skip", "let it fail", "end"]


class ToAsked(TypedDict):
    """Play on to a sentence, or go on from it with the stage as it is (`from here`)."""

    type: Literal["on to", "from here"]
    calls: list[str]
    step: str
    sure: NotRequired[bool]


class PaceAsked(TypedDict):
    """How fast: 0 for full speed, None for by hand; and whether what is acted on is lit."""

    type: Literal["pace"]
    seconds: float | None
    light: bool


class ValueAsked(TypedDict):
    """Change a value in reach, for this rehearsal."""

    type: Literal["set value"]
    source: str
    name: str
    value: str


class WatchAsked(TypedDict):
    """Something that is watched: an expression, or a property of an element."""

    id: str
    expression: NotRequired[str]
    element: NotRequired[str]
    property: NotRequired[str]


class WatchesAsked(TypedDict):
    """Watch these things from now on."""

    type: Literal["watch"]
    watches: list[WatchAsked]


class OnTheSpotAsked(TypedDict):
    """Do a sentence that is not in the story; `made` is an element that is not known yet."""

    type: Literal["on the spot"]
    action: str
    inputs: dict[str, str]
    element: NotRequired[str]
    made: NotRequired[dict[str, Any]]


class SearchAsked(TypedDict):
    """Search otherwise for what was not found, for so many seconds."""

    type: Literal["search"]
    seconds: NotRequired[float]


class GiveHandAsked(TypedDict):
    """Hand the controls to somebody who watches."""

    type: Literal["give hand"]
    account: int


class OfferAnswered(TypedDict):
    """Take a row that has failed in hand, or let it go."""

    type: Literal["take in hand", "let it go"]


class RehearsalPlainAsked(TypedDict):
    """Keep what was done on the spot, list candidates, stop searching, tell the values again."""

    type: Literal["keep on the spot", "candidates", "stop search", "values"]


RehearsalAsked = (
    RehearseAsked
    | HandAsked
    | ToAsked
    | PaceAsked
    | ValueAsked
    | WatchesAsked
    | OnTheSpotAsked
    | SearchAsked
    | GiveHandAsked
    | OfferAnswered
    | RehearsalPlainAsked
)
"""Everything that is asked about a rehearsal, told apart by `type`."""


class SpotSaid(TypedDict):
    """A sentence that the rehearsal has come to: calls and rounds around it, its words."""

    step: str
    calls: list[str]
    flow: str
    within: list[str]
    depth: int
    sentence: str


class FailedSaid(TypedDict):
    """A failure that does not count yet."""

    reason: str
    message: str
    hint: str
    expected: str
    found: str
    element: str


class PersonSaid(TypedDict):
    """Somebody who has the stage open."""

    account: int
    name: str


class RehearsalSaid(TypedDict):
    """How the rehearsal stands.

    `why` and `told` say why it is held, `mid` that it is held within a sentence; `ended` how it
    ended; `row` is the number of the row (0: none) and `row_id` its id; `pace` and `light` are as
    asked, `cost` the seconds that these two have cost; `hand` is who has the controls, `here` who
    looks on; `of_run` tells that it is a row of a run in hand; `began` is a time; `moment` counts
    stops.
    """

    type: Literal["rehearsal"]
    state: Literal["none", "playing", "held", "over"]
    spot: SpotSaid | None
    why: str
    told: str
    mid: bool
    failed: FailedSaid | None
    ended: str
    outcome: str
    row: int
    row_id: str
    pace: float | None
    light: bool
    cost: float
    hand: PersonSaid
    here: list[PersonSaid]
    of_run: bool
    began: str
    moment: int


class PartSaid(TypedDict):
    """A part of a sentence, how often it was done and how long it took."""

    told: str
    seconds: float
    times: int


class PlayedStepSaid(TypedDict):
    """A sentence that was rehearsed, with its trace."""

    step: str
    calls: list[str]
    within: list[str]
    sentence: str
    outcome: str
    message: str
    seconds: float
    thing: str
    contrary: str
    parts: list[PartSaid]


class PlayedStepsSaid(TypedDict):
    """Sentences that were rehearsed since; `anew` when those told before are of another row."""

    type: Literal["rehearsed"]
    anew: bool
    steps: list[PlayedStepSaid]


class BeforeSaid(TypedDict):
    """What a value was, up to a sentence."""

    value: str
    sentence: str


class ValueSaid(TypedDict):
    """A value in reach."""

    source: str
    name: str
    value: str
    what: str
    changed: bool
    hidden: bool
    before: list[BeforeSaid]


class WatchSaid(TypedDict):
    """What something watched is now; `wrong` says why it can not be told."""

    id: str
    value: str
    wrong: str


class ValuesSaid(TypedDict):
    """The values in reach, and what is watched."""

    type: Literal["values"]
    values: list[ValueSaid]
    watches: list[WatchSaid]


class LacksSaid(TypedDict):
    """What is missing on the page to begin at a sentence."""

    type: Literal["lacks"]
    calls: list[str]
    step: str
    missing: list[str]


class OnTheSpotSaid(TypedDict):
    """How a sentence went that is not in the story; `kept` when it was put there.

    `steps` are those that were recorded there instead, for who wants to forget them.
    """

    type: Literal["on the spot"]
    sentence: str
    outcome: str
    message: str
    found: str
    kept: bool
    steps: list[str]


class CandidateSaid(TypedDict):
    """A thing that may be the element: its share of all explanations, and where it is."""

    name: str
    share: float
    fits: bool
    box: BoxSaid
    agrees: list[str]
    differs: list[str]
    node: int


class CandidatesSaid(TypedDict):
    """The things that may be an element; `picture` and `place` show where it used to be."""

    type: Literal["candidates"]
    element: str
    name: str
    all: list[CandidateSaid]
    picture: str
    place: list[float] | None


class AnswerSaid(TypedDict):
    """An answer to the search: a sentence, where its evidence is, and what can be done (`act`)."""

    cause: str
    told: str
    share: float
    boxes: list[BoxSaid]
    act: str
    label: str
    given: dict[str, Any]


class OfferSaid(TypedDict):
    """A row that failed is offered to who watches it, for `seconds` more; 0: no longer."""

    type: Literal["offer"]
    seconds: float
    sentence: str
    message: str


class SearchSaid(TypedDict):
    """How the search otherwise stands: what it does, seconds `left`, its answers, best first."""

    type: Literal["search"]
    state: Literal["searching", "done", "stopped"]
    doing: str
    left: float
    element: str
    name: str
    answers: list[AnswerSaid]


RehearsalSaidAny = (
    RehearsalSaid
    | PlayedStepsSaid
    | ValuesSaid
    | LacksSaid
    | OnTheSpotSaid
    | CandidatesSaid
    | SearchSaid
    | OfferSaid
)
"""Everything that is said about a rehearsal, told apart by `type`."""
