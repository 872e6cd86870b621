"""Telling names that a program made up (and will make up anew) from names that people chose."""

from __future__ import annotations

import re
from typing import Literal

Made = Literal["", "counted", "noise"]

_NOISE = re.compile(
    r"""
    [0-9a-f]{8}-[0-9a-f]{4}                  # a uuid
    | ^:[a-z0-9]+:$ | ^«\w+»$                # framework ids between marks
    | \d{3,}                                 # long counters, time stamps
    | (?:^|[-_:.])[a-z]*\d+[a-z]+\d*\w*$     # a mixed token at the end: css-1x2y3
    | (?:^|[-_])(?=[0-9a-f]*\d)[0-9a-f]{6,}  # a hash
    | ^[a-z]{1,2}[-_]?\d+$                   # f-1, u7: no word in it
    """,
    re.VERBOSE | re.IGNORECASE,
)
_COUNTED = re.compile(r"[-_:.]?\d+$|[-_]\d+[-_]")
LONGEST_PATTERN = 80
_NUMBER = re.compile(r"\d+")


def how_made(value: str) -> Made:
    """Tell how an id or a name was made.

    "" for one that a person chose, "counted" for a word with a number (row-7: kept by some
    programs, made anew by others), "noise" for hashes, time stamps and the like.
    """
    if _NOISE.search(value) or _mixed_case_noise(value):
        return "noise"
    return "counted" if _COUNTED.search(value) else ""


def looks_generated(value: str) -> bool:
    """Tell whether an id or a name looks made by a program rather than chosen by a person."""
    return how_made(value) != ""


_STATES = frozenset(
    "active open opened closed focus focused hover hovered selected checked disabled enabled show "
    "shown hidden hide visible invisible expanded collapsed collapse current loading loaded "
    "pressed highlight highlighted first last odd even empty dragging error valid invalid dirty "
    "pristine touched untouched in out enter leave is has was".split()
)
"""Words of classes that tell the state in which a thing is."""
_LOOK = re.compile(
    r"^[a-z]{1,3}-?\d|[:\[\]/.!]|^(?:flex|grid|block|inline|row|col|container|btn|button|input|"
    r"form-control|text|bg|border|rounded|relative|absolute|fixed|sticky|clearfix|wrapper|inner|"
    r"outer|content|item|icons?|root|svg)$",
)


def tells_what(word: str) -> bool:
    """Tell whether a class says what a thing is: not its state, its looks or a program's hash."""
    return (
        len(word) >= 3
        and how_made(word) == ""
        and not any(map(str.isdigit, word))
        and not _STATES & {*as_words(word).split()}
        and not _LOOK.search(word)
    )


def as_words(made: str) -> str:
    """Return a name that programs use as words: "card__menuIcon" gives "card menu icon"."""
    spaced = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", made)
    return " ".join(re.split(r"[\s\-_.:]+", spaced)).strip().lower()


def _mixed_case_noise(value: str) -> bool:
    """Hash-like tokens such as sc-bdVaJa change case often inside a short token."""
    for token in re.split(r"[-_]+", value):
        changes = len(re.findall(r"[a-z][A-Z]", token))
        if len(token) in range(5, 9) and changes >= 2:
            return True
    return False


def pattern_of(text: str) -> str:
    r"""Return a regular expression for a text in which its numbers are open, "" without numbers.

    "Firing no. 5" gives `^Firing no\. \d+$`. A text with nothing but a number has no pattern:
    it would fit every number; a long text has none, because its pattern would say too much.
    """
    if (
        len(text) > LONGEST_PATTERN
        or not _NUMBER.search(text)
        or not re.search(r"[^\W\d_]{2}|[€$£%°]", text)
    ):
        return ""
    pieces = [re.escape(piece).replace("\\ ", " ") for piece in _NUMBER.split(text)]
    return "^" + r"\d+".join(pieces) + "$"
