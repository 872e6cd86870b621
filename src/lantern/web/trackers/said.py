"""What can go wrong between Lantern and a tracker.

Untaken        the tracker did not take what it was told
└── Gone       it does not know the item (any more)
"""

from __future__ import annotations


class Untaken(Exception):
    """The tracker did not take it: `why`, and whether trying it again is no use (`for_good`)."""

    def __init__(self, why: str, *, for_good: bool = False) -> None:
        super().__init__(why)
        self.why = why
        self.for_good = for_good


class Gone(Untaken):
    """The tracker does not know the item."""
