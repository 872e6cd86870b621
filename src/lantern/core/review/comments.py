"""Comments: on what they are made, and whom they mention."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Literal, get_args

from lantern.core.problems import BadInput

Place = Literal["run", "row", "sentence", "defect", "test"]
PLACES: tuple[Place, ...] = get_args(Place)
"""What can be commented on: a run, a row of it, a sentence that was played, a defect, a test."""
LONGEST = 10_000
MOST_MENTIONED = 20
_MENTION = re.compile(r"(?<![\w@.])@([A-Za-z0-9][\w.-]*)")


def check_text(text: str, *, looked: bool = False) -> str:
    """Return a comment without the white space around it.

    Raises BadInput for an empty or a very long one; a run can be looked at without a word.
    """
    said = text.strip()
    if not said and not looked:
        raise BadInput("A comment says something.", where="text")
    if len(said) > LONGEST:
        raise BadInput(f"A comment has at most {LONGEST:,} letters.", where="text")
    return said


def mentioned(text: str, accounts: Mapping[str, int]) -> list[int]:
    """Return the accounts whose user names a comment mentions, as in "@odo: see row 3".

    `accounts` are ids by user name, in lower case. A full stop or dash at the end of a name ends
    the sentence, not the name.
    """
    found: dict[int, None] = {}
    for name in _MENTION.findall(text):
        known = accounts.get(name.lower(), accounts.get(name.lower().rstrip(".-_")))
        if known is not None:
            found[known] = None
    return list(found)[:MOST_MENTIONED]
