"""Flows, and making them of sentences."""

from __future__ import annotations

from pydantic import Field

from lantern.web.shapes.base import Shape
from lantern.web.shapes.tests import FlowBrief, TestOut


class Count(Shape):
    """How many there were."""

    count: int


class FlowUses(Shape):
    """A test or flow, with the numbers of its sentences that are meant."""

    id: int
    kind: str
    name: str
    sentences: list[int]


class FlowOut(Shape):
    """A flow with all that calls it."""

    flow: FlowBrief
    steps: int
    environment: str
    uses: list[FlowUses]


class FlowList(Shape):
    """A page of the flows, by name; `next` leads on, "" at the end."""

    flows: list[FlowOut]
    next: str


class CutAsk(Shape):
    """Sentences of which a flow may be made."""

    steps: list[str]


class GivenOut(Shape):
    """A proposed input: the template that the sentences hold now; `needed` if it must be one."""

    name: str
    template: str
    needed: bool


class CutOut(Shape):
    """What a flow of some sentences would take and give."""

    steps: int
    takes: list[GivenOut]
    gives: list[str]


class ExtractAsk(Shape):
    """Make a flow: `takes` are templates of the sentences by the names of the inputs."""

    base: int
    steps: list[str]
    name: str = Field(max_length=200)
    takes: dict[str, str] = Field(default_factory=dict)
    gives: list[str] = Field(default_factory=list)


class ExtractOut(Shape):
    """The test with the call, the flow, and where else its sentences stand."""

    test: TestOut
    flow: str
    alike: list[FlowUses]


class AlikeOut(Shape):
    """Tests and flows in which the sentences of a flow stand as they are."""

    alike: list[FlowUses]


class ReplaceAsk(Shape):
    """Tests in which the flow is to be called instead of its sentences."""

    tests: list[int]


class PutBackAsk(Shape):
    """A call of a flow, in version `base`, that is to become the flow's sentences again."""

    base: int
    step: str


class CodeTry(Shape):
    """Code as it is written now, with inputs as text; those left out have their defaults."""

    code: str = Field(max_length=200_000)
    inputs: dict[str, str] = Field(default={})


class CodeTried(Shape):
    """How it went: what it gave by name, or the error with its line (0: none)."""

    gave: dict[str, str]
    error: str
    line: int
    seconds: float
