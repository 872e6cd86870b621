"""How long things are kept: which runs, pictures and versions rules would free."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import asdict, dataclass, fields
from datetime import datetime, timedelta
from typing import Any, Literal

from lantern.core.problems import BadInput

LONGEST = 36_500
"""Days that a rule can name at the most."""
A_YEAR = timedelta(days=365)
Kind = Literal["tries", "passed", "failed"]


@dataclass(frozen=True)
class Rules:
    """Days for which things are kept; 0 keeps them for good.

    `least` is how many of a test's newest runs on record stay anyway. `pictures` are those of
    passed rows; `versions` the days for which each version stays: of older ones the last of each
    day stays, of those older than a year the last of each month.
    """

    tries: int = 0
    passed: int = 0
    failed: int = 0
    least: int = 20
    pictures: int = 0
    pages: int = 0
    versions: int = 0

    def __post_init__(self) -> None:
        """Raise BadInput for what is no number of days."""
        for one in fields(self):
            number = getattr(self, one.name)
            if isinstance(number, bool) or not isinstance(number, int):
                raise BadInput(f"{one.name} is kept for a number of days.", where=one.name)
            if not 0 <= number <= LONGEST:
                raise BadInput(
                    f"Things are kept for 1 to {LONGEST:,} days.",
                    where=one.name,
                    hint="0 keeps them for good.",
                )
        if self.failed and (not self.passed or self.passed > self.failed):
            raise BadInput(
                "Runs that failed are kept at least as long as those that passed.",
                where="failed",
                hint="They are what is looked for later.",
            )

    def as_json(self) -> dict[str, Any]:
        """Return the rules as a JSON object."""
        return asdict(self)

    @classmethod
    def read(cls, raw: dict[str, Any]) -> Rules:
        """Return rules from their JSON; raises BadInput."""
        return cls(**{one.name: raw.get(one.name, one.default) for one in fields(cls)})


SUGGESTED = Rules(tries=30, passed=180, failed=730, least=20, pictures=60, pages=180, versions=90)
"""What is proposed to who has no rules yet."""


@dataclass(frozen=True)
class RunFact:
    """What is known of a run that is over: `held` when a person, a defect or a baseline needs it.

    `test` is None when its test is gone; `at` when it ended.
    """

    id: int
    test: int | None
    kind: Kind
    at: datetime
    held: bool = False


def kind_of(run_kind: str, state: str) -> Kind:
    """Return as what a run is kept: what was cancelled says as little as what passed."""
    if run_kind == "try":
        return "tries"
    return "passed" if state in ("passed", "cancelled") else "failed"


def runs_to_free(runs: Iterable[RunFact], rules: Rules, now: datetime) -> list[RunFact]:
    """Return the runs that are older than their rule says, the oldest first.

    What is held stays, as do the newest `least` runs on record of each test (always the last one).
    """
    newest = sorted(runs, key=lambda run: (run.at, run.id), reverse=True)
    before: dict[int | None, int] = {}
    freed = []
    for run in newest:
        if run.kind != "tries":
            before[run.test] = before.get(run.test, 0) + 1
            if run.test is not None and before[run.test] <= max(1, rules.least):
                continue
        days = getattr(rules, run.kind)
        if days and not run.held and run.at < now - timedelta(days=days):
            freed.append(run)
    return freed[::-1]


def versions_to_free(
    versions: Sequence[tuple[int, datetime]], held: Collection[int], rules: Rules, now: datetime
) -> list[int]:
    """Return the numbers of a test's versions that are thinned out.

    `versions` are numbers and times of all there are. The first, the newest and what is `held`
    stay; of the others that are older than the rule's days the last of each day stays, of those
    older than a year the last of each month.
    """
    if not rules.versions:
        return []
    newest = sorted(versions, reverse=True)
    stay = {newest[0][0], newest[-1][0], *held} if newest else set()
    lasts: set[tuple[int, ...]] = set()
    freed = []
    for number, at in newest:
        age = now - at
        if age <= timedelta(days=rules.versions):
            continue
        month = (at.year, at.month)
        span = month if age > A_YEAR else (*month, at.day)
        if span in lasts and number not in stay:
            freed.append(number)
        lasts.add(span)
    return freed[::-1]
