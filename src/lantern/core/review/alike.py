"""How alike two failures are by what their pages showed and said, whatever tests they are of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from rapidfuzz import fuzz

from lantern.core.elements.facts import Facts
from lantern.core.review.defects import Failure
from lantern.core.review.texts import opened, shared, texts

SAYING = frozenset({"alert", "status", "alertdialog", "log"})
"""Roles of what a page says by itself (WAI-ARIA 1.2, live regions and alert dialogs)."""
MOST_LINES = 300
WEIGHTS = {"said": 0.40, "page": 0.15, "lines": 0.15, "message": 0.20, "reason": 0.10}
"""How much each part counts; parts that neither failure has do not count at all."""
LIKELY = 0.7
"""From here on two failures are likely the same."""
NEARLY = 90.0
"""How alike messages are (0 to 100) from which that is worth telling."""


@dataclass(frozen=True)
class Shown:
    """What there was to see of a failure, with numbers open.

    `said` are the texts that the page said by itself, `lines` all its texts, `page` its title,
    `message` what the failure says, with quoted values open, `reason` its kind.
    """

    reason: str
    message: str
    page: str = ""
    said: frozenset[str] = frozenset()
    lines: frozenset[str] = frozenset()

    def write(self) -> dict[str, Any]:
        """Return it as JSON."""
        return {
            "reason": self.reason,
            "message": self.message,
            "page": self.page,
            "said": sorted(self.said),
            "lines": sorted(self.lines),
        }

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Shown:
        """Build it from JSON that `write` gave."""
        return cls(
            raw["reason"], raw["message"], raw["page"], frozenset(raw["said"]),
            frozenset(raw["lines"]),
        )  # fmt: skip


def shown(failure: Failure, page: str = "", nodes: Sequence[Facts] = ()) -> Shown:
    """Return what there was to see of a failure on a page with these nodes."""
    speaking = [node for node in nodes if node.role in SAYING and node.visible]
    said = frozenset(opened(node.text) for node in speaking if node.text.strip())
    lines = frozenset(sorted(texts(nodes) - said)[:MOST_LINES])
    return Shown(failure.reason, opened(failure.message), page, said, lines)


def likeness(one: Shown, other: Shown) -> tuple[float, tuple[str, ...]]:
    """Return how likely two failures are the same (0 to 1), and why in words."""
    close = fuzz.token_sort_ratio(one.message, other.message)
    parts: dict[str, float] = {
        "reason": float(one.reason == other.reason),
        "message": close / 100,
    }
    if one.page or other.page:
        parts["page"] = float(one.page == other.page)
    if one.said or other.said:
        parts["said"] = shared(one.said, other.said)
    if one.lines and other.lines:
        parts["lines"] = shared(one.lines, other.lines)
    whole = sum(WEIGHTS[name] for name in parts)
    share = sum(WEIGHTS[name] * value for name, value in parts.items()) / whole
    why = []
    if both := sorted(one.said & other.said, key=len):
        why.append(f"the page said “{both[-1]}” both times")
    if one.page and one.page == other.page:
        why.append(f"on the page “{one.page}”")
    if close >= NEARLY:
        why.append("it failed in the same words")
    return round(share, 3), tuple(why)
