"""Elements, pages, repairs, files of tests."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import Field

from lantern.web.shapes.base import ListAsk, Query, Shape


class ClueIn(Shape):
    """A clue as a person sets it."""

    fact: str = Field(min_length=1, max_length=80)
    operator: str = "is"
    value: str = Field(max_length=400)
    loose: bool = False


class ClueRow(ClueIn):
    """A clue of an element: whether it must hold or is spare, and how it reads."""

    on: bool
    sentence: str


class Use(Shape):
    """A test that uses an element, and the numbers of the steps that do, from 1."""

    test: int
    name: str
    steps: list[int]


class ElementBrief(Shape):
    """An element in a list."""

    id: str
    name: str
    kind: str
    page: str
    clues: list[str]
    uses: list[Use]


class ElementFull(Shape):
    """An element with all that the editor shows; `seen` are its facts when it was learned.

    `act` is what changing it just now is taken back by, 0 where nothing was changed.
    """

    id: str
    name: str
    kind: str
    page: str
    version: int
    clues: list[ClueRow]
    uses: list[Use]
    seen: dict[str, Any] | None
    body: dict[str, Any]
    act: int = 0


class ElementVersionOut(Shape):
    """What became of an element, when and by whom; `lines` tell what differs from before."""

    number: int
    summary: str
    author: str
    at: datetime
    lines: list[str]
    now: list[str]
    """What differs between this version and the newest."""
    there: bool
    """Whether the element was there, or deleted."""


class RestoreElement(Shape):
    """Go back to a version, from version `base`; `place` is the test in which that is done."""

    version: int
    base: int
    place: int | None = None


class ElementVersions(Shape):
    """The newest versions of an element."""

    versions: list[ElementVersionOut]


class PageBrief(Shape):
    """A page of the application under test: its newest picture, and how many elements it has."""

    page: str
    saved: int | None
    picture: str
    at: datetime | None
    elements: int


class PagesAsk(ListAsk):
    """Which pages: those with `q` in titles, or names or kinds of elements; `unused` ones only."""

    unused: bool = False


class PageList(Shape):
    """A page of the pages, by title; `next` leads on, "" at the end."""

    pages: list[PageBrief]
    next: str


class PageElementsAsk(Query):
    """The elements of a `page`, of those that are `unused` or have `q` in their names or kinds."""

    page: str
    q: str = ""
    unused: bool = False


class PageOut(Shape):
    """A page with its elements, by name."""

    page: PageBrief
    elements: list[ElementBrief]


class ElementsAsk(ListAsk):
    """Elements to choose from, of a `kind` ("" for any), with `q` in their or their page's name."""

    kind: str = ""


class ElementNamed(Shape):
    """An element by its name."""

    id: str
    name: str
    kind: str
    page: str


class ElementList(Shape):
    """A page of elements, by name; `next` leads on, "" at the end."""

    elements: list[ElementNamed]
    next: str


class ElementChange(Shape):
    """New parts of an element, from version `base`; `place` is the test in which that is done."""

    base: int
    place: int | None = None
    name: str | None = Field(default=None, min_length=1, max_length=120)
    page: str | None = Field(default=None, max_length=300)
    kind: str | None = None
    clues: list[ClueIn] | None = None
    spare: list[ClueIn] | None = None
    seen: dict[str, Any] | None = None
    lookalikes: list[dict[str, Any]] | None = None


class Draft(Shape):
    """An element as it is being edited."""

    kind: str
    clues: list[ClueIn]


class Tried(Shape):
    """What an element finds on one saved page."""

    saved: int
    page: str
    run: int | None
    release: str
    at: datetime
    picture: str
    word: str
    count: int
    boxes: list[list[float]]


class StrengthOut(Shape):
    """How many likely changes are survived (0 to 1), what is not, and a stronger set of clues."""

    share: float
    lost: list[str]
    stronger: list[ClueRow]
    stronger_share: float | None


