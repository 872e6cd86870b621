"""Requirements: what tests and rows cover of them, and how that came out on each release.

A test covers what its labels name in the form of the project; a row what its cell says in the
column that the project has for it, such as "EMB-12, EMB-14".
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from lantern.core.patterns import check_pattern, fullmatch
from lantern.core.problems import BadInput

MOST = 20_000
LONGEST_ID = 80
LONGEST_TITLE = 300
USUAL_FORM = r"[A-Z][A-Z0-9]*-\d+"
_APART = re.compile(r"[,;\s]+")


@dataclass(frozen=True)
class Scheme:
    """How requirements are named: the `form` of their ids as a regular expression, the `column`.

    `address` is where they live, with {id} in it, "" for nowhere; `known` are all there are, with
    their titles.
    """

    form: str = USUAL_FORM
    column: str = "covers"
    address: str = ""
    known: Mapping[str, str] = field(default_factory=dict)

    def check(self) -> None:
        """Raise BadInput where the form is no expression, or the address has no place for an id."""
        check_pattern(self.form, "form")
        if self.address and "{id}" not in self.address:
            raise BadInput(
                "The address has no place for the id.",
                where="address",
                hint="Write {id} where it goes, as in https://wiki.example/{id}",
            )
        if self.address and not self.address.startswith(("http://", "https://")):
            raise BadInput("The address begins with http:// or https://.", where="address")

    def named_by(self, labels: Iterable[str]) -> tuple[str, ...]:
        """Return the labels that are ids of requirements."""
        return tuple(one for one in labels if fullmatch(one, self.form))

    def named_in(self, values: Mapping[str, object]) -> tuple[str, ...]:
        """Return the ids that a row names in its column."""
        said = next(
            (str(value) for name, value in values.items() if name.lower() == self.column.lower()),
            "",
        )
        return tuple(dict.fromkeys(one for one in _APART.split(said) if one))

    def link(self, key: str) -> str:
        """Return where a requirement lives, or ""."""
        return self.address.replace("{id}", key) if self.address else ""


def read_known(rows: Sequence[Mapping[str, str]]) -> dict[str, str]:
    """Return titles by id from the rows of a CSV: its first column is the id, its second the title.

    Raises BadInput, with the row, for an id that is missing or too long, or for too many.
    """
    found: dict[str, str] = {}
    for number, row in enumerate(rows, 1):
        key, *more = [value.strip() for value in row.values()] or [""]
        if not key and not any(more):
            continue
        if not key or len(key) > LONGEST_ID:
            raise BadInput(f"Row {number} has no id, or a very long one.", where=f"row {number}")
        found[key] = (more[0] if more else "")[:LONGEST_TITLE]
    if len(found) > MOST:
        raise BadInput(f"That is more than {MOST:,} requirements.", where="rows")
    return found


@dataclass(frozen=True)
class Covering:
    """A row of a test that covers requirements, as it was played last on a release.

    `outcome` is "" where it was never played.
    """

    test: int
    ids: tuple[str, ...]
    release: str = ""
    outcome: str = ""
    run: int = 0
    at: datetime | None = None


@dataclass(frozen=True)
class Standing:
    """How a requirement came out on a release: the worst of the rows that cover it, and its run."""

    outcome: str
    run: int
    rows: int


@dataclass
class Requirement:
    """A requirement: the tests that cover it, and how it stands, by release."""

    id: str
    title: str = ""
    tests: set[int] = field(default_factory=set)
    releases: dict[str, Standing] = field(default_factory=dict)


_WORST = ("failed", "interrupted", "cancelled", "unsteady", "passed")


def matrix(scheme: Scheme, rows: Iterable[Covering]) -> list[Requirement]:
    """Return all requirements that are known or covered, by id."""
    found = {key: Requirement(key, title) for key, title in scheme.known.items()}
    for row in rows:
        for key in row.ids:
            one = found.setdefault(key, Requirement(key))
            one.tests.add(row.test)
            if row.outcome:
                one.releases[row.release] = _worse(one.releases.get(row.release), row)
    return sorted(found.values(), key=lambda one: _natural(one.id))


def _worse(known: Standing | None, row: Covering) -> Standing:
    own = Standing(row.outcome, row.run, 1)
    if known is None:
        return own
    worse = min(known, own, key=lambda one: _rank(one.outcome))
    return Standing(worse.outcome, worse.run, known.rows + 1)


def _rank(outcome: str) -> int:
    return _WORST.index(outcome) if outcome in _WORST else len(_WORST)


def _natural(text: str) -> list[tuple[int, str]]:
    """Return what sorts "EMB-9" before "EMB-12"."""
    parts = re.split(r"(\d+)", text)
    return [(int(part), "") if part.isdecimal() else (0, part.casefold()) for part in parts]


def releases_of(found: Iterable[Requirement], seen: Mapping[str, datetime]) -> list[str]:
    """Return the releases of a matrix, the newest first, by when each was seen first."""
    named = {release for one in found for release in one.releases}
    return sorted(named, key=lambda one: (seen.get(one) is None, seen.get(one)), reverse=True)
