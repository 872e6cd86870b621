"""Regular expressions that people write: compiled once, and never for longer than a moment."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import regex

from lantern.core.problems import BadInput

LONGEST = 0.5
"""Seconds that one search may take: an expression can be written so that it never ends."""


@lru_cache(maxsize=256)
def _compiled(pattern: str, loose: bool) -> Any:  # noqa: ANN401 - the package has no types
    return regex.compile(pattern, regex.IGNORECASE if loose else 0)


def check_pattern(pattern: str, where: str = "") -> None:
    """Raise BadInput, with what is wrong, for a text that is not a regular expression."""
    try:
        _compiled(pattern, False)
    except regex.error as error:
        raise BadInput(
            f"The regular expression {pattern!r} does not compile: {error}.", where=where
        ) from error


def matches(text: str, pattern: str, *, loose: bool = False) -> bool:
    """Tell whether a regular expression matches anywhere in a text; `loose` ignores case.

    Raises BadInput when it does not compile, or needs more than `LONGEST` seconds.
    """
    return _tried("search", text, pattern, loose=loose)


def fullmatch(text: str, pattern: str) -> bool:
    """Tell whether a regular expression matches a text as a whole; raises as `matches` does."""
    return _tried("fullmatch", text, pattern)


def _tried(how: str, text: str, pattern: str, *, loose: bool = False) -> bool:
    check_pattern(pattern)
    try:
        return getattr(_compiled(pattern, loose), how)(text, timeout=LONGEST) is not None
    except TimeoutError as error:
        raise BadInput(
            f"The regular expression {pattern!r} takes too long on “{text[:40]}”.",
            hint="Repeats inside repeats are slow, such as (a+)+: write it without.",
        ) from error