class TriedAll(Shape):
    """What a draft finds on the pages saved earlier; `strength` as on the newest with it."""

    pages: list[Tried]
    strength: StrengthOut | None


class MergeAsk(Shape):
    """The element that takes over."""

    into: str


class Changed(Shape):
    """The tests that a change touched; `act` is what it is taken back by."""

    tests: list[Use]
    act: int


class MergedOut(Changed):
    """What merging came to: whose clues were `kept`, and the strengths (0 to 1) of both.

    Strengths are None where the two were not held against each other on a saved page.
    """

    kept: str
    share: float | None
    other_share: float | None


class EqualOut(Shape):
    """Elements that find the same `thing`, each alone, on the page that was `saved` last."""

    page: str
    saved: int
    at: datetime
    thing: str
    elements: list[ElementBrief]


class EqualList(Shape):
    """All elements that could be merged."""

    equal: list[EqualOut]


class NodeOut(Shape):
    """Something on a saved page; `shows` are the properties that are known of it."""

    node: int
    kind: str
    name: str
    text: str
    box: list[float]
    frames: list[str]
    visible: bool
    options: list[str]
    column: str
    row: str
    shows: dict[str, str]


class SavedPageOut(Shape):
    """A saved page with everything recognised on it."""

    id: int
    page: str
    address: str
    release: str
    picture: str
    at: datetime
    run: int | None
    test: int | None
    nodes: list[NodeOut]


class PlaceOut(Shape):
    """Where an element is on a saved page, as shares from 0 to 1."""

    element: str
    box: list[float]


class Places(Shape):
    """Where the elements of a page are on it."""

    places: list[PlaceOut]


class TakeAsk(Shape):
    """Things of a saved page to be taken in as elements, with the names they get."""

    nodes: list[TakeNode] = Field(min_length=1, max_length=500)


class TakeNode(Shape):
    """One of them; an empty name takes the proposed one."""

    node: int
    name: str = Field(default="", max_length=120)


class StepAsk(Shape):
    """A sentence for a thing of a saved page."""

    node: int
    action: str
    inputs: dict[str, str] = Field(default_factory=dict)


class StepsAsk(Shape):
    """Sentences to be added to a test: behind one, "" for the start, None for the end."""

    test: int
    steps: list[StepAsk] = Field(min_length=1, max_length=200)
    after: str | None = Field(default=None, max_length=32)


class TakenOut(Shape):
    """What an element that was, or would be, taken in finds on that page.

    `strength` is the share (0 to 1) of likely changes that its clues survive, `weakest` the change
    that hurts most; None where that was not asked.
    """

    node: int
    element: str
    name: str
    clues: list[str]
    matches: int
    strength: float | None = None
    weakest: str = ""


class TakenAll(Shape):
    """All of them."""

    taken: list[TakenOut]


class ProposalOut(Shape):
    """A node that may be the element: the score (0 to 1), what agrees, what differs."""

    node: int
    name: str
    kind: str
    score: float
    high: bool
    agrees: list[str]
    differs: list[str]
    box: list[float]


class Repairs(Shape):
    """What an element that was not found may be now, with the pictures of then and now."""

    element: ElementBrief | None
    saved: int | None
    picture: str
    before: str
    before_box: list[float] | None
    proposals: list[ProposalOut]


class RepairAsk(Shape):
    """The node of a saved page that the element is now."""

    saved: int
    node: int
    base: int


class FileOut(Shape):
    """A file kept with a test; `size` in bytes."""

    name: str
    size: int
    digest: str


class FileList(Shape):
    """The files of a test."""

    files: list[FileOut]


class FileIn(Shape):
    """A file to be kept; `content` in base64."""

    name: str = Field(min_length=1, max_length=255)
    content: str


class FileName(Query):
    """A path with a test and a file's name."""

    id: int
    name: str


class RunPages(Shape):
    """The pages that a run saved."""

    pages: list[PageOfRun]


class PageOfRun(Shape):
    """A page that a run saved."""

    saved: int
    page: str
    picture: str
    step: str
    at: datetime
