"""Which rows of a table to run: all, one, from-to, several, or the ticked ones."""

from __future__ import annotations

import re
from collections.abc import Sequence

from lantern.core.problems import BadInput
from lantern.core.steps.model import Row

_PART = re.compile(r"(\d+)(?:\s*[-–]\s*(\d+)?)?\Z")
HINT = "Write all, ticked, 3, 2-5, 4- or 1,3,6-8."


def choose_rows(rows: Sequence[Row], choice: str) -> list[int]:
    """Return the places (from 0) of the rows that `choice` names, in table order, each once.

    `choice` is "all", "ticked" or a list of numbers (from 1) and ranges. A test without rows has
    nothing to choose and gives an empty list. Raises BadInput when the choice names no row.
    """
    choice = choice.strip().lower() or "all"
    if not rows:
        return []
    if choice == "all":
        return list(range(len(rows)))
    if choice == "ticked":
        chosen = [place for place, row in enumerate(rows) if row.ticked]
        if not chosen:
            raise BadInput("No row is ticked.", hint="Tick rows in the table, or run all.")
        return chosen
    places: set[int] = set()
    for part in choice.split(","):
        places.update(_range(part.strip(), len(rows)))
    return sorted(places)


def _range(part: str, count: int) -> range:
    match = _PART.match(part)
    if not match:
        raise BadInput(f"{part!r} does not name rows.", where="rows", hint=HINT)
    first = int(match.group(1))
    open_end = count if "-" in part or "–" in part else first
    last = int(match.group(2)) if match.group(2) else open_end
    if not 1 <= first <= last <= count:
        raise BadInput(
            f"Row {part} does not exist: the table has rows 1 to {count}.", where="rows", hint=HINT
        )
    return range(first - 1, last)
