"""Telling names that a program made up (and will make up anew) from names that people chose."""

from __future__ import annotations

import re

_MADE = re.compile(
    r"""
    [0-9a-f]{8}-[0-9a-f]{4}                # a uuid
    | ^:[a-z0-9]+:$                        # framework ids between colons
    | \d{3,}                               # long counters, time stamps
    | (?:^|[-_:.])[a-z]*\d+[a-z]+\d*\w*$   # a mixed token at the end: css-1x2y3
    | [-_:.]?\d+$                          # a counter at the end: row-7, ember12
    | (?:^|[-_])(?=[0-9a-f]*\d)[0-9a-f]{6,}  # a hash
    """,
    re.VERBOSE | re.IGNORECASE,
)


def looks_generated(value: str) -> bool:
    """Tell whether an id or a name looks made by a program rather than chosen by a person."""
    return bool(_MADE.search(value)) or _mixed_case_noise(value)


def _mixed_case_noise(value: str) -> bool:
    """Hash-like tokens such as sc-bdVaJa change case often inside a short token."""
    for token in re.split(r"[-_]+", value):
        changes = len(re.findall(r"[a-z][A-Z]", token))
        if len(token) in range(5, 9) and changes >= 2:
            return True
    return False
