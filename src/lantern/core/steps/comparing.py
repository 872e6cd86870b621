"""What differs between two versions of a test."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any, Literal

from lantern.core.problems import Problem
from lantern.core.steps.model import Document, Step
from lantern.core.values.sources import Names
from lantern.core.values.templates import resolve

What = Literal["added", "removed", "changed", "moved"]
NO_VALUES: Mapping[str, str] = {}
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
    others += [f"label {one} added" for one in after.labels if one not in before.labels]
    others += [f"label {one} removed" for one in before.labels if one not in after.labels]
    if before.needs != after.needs:
        others.append(f"needs of a station: {', '.join(after.needs) or 'nothing'}")
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
        if was == step and step.id in stayed:
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
    old, new = set(before), set(after)
    if [key for key in before if key in new] == [key for key in after if key in old]:
        return old & new  # the usual case, and much faster
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


def suspects(
    before: Document, after: Document, failed: str, values: Mapping[str, str] = NO_VALUES
) -> list[StepChange]:
    """Return the changes that can have made a step fail, the likeliest first.

    Those are changes of it and of what comes before it, but for those that played what the
    baseline says: with the row's `values` they read as before. First comes the sentence itself,
    then what gives it a value or acts on the same element, then its page, the nearest first.
    """
    order = {step.id: place for place, step in enumerate(after.steps)}
    if failed not in order:
        return []
    changes = difference(before, after).steps
    found: list[tuple[tuple[int, int], StepChange]] = []
    target = after.steps[order[failed]]
    for change in changes:
        if change.after is not None:
            place = order[change.after.id]
            if place <= order[failed] and not _played_as_before(change, values):
                found.append(((_likely(change.after, target), order[failed] - place), change))
        elif change.before is not None and _stood_before(change.before, before, order, failed):
            found.append(((_likely(change.before, target), len(order)), change))
    return [change for _, change in sorted(found, key=lambda one: one[0])]


def _played_as_before(change: StepChange, values: Mapping[str, str]) -> bool:
    """Tell whether a changed sentence did in a row what it did before it was changed."""
    if change.before is None or change.after is None or set(change.parts) != {"inputs"}:
        return False

    def played(step: Step) -> dict[str, str] | None:
        names = Names(row=values)
        try:
            return {name: resolve(value, names) for name, value in step.inputs.items()}
        except Problem:
            return None  # it depends on more than the row

    was = played(change.before)
    return was is not None and was == played(change.after)


def _likely(step: Step, failed: Step) -> int:
    """Return how likely a sentence makes another fail: 0 is the likeliest."""
    if step.id == failed.id:
        return 0
    name = step.inputs.get("name", "")
    gives = bool(name) and any(f".{name}}}" in value for value in failed.inputs.values())
    if gives or (step.element and step.element in (failed.element, failed.onto)):
        return 1
    return 2 if step.page == failed.page else 3


def _stood_before(gone: Step, before: Document, order: dict[str, int], failed: str) -> bool:
    """Tell whether a removed step stood before the failed one."""
    rest = before.steps[before.steps.index(gone) + 1 :]
    following = next((step.id for step in rest if step.id in order), None)
    return following is not None and order[following] <= order[failed]
