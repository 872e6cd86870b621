"""The error tree of the core.

Problem
├── BadInput          something a person wrote does not make sense
│   ├── UnknownName   a name that does not exist, with the names that do
│   └── Missing       a thing that is referred to is not there
└── Conflict          the thing changed since it was read
    └── BuiltOn       what is to be taken back was built on since
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from rapidfuzz import fuzz, process


class Problem(Exception):
    """An error with a message for people.

    `message` says what happened, `where` to which thing, `hint` what to do about it.
    """

    code = "problem"

    def __init__(self, message: str, *, where: str = "", hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.where = where
        self.hint = hint


class BadInput(Problem):
    """Something that a person wrote does not make sense."""

    code = "bad_input"


class Missing(BadInput):
    """A thing that is referred to does not exist."""

    code = "missing"


class Conflict(Problem):
    """The thing was changed by someone else since it was read."""

    code = "conflict"


def check_version(what: str, now: int, read: int) -> None:
    """Raise Conflict where a thing is not the version any more that its change was made on."""
    if now != read:
        raise Conflict(
            f"{what} was changed by someone else meanwhile.",
            hint="Look at what it is now; make your change again if it is needed.",
        )


class BuiltOn(Conflict):
    """What is to be taken back was changed again since; a person may insist."""

    code = "built_on"


class NearMiss(BadInput):
    """Something that is not among what is known: what was `said`, and what is `close` (or None)."""

    def __init__(
        self, message: str, said: str, close: str | None, *, where: str = "", hint: str = ""
    ) -> None:
        self.said, self.close = said, close
        super().__init__(message, where=where, hint=hint)


class UnknownName(NearMiss):
    """A name that does not exist; the message lists those that do and the nearest one."""

    code = "unknown_name"

    def __init__(self, what: str, name: str, known: Iterable[str], *, where: str = "") -> None:
        names = sorted(known)
        close = nearest(name, names)
        message = f"There is no {what} named {name!r}. Known: {listed(names) or 'none yet'}."
        hint = f"Did you mean {close}?" if close else ""
        super().__init__(message, name, close, where=where, hint=hint)


MOST_LISTED = 40
"""Names that a message lists."""


def listed(names: Sequence[str]) -> str:
    """Return names as a message lists them: the first ones, and how many more there are."""
    more = len(names) - MOST_LISTED
    said = ", ".join(names[:MOST_LISTED])
    return f"{said} and {more} more" if more > 0 else said


def nearest(name: str, known: Iterable[str], cutoff: float = 60.0) -> str | None:
    """Return the known name most like `name` (score of 0 to 100 at least `cutoff`), or None."""
    names = list(known)
    best = process.extractOne(name, names, scorer=fuzz.ratio, score_cutoff=cutoff)
    best = best or process.extractOne(name, names, score_cutoff=cutoff)  # parts of it, too
    return best[0] if best else None


def closest(name: str, known: Iterable[str], most: int = 5) -> list[str]:
    """Return the known names most like `name`, the nearest first; all of a few when none is."""
    names = list(dict.fromkeys(known))
    found = process.extract(name, names, scorer=fuzz.WRatio, score_cutoff=50.0, limit=most)
    return [one for one, _, _ in found] or (names if len(names) <= most else [])
