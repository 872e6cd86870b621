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
    """Which parts a report has, for whom."""

    title: str
    told: str
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
        frozenset({*_ALWAYS, "matrix", "changes", "defects", "failures", "rows", "pictures",
                   "strip", "days", "pace"}),
    ),
    "short": Template(
        "Short",
        "What failed and why, without pictures",
        frozenset({*_ALWAYS, "matrix", "failures", "pace"}),
    ),
    "managers": Template(
        "For managers",
        "How it stands, what changed, which defects there are",
        frozenset({*_ALWAYS, "shares", "matrix", "changes", "defects", "days"}),
    ),
}  # fmt: skip
"""Every template by its name."""


def template(name: str) -> Template:
    """Return a template; raises UnknownName."""
    if name not in TEMPLATES:
        raise UnknownName("template", name, TEMPLATES, where="template")
    return TEMPLATES[name]
