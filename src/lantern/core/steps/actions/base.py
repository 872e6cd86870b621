"""What an action is: how it is named, how it reads, what goes in, how it is performed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from lantern.core.elements.clues import Element
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import Target, find
from lantern.core.engine.outcomes import Evidence, StepFailed
from lantern.core.recording.events import Event, EventType

InputKind = Literal[
    "text", "choice", "keys", "address", "property", "comparison", "window", "file", "number",
    "name",
]  # fmt: skip


@dataclass(frozen=True)
class Input:
    """A value that an action takes; `choices` lists the allowed ones of kind "choice"."""

    name: str
    kind: InputKind = "text"
    choices: tuple[str, ...] = ()
    default: str = ""
    optional: bool = False


@dataclass
class Call:
    """One performance of an action: its values with names filled in, and where evidence goes.

    `onto` is the second element of an action that has two.
    """

    inputs: Mapping[str, str]
    element: Element | None
    onto: Element | None
    limit: float
    base: str
    evidence: Evidence
    picture: Callable[[], ask.Play[None]]

    def target(self) -> Element:
        """Return the element; raises StepFailed when the sentence names none."""
        if self.element is None:
            raise StepFailed("bad value", "This sentence needs an element.")
        return self.element

    def ready(self, at: tuple[float, float] | None = None) -> ask.Play[Target]:
        """Wait for the element to be ready for input, and picture it before anything happens.

        `at` is the place in it that input has to reach, None for any.
        """
        target = yield from find(self.target(), self.limit, self.evidence, at=at)
        yield from self.picture()
        return target


Perform = Callable[[Call], ask.Play[Any]]


def _nothing(_: Event) -> Mapping[str, str]:
    return {}


@dataclass(frozen=True)
class Recorded:
    """How an action is recorded: from which events of a live stage, and what of them goes in.

    `reads` returns the inputs as templates, and None where the event means another action.
    `anew` tells that each event says the whole again, as each letter says all that a field
    holds: what comes next at the same thing takes the place of what was there.
    """

    on: frozenset[EventType]
    reads: Callable[[Event], Mapping[str, str] | None] = _nothing
    anew: bool = False


def recorded(
    *on: EventType,
    reads: Callable[[Event], Mapping[str, str] | None] = _nothing,
    anew: bool = False,
) -> Recorded:
    """Say how an action is recorded; see Recorded."""
    return Recorded(frozenset(on), reads, anew)


Block = Literal["", "group", "if", "else if", "else", "repeat", "while", "try", "always", "flow"]


@dataclass(frozen=True)
class Action:
    """An action. In `template`, {element} and the inputs' names stand for the parts.

    `kinds` is empty for an action that works on any kind, None for one without an element;
    `onto` tells that it needs a second element, for which {onto} stands. `block` tells how it
    plays the steps inside it ("" for what has none): what `perform` returns decides, a bool for
    conditions, the values of each round for repeats. `limit` is a time limit of its own in
    seconds that holds where its step says nothing. `recorded` says how a recording comes to it,
    None for what is only added by hand. Rehearsals stop before one that `holds`. `looks` tells
    whether what it waits for is there, at once and without doing anything.
    """

    name: str
    title: str
    template: str
    perform: Perform
    inputs: tuple[Input, ...] = ()
    kinds: frozenset[str] | None = frozenset()
    help: str = ""
    onto: bool = False
    block: Block = ""
    limit: float | None = None
    recorded: Recorded | None = None
    holds: bool = False
    looks: Callable[[Call], ask.Play[bool]] | None = None

    @property
    def sees(self) -> bool:
        """Whether it reads what the page shows of an element, to hold it against something."""
        reads = {"property", "expected"} & {one.name for one in self.inputs}
        return self.kinds is not None and not self.block and bool(reads)
