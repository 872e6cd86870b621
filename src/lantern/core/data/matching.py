"""Which row of a table that is taken in is which row that there is.

What a row knows (its expected values, its tick) must never go to another row, so rows are the same
only where that is sure: by columns that tell them apart, never by a number or a date that happens
to agree. What is unsure is a new row, and the old one goes.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

from lantern.core.data.table import PLAIN, Row, Trait, guess
from lantern.core.problems import UnknownName

BY_PLACE = "by place"
ALL_NEW = "all new"
ENOUGH = 0.5
"""Share of the shorter table's rows that have to be in the other for columns to be proposed."""
MOST_TOGETHER = 3
"""Columns that are proposed together at the most."""
MOST_TRIED = 12
"""Columns among which those are looked for."""
Values = Mapping[str, str]


@dataclass(frozen=True)
class Match:
    """How rows are told to be the same: by columns together, `by_place`, or (neither) never."""

    columns: tuple[str, ...] = ()
    by_place: bool = False

    @classmethod
    def read(cls, text: str, common: Sequence[str]) -> Match:
        """Read names of columns with commas between, BY_PLACE or ALL_NEW.

        Raises UnknownName for a column that is not in both tables.
        """
        if text in (BY_PLACE, ALL_NEW):
            return cls(by_place=text == BY_PLACE)
        names = tuple(dict.fromkeys(name.strip() for name in text.split(",") if name.strip()))
        for name in names:
            if name not in common:
                raise UnknownName("column in both tables", name, common, where="match")
        return cls(names)

    def __str__(self) -> str:
        """Return the text that `read` accepts."""
        return BY_PLACE if self.by_place else ", ".join(self.columns) or ALL_NEW


def key_of(values: Values, columns: Sequence[str]) -> tuple[str, ...]:
    """Return the values by which a row is told from others."""
    return tuple(values.get(name, "") for name in columns)


def propose(
    common: Sequence[str], traits: Mapping[str, Trait], rows: Sequence[Row], taken: Sequence[Values]
) -> Match:
    """Return how the rows of two tables can be held against each other, ALL_NEW when unsure.

    What a row is called stands on the left as a rule: other columns do not tell which row it is
    where most of the rows that they make the same are called otherwise there.
    """
    texts = [name for name in common if _tells(name, traits, rows, taken)]
    tried = [*texts, *(name for name in common if name not in texts and _may(name, traits))]
    for size in range(1, MOST_TOGETHER + 1):
        choices = [
            columns
            for columns in combinations(tried[:MOST_TRIED], size)
            if any(name in texts for name in columns)
            and (texts[0] in columns or _agree(columns, texts[0], rows, taken))
        ]
        counted = [(_in_common(columns, rows, taken), columns) for columns in choices]
        best = max(counted, key=lambda one: one[0], default=(0.0, ()))
        if best[0] >= ENOUGH:
            return Match(best[1])
    return Match(tuple(common)) if texts else Match()


def _may(name: str, traits: Mapping[str, Trait]) -> bool:
    """Tell whether a column can say which row one is: not what is expected of it."""
    return traits.get(name, PLAIN).role not in ("expected", "browser")


def _tells(
    name: str, traits: Mapping[str, Trait], rows: Sequence[Row], taken: Sequence[Values]
) -> bool:
    """Tell whether a column holds texts, which do not agree by chance as numbers and dates do."""
    if not _may(name, traits):
        return False
    values = [*(row.values.get(name, "") for row in rows), *(one.get(name, "") for one in taken)]
    return any(values) and guess(values) == "text"


def _in_common(columns: Sequence[str], rows: Sequence[Row], taken: Sequence[Values]) -> float:
    """Return the share of the shorter table that is in the other; 0 where rows are not apart."""
    ours = {key_of(row.values, columns) for row in rows}
    theirs = {key_of(values, columns) for values in taken}
    if not ours or not theirs or len(ours) < len(rows) or len(theirs) < len(taken):
        return 0.0
    return len(ours & theirs) / min(len(ours), len(theirs))


def _agree(columns: Sequence[str], lead: str, rows: Sequence[Row], taken: Sequence[Values]) -> bool:
    """Tell whether most rows that are the same by some columns agree in another."""
    ours = {key_of(row.values, columns): row.values.get(lead, "") for row in rows}
    called = [
        ours[key] == values.get(lead, "")
        for values in taken
        if (key := key_of(values, columns)) in ours
    ]
    return sum(called) >= ENOUGH * len(called)


def pairs(
    match: Match, common: Sequence[str], rows: Sequence[Row], taken: Sequence[Values]
) -> dict[int, int]:
    """Return for rows that are taken in which row that there is they are, by their places."""
    if match.by_place:
        return {n: n for n in range(min(len(rows), len(taken)))}
    if not match.columns:
        return {}
    ours, theirs = defaultdict(list), defaultdict(list)
    for n, row in enumerate(rows):
        ours[key_of(row.values, match.columns)].append(n)
    for n, values in enumerate(taken):
        theirs[key_of(values, match.columns)].append(n)
    found: dict[int, int] = {}
    for key, places in theirs.items():
        if not any(key):
            continue  # nothing says which row it is
        if len(places) == len(ours[key]) == 1:
            found[places[0]] = ours[key][0]
        else:
            found.update(_twins(places, ours[key], common, rows, taken))
    return found


def _twins(
    places: Sequence[int],
    others: Sequence[int],
    common: Sequence[str],
    rows: Sequence[Row],
    taken: Sequence[Values],
) -> dict[int, int]:
    """Pair rows that nothing tells apart: those that are equal in all, as many here as there."""
    whole = [key_of(taken[n], common) for n in places]
    whole_ours = [key_of(rows[n].values, common) for n in others]
    counts, counts_ours = Counter(whole), Counter(whole_ours)
    found: dict[int, int] = {}
    for value, count in counts.items():
        if count == counts_ours[value]:
            mine = [n for n, key in zip(places, whole, strict=True) if key == value]
            theirs = [n for n, key in zip(others, whole_ours, strict=True) if key == value]
            found.update(zip(mine, theirs, strict=True))
    return found
