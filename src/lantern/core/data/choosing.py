"""Which rows of a table to run: all, one, from-to, several, the ticked ones, or by a condition."""

from __future__ import annotations

import re
from collections.abc import Sequence

from lantern.core.data.variations.rules import Words, holds, read_rule
from lantern.core.problems import BadInput
from lantern.core.steps.model import Row

_PART = re.compile(r"(\d+)(?:\s*[-–]\s*(\d+)?)?\Z")
_WHERE = "where "
WORDS = Words("condition", "column", "rows", "Write for example: clay = raku and count > 5")
HINT = "Write all, ticked, 3, 2-5, 4-, 1,3,6-8 or where clay = raku."


def choose_rows(rows: Sequence[Row], choice: str) -> list[int]:
    """Return the places (from 0) of the rows that `choice` names, in table order, each once.

    `choice` is "all", "ticked", a list of numbers (from 1) and ranges, or "where" with a
    condition on the columns as core.data.variations.rules reads it. A test without rows has
    nothing to choose and gives an empty list. Raises BadInput when the choice names no row.
    """
    if not rows:
        return []
    if choice.strip().lower().startswith(_WHERE):
        return _fitting(rows, choice.strip()[len(_WHERE) :])
    choice = choice.strip().lower() or "all"
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


def _fitting(rows: Sequence[Row], condition: str) -> list[int]:
    columns = list(dict.fromkeys(name for row in rows for name in row.values))
    values = {name: list({row.values.get(name, ""): None for row in rows}) for name in columns}
    places = {name: {value: n for n, value in enumerate(known)} for name, known in values.items()}
    rule = read_rule(condition, values, WORDS)

    def fits(row: Row) -> bool:
        return holds(rule.condition, [places[name][row.values.get(name, "")] for name in columns])

    chosen = [place for place, row in enumerate(rows) if fits(row)]
    if not chosen:
        raise BadInput(f"No row is so that {condition.strip()}.", where="rows", hint=HINT)
    return chosen
