"""Templates of reports: which parts each has, and for whom."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lantern.core.problems import UnknownName

Part = Literal[
    "facts", "shares", "matrix", "changes", "causes", "defects", "comments", "failures", "rows",
    "pictures", "strip", "days", "pace",
]  # fmt: skip


@dataclass(frozen=True)
class Template:
    """Which parts a report has, for whom; what is told of it, and of such a report of trends."""

    title: str
    told: str
    of_trends: str
    parts: frozenset[Part]

    @property
    def pictured(self) -> bool:
        """Whether pictures are needed."""
        return bool(self.parts & {"pictures", "strip"})


_ALWAYS: tuple[Part, ...] = ("facts", "causes", "comments")
TEMPLATES: dict[str, Template] = {
    "full": Template(
        "Full",
        "Every row and sentence, with pictures and a film strip",
        "Every day and test, and what gets slower",
        frozenset({*_ALWAYS, "matrix", "changes", "defects", "failures", "rows", "pictures",
                   "strip", "days", "pace"}),
    ),
    "short": Template(
        "Short",
        "What failed and why, without pictures",
        "How tests stand, and what gets slower",
        frozenset({*_ALWAYS, "matrix", "failures", "pace"}),
    ),
    "managers": Template(
        "For managers",
        "How it stands, what changed, which defects there are",
        "How tests stand, day by day",
        frozenset({*_ALWAYS, "shares", "matrix", "changes", "defects", "days"}),
    ),
}  # fmt: skip
"""Every template by its name."""


def template(name: str) -> Template:
    """Return a template; raises UnknownName."""
    if name not in TEMPLATES:
        raise UnknownName("template", name, TEMPLATES, where="template")
    return TEMPLATES[name]
