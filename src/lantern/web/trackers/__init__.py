"""Outside trackers: what each kind is asked, behind one interface.

A kind of tracker is a class with these four methods and one entry in `KINDS`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Protocol

from lantern.core.review.handing import FieldMap, Seen
from lantern.store.models import Tracker
from lantern.store.vault import Vault
from lantern.web.trackers.rest import Rest
from lantern.web.trackers.said import Gone, Untaken

__all__ = ["KINDS", "Gone", "Outside", "Untaken", "speaking_to"]


class Outside(Protocol):
    """A tracker as Lantern speaks to it. Every method raises Untaken, or Gone for an item."""

    def create(self, values: Mapping[str, Any], reference: str) -> Seen:
        """Make an item; asked twice with one `reference`, it makes one item."""

    def update(self, key: str, values: Mapping[str, Any]) -> Seen:
        """Change parts of an item."""

    def comment(self, key: str, text: str, author: str, reference: str) -> None:
        """Say something of an item, in the name of a person."""

    def look(self, key: str) -> Seen:
        """Return how an item is."""

    def reach(self) -> None:
        """Find out whether the tracker can be spoken to, changing nothing."""


@dataclass(frozen=True)
class Kind:
    """A kind of tracker: what it is called, and how it is spoken to at an address."""

    title: str
    speak: Callable[[str, Mapping[str, str], FieldMap], Outside]


KINDS: dict[str, Kind] = {"rest": Kind("Plain REST", Rest)}


def speaking_to(tracker: Tracker, vault: Vault) -> Outside:
    """Return what speaks to a tracker; raises Problem where its token can not be read."""
    token = vault.open(tracker.sealed) if tracker.sealed else ""
    headers = {tracker.header: token} if token else {}
    mapping = FieldMap.read(tracker.mapping)
    return KINDS[tracker.kind].speak(tracker.address, headers, mapping)
