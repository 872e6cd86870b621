"""Labels of tests: short words by which people sort them, several each."""

from __future__ import annotations

from collections.abc import Iterable

from lantern.core.problems import BadInput

LONGEST_LABEL = 40
MOST_LABELS = 30


def check_label(text: object) -> str:
    """Return a label with its white space tidied; raises BadInput for what can not be one."""
    label = " ".join(str(text).split())
    if not label or len(label) > LONGEST_LABEL or "," in label:
        raise BadInput(
            f"“{label[:LONGEST_LABEL]}” can not be a label.",
            where="labels",
            hint=f"A label has 1 to {LONGEST_LABEL} characters and no comma.",
        )
    return label


def read_labels(raw: Iterable[object]) -> tuple[str, ...]:
    """Return labels sorted, each once whatever its case; raises BadInput, also for too many."""
    if isinstance(raw, str):
        raise BadInput("Labels are a list.", where="labels")
    found: dict[str, str] = {}
    for one in raw:
        label = check_label(one)
        found.setdefault(label.casefold(), label)
    if len(found) > MOST_LABELS:
        raise BadInput(f"A test has up to {MOST_LABELS} labels.", where="labels")
    return tuple(found[key] for key in sorted(found))


def relabelled(
    labels: Iterable[str], add: Iterable[object], remove: Iterable[object]
) -> tuple[str, ...]:
    """Return labels with some added and some removed; raises BadInput as `read_labels` does."""
    gone = {check_label(one).casefold() for one in remove}
    return read_labels([*(one for one in labels if one.casefold() not in gone), *add])
