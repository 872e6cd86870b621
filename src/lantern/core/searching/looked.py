"""What was looked at for the search otherwise, and what an answer of it is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Literal

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.repair import Proposal, contradicts, doubted, found_by, propose
from lantern.core.engine.requests import Aimed

Cause = Literal[
    "dialog", "later", "hidden", "disabled", "covered", "moving", "outside", "several", "another",
    "sign in", "error page", "other page", "other window", "case", "number", "clue", "kind", "text",
    "gone",
]  # fmt: skip
"""Why an element was not found, or could not be used."""
Act = Literal[
    "", "use clues", "raise limit", "close first", "go to window", "answer dialog", "sign in",
    "raise defect",
]  # fmt: skip
"""What can be done about it."""


LIKELY = 0.5
"""From this share on something that is not shown is taken for the element."""
WAS_THERE = 0.15
"""What is left of the share of a node that was on the page before, beside the element."""


def _shape(facts: Facts) -> tuple[object, ...]:
    """Return what tells a node from the others of its page."""
    marks = tuple(facts.attributes.get(name, "") for name in ("id", "name", "data-testid"))
    return facts.tag, facts.role, facts.name, facts.label, facts.text, facts.row, marks


@dataclass(frozen=True)
class Elsewhere:
    """Another window that is open, and all that is recognised in it."""

    title: str
    nodes: tuple[Facts, ...]


@dataclass(frozen=True)
class Looked:
    """All that was looked at. Times are in seconds.

    `nodes` is all that is recognised on the page, in its frames and shadow roots as well. `title`
    and `address` are those of the page, `wanted_title` and `wanted_address` those of the page the
    sentence was recorded on or last played at ("" for not known). `dialog` is the message of an
    open dialog. `aimed` tells how the one node that was found can be reached, `cover` what lies at
    its place, the innermost first. `windows` are the others that are open. `green` is all that was
    on this page in the last run that passed, `green_run` its number. `limit` is how long it was
    waited for, `after` when it came to be there and ready (None: never, in `watched` seconds).
    """

    element: Element
    nodes: tuple[Facts, ...]
    title: str = ""
    address: str = ""
    wanted_title: str = ""
    wanted_address: str = ""
    dialog: str | None = None
    aimed: Aimed | None = None
    cover: tuple[Facts, ...] = ()
    windows: tuple[Elsewhere, ...] = ()
    green: tuple[Facts, ...] = ()
    green_run: int = 0
    limit: float = 10.0
    after: float | None = None
    watched: float = 0.0
    flow_that_signs_in: str = ""
    """The id of a flow that types a password, "" for none."""

    @cached_property
    def found(self) -> list[Facts]:
        """The nodes that the element's clues find, though one may look like another thing."""
        return found_by(self.element, self.nodes)

    @cached_property
    def is_it(self) -> bool:
        """Whether exactly one node is found and nothing speaks against it."""
        if len(self.found) != 1:
            return False
        one = self.found[0]
        return not doubted(self.element, one, self.nodes) and not contradicts(self.element, one)

    @cached_property
    def proposals(self) -> list[Proposal]:
        """The nodes that are likeliest to be the element, the best first.

        What stood beside it on the page of the last run that passed is another thing.
        """
        others = self._others_before
        return sorted(
            (
                replace(one, score=round(one.score * WAS_THERE, 3))
                if _shape(one.facts) in others
                else one
                for one in propose(self.element, self.nodes, most=5)
            ),
            key=lambda one: -one.score,
        )

    @cached_property
    def hidden(self) -> list[Proposal]:
        """The nodes that are not shown and likely the element, the best first.

        What is not shown has no name and no text: that speaks neither for nor against it.
        """
        unseen = [one for one in self.nodes if not one.visible]
        seen = self.element.seen
        if not unseen or seen is None:
            return []
        nameless = [one for one in unseen if not (one.name or one.text)]
        silent = replace(self.element, seen=replace(seen, name="", text="", own=""), lookalikes=())
        found = propose(silent, nameless, most=1) if nameless else []
        named = [one for one in unseen if one.name or one.text]
        found += propose(self.element, named, most=1) if named else []
        return [one for one in found if one.score >= LIKELY]

    @cached_property
    def _others_before(self) -> frozenset[tuple[object, ...]]:
        own = found_by(self.element, self.green)
        if not own:  # its clues are others by now: what it was there has to be found by likeness
            own = [one.facts for one in propose(self.element, self.green, most=1) if one.high]
        if not own:
            return frozenset()
        return frozenset(map(_shape, self.green)) - set(map(_shape, own))


@dataclass(frozen=True)
class Answer:
    """Why it was not found: in words, how likely (0 to 1), and the nodes that show it.

    `act` can be done about it, called `label`, with what is `given` for it.
    """

    cause: Cause
    told: str
    share: float
    nodes: tuple[Facts, ...] = ()
    act: Act = ""
    label: str = ""
    given: Mapping[str, Any] = field(default_factory=dict)
