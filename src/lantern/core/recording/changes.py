"""What recording changes in a story."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from lantern.core.recording.proposals import Proposal, Waited


@dataclass(frozen=True)
class Add:
    """A new step; `key` identifies it for later changes. `secret` is a password as typed.

    `waited` is what the person waited for before they did it.
    """

    key: int
    action: str
    inputs: Mapping[str, str]
    element: Proposal | None
    page: str
    secret: str | None = field(default=None, repr=False)
    onto: Proposal | None = None
    waited: Waited | None = None


@dataclass(frozen=True)
class Update:
    """New parts of a step that was added before; the action "" stays what it is."""

    key: int
    action: str
    inputs: Mapping[str, str]
    secret: str | None = field(default=None, repr=False)


@dataclass(frozen=True)
class Gone:
    """A step that was added before and turns out to be part of a later one."""

    key: int


@dataclass(frozen=True)
class Idle:
    """A step that was added before did nothing on the page."""

    key: int


Change = Add | Update | Gone | Idle
