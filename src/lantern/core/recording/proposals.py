"""What a recording proposes: elements that steps need, and what was waited for before them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from lantern.core.elements.clues import Clue
from lantern.core.elements.facts import Box, Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.naming import propose_name
from lantern.core.elements.suggesting import suggest
from lantern.core.recording.events import Event
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.values.templates import masked, named


@dataclass(frozen=True)
class Proposal:
    """An element that a step needs: how it is recognised, before it has an id."""

    kind: str
    name: str
    clues: tuple[Clue, ...]
    spare: tuple[Clue, ...]
    page: str
    box: Box
    seen: Facts | None = None
    lookalikes: tuple[Facts, ...] = ()

    def without(self, secrets: Mapping[str, str]) -> Proposal:
        """Return the proposal with secrets by their names in clues, and masked in all else."""

        def hide(text: str) -> str:
            return masked(text, secrets)

        def name_them(clues: tuple[Clue, ...]) -> tuple[Clue, ...]:
            return tuple(replace(clue, value=named(clue.value, secrets)) for clue in clues)

        if not secrets:
            return self
        return replace(
            self,
            name=hide(self.name),
            clues=name_them(self.clues),
            spare=name_them(self.spare),
            seen=self.seen and self.seen.masked(hide),
            lookalikes=tuple(facts.masked(hide) for facts in self.lookalikes),
        )


@dataclass(frozen=True)
class Waited:
    """What became so while a person waited before a step.

    `property` is what became "yes"; `element` what it became true of, None for the element that
    the step itself acts on.
    """

    property: Literal["shown", "enabled"]
    element: Proposal | None = None


def propose(
    facts: Facts, rivals: tuple[Facts, ...], page: str, avoid: tuple[str, ...] = ()
) -> Proposal:
    """Propose the element for a node: its kind, name and clues.

    `avoid` names facts by which it must not be found; what is checked does not name it either.
    """
    suggestion = suggest(facts, rivals, avoid=avoid)
    return Proposal(
        kind=kind_of(facts),
        name=name_for(facts, avoid),
        clues=suggestion.clues,
        spare=suggestion.spare,
        page=title_pattern(page),
        box=facts.box,
        seen=facts,
        lookalikes=suggestion.lookalikes,
    )


def name_for(facts: Facts, avoid: tuple[str, ...] = ()) -> str:
    """Return the name that a thing is proposed under; see `propose`."""
    return propose_name(_unsaid(facts) if "text" in avoid else facts)


def _unsaid(facts: Facts) -> Facts:
    """Return what is known of a message but for what it says: two messages are one element."""
    if facts.role not in MESSAGES and kind_of(facts) != "text":
        return facts
    name = facts.name if facts.name not in (facts.text, "") else ""
    return replace(facts, text="", own="", parts=0, name=name or MESSAGES.get(facts.role, ""))


MESSAGES = {"alert": "alert", "status": "message", "log": "log"}
"""Roles of what says something now and then, and what people call it."""


def waited_for(event: Event) -> Waited | None:
    """Return what the person most likely waited for; None when they did not wait.

    The thing itself that they turned to counts before all else, then what became enabled (it was
    there all the time, so somebody looked at it), then what appeared. What has neither name nor
    text would not be found again and does not count.
    """
    telling = [
        one
        for one in event.meanwhile
        if one.node is None or one.node.facts.name or one.node.facts.text
    ]
    telling.sort(key=lambda one: (one.node is not None, one.how != "enabled"))
    if not telling:
        return None
    how, node = telling[0].how, telling[0].node
    return Waited(how, propose(node.facts, node.rivals, event.page) if node else None)
