"""What differs between two versions of a test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any, Literal

from lantern.core.steps.model import Document, Step

What = Literal["added", "removed", "changed", "moved"]
_LOOKS = frozenset({"picture", "box", "page", "idle"})
"""Parts of a step that say how it was recorded, not what it does."""


@dataclass(frozen=True)
class StepChange:
    """A step that differs; `before` is None for an added one, `after` for a removed one.

    `parts` names the parts that changed.
    """

    what: What
    before: Step | None
    after: Step | None
    parts: tuple[str, ...] = ()


@dataclass(frozen=True)
class Difference:
    """All that differs: steps in reading order; in words what of the table and the settings."""

    steps: tuple[StepChange, ...]
    others: tuple[str, ...]

    @property
    def nothing(self) -> bool:
        """Whether the two are the same."""
        return not self.steps and not self.others


def difference(before: Document, after: Document) -> Difference:
    """Return what changed from one version to the other."""
    others = [*_table(before, after), *_settings(before, after)]
    if (before.takes, before.gives) != (after.takes, after.gives):
        others.append("inputs and outputs of the flow")
    return Difference(tuple(_steps(before.steps, after.steps)), tuple(others))


def _meaning(step: Step) -> dict[str, Any]:
    return {name: value for name, value in step.as_json().items() if name not in _LOOKS}


def _steps(before: Sequence[Step], after: Sequence[Step]) -> list[StepChange]:
    old = {step.id: step for step in before}
    new = {step.id: step for step in after}
    stayed = _stayed([step.id for step in before], [step.id for step in after])
    found: list[tuple[float, StepChange]] = []
    for place, step in enumerate(after):
        was = old.get(step.id)
        if was is None:
            found.append((place, StepChange("added", None, step)))
            continue
        one, other = _meaning(was), _meaning(step)
        parts = tuple(name for name in one if one[name] != other[name])
        if parts:
            found.append((place, StepChange("changed", was, step, parts)))
        elif step.id not in stayed:
            found.append((place, StepChange("moved", was, step)))
    places = {step.id: place for place, step in enumerate(after)}
    last = -1.0
    for step in before:
        if step.id in new:
            last = places[step.id]
        else:
            found.append((last + 0.5, StepChange("removed", step, None)))
    return [change for _, change in sorted(found, key=lambda entry: entry[0])]


def _stayed(before: Sequence[str], after: Sequence[str]) -> set[str]:
    matcher = SequenceMatcher(None, before, after, autojunk=False)
    return {before[m.a + n] for m in matcher.get_matching_blocks() for n in range(m.size)}


def _table(before: Document, after: Document) -> list[str]:
    found = [f"column {name} added" for name in after.columns if name not in before.columns]
    found += [f"column {name} removed" for name in before.columns if name not in after.columns]
    old = {row.id: dict(row.values) for row in before.rows}
    new = {row.id: dict(row.values) for row in after.rows}
    counts = {
        "added": len(new.keys() - old.keys()),
        "removed": len(old.keys() - new.keys()),
        "changed": sum(old[key] != new[key] for key in old.keys() & new.keys()),
    }
    for what, count in counts.items():
        if count:
            found.append(f"{count} {'row' if count == 1 else 'rows'} {what}")
    return found


def _settings(before: Document, after: Document) -> list[str]:
    one, other = before.settings.as_json(), after.settings.as_json()
    return [
        f"{name.replace('_', ' ')}: {one[name]} before, {other[name]} now"
        for name in one
        if one[name] != other[name]
    ]


def suspects(before: Document, after: Document, failed: str) -> list[StepChange]:
    """Return the changes that can have made a step fail: those of it and of what comes before."""
    order = {step.id: place for place, step in enumerate(after.steps)}
    if failed not in order:
        return []
    changes = difference(before, after).steps
    found = []
    for change in changes:
        if change.after is not None:
            if order[change.after.id] <= order[failed]:
                found.append(change)
        elif change.before is not None and _stood_before(change.before, before, order, failed):
            found.append(change)
    return found


def _stood_before(gone: Step, before: Document, order: dict[str, int], failed: str) -> bool:
    """Tell whether a removed step stood before the failed one."""
    rest = before.steps[before.steps.index(gone) + 1 :]
    following = next((step.id for step in rest if step.id in order), None)
    return following is not None and order[following] <= order[failed]
