"""How steps and rows end."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from lantern.core.elements.facts import Box
from lantern.core.problems import BadInput

Outcome = Literal["passed", "failed", "skipped"]
Reason = Literal[
    "",
    "not found",
    "found several",
    "not ready",
    "check differed",
    "waited in vain",
    "code failed",
    "page error",
    "browser died",
    "lantern failed",
    "bad value",
]


class StepFailed(Exception):
    """A step failed; the message says in words what happened to which thing."""

    def __init__(
        self, reason: Reason, message: str, *, expected: str = "", found: str = "", hint: str = ""
    ) -> None:
        super().__init__(message)
        self.reason = reason
        self.message = message
        self.expected = expected
        self.found = found
        self.hint = hint


@dataclass
class Evidence:
    """What a step gathers while it runs.

    `thing` is what the node that it acted on is called, `around` what is known of its place.
    """

    lookups: list[dict[str, Any]] = field(default_factory=list)
    picture: str = ""
    box: Box | None = None
    expected: str = ""
    found: str = ""
    files: list[dict[str, Any]] = field(default_factory=list)
    kept: dict[str, str] = field(default_factory=dict)
    thing: str = ""
    around: tuple[str, ...] = ()


@dataclass(frozen=True)
class StepResult:
    """How one step ended. Times are in seconds; texts have secrets masked.

    `within` tells what it was played in, outermost first: flows and rounds of repeats;
    `attempts` how often it was carried out. `title` and `comment` are those that people gave the
    sentence; `thing` is what it really acted on, `contrary` tells where that is not what people
    call it. `late` is what a second look saw after a failure (core.engine.late), {} for none.
    """

    step_id: str
    position: int
    sentence: str
    outcome: Outcome
    reason: Reason = ""
    message: str = ""
    hint: str = ""
    expected: str = ""
    found: str = ""
    used: float = 0.0
    limit: float = 0.0
    lookups: Sequence[dict[str, Any]] = ()
    picture: str = ""
    box: Box | None = None
    files: Sequence[dict[str, Any]] = ()
    kept: Mapping[str, str] = field(default_factory=dict)
    within: tuple[str, ...] = ()
    attempts: int = 1
    title: str = ""
    comment: str = ""
    thing: str = ""
    contrary: str = ""
    late: Mapping[str, Any] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        """Return the result as a JSON object."""
        return asdict(self)

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> StepResult:
        """Read what `as_json` wrote; raises BadInput."""
        try:
            box = Box(**raw["box"]) if raw.get("box") else None
            return cls(**{**raw, "box": box, "within": tuple(raw.get("within") or ())})
        except (TypeError, ValueError) as error:
            raise BadInput("That is no result of a sentence.", hint=str(error)) from error
