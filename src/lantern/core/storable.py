"""Text that can be kept: what comes in from pages, people and files is made so at the edge.

A database keeps neither NUL nor one half of a surrogate pair (a cut emoji), and UTF-8 can not even
write the latter. Both become U+FFFD, the sign for what could not be read (The Unicode Standard,
chapter 3, section 9), when JSON is read; nothing inside has to think of them.
"""

from __future__ import annotations

import json
import re
from typing import Any

UNREADABLE = "\ufffd"
_BROKEN = re.compile("[\x00\ud800-\udfff]")
_PAIR = r"\\u[dD][89abAB][0-9a-fA-F]{2}\\u[dD][c-fC-F][0-9a-fA-F]{2}"
_ESCAPES = re.compile(rf"(\\\\|{_PAIR})|\\u(?:[dD][89a-fA-F][0-9a-fA-F]{{2}}|0000)")
_SUSPECT = ("\\ud", "\\uD", "\\u0000")


def storable(text: str) -> str:
    """Return a text with U+FFFD in place of NUL and of halves of surrogate pairs."""
    return _BROKEN.sub(UNREADABLE, text)


def read_json(text: str | bytes) -> Any:  # noqa: ANN401 - any JSON value
    """Return the value of a JSON text, as it is written in UTF-8, with all its strings storable.

    Raises ValueError for what is no JSON, no UTF-8, or nested deeper than can be read.
    """
    if isinstance(text, bytes | bytearray):
        text = text.decode("utf-8-sig")
    if any(suspect in text for suspect in _SUSPECT):
        text = _ESCAPES.sub(lambda found: found[1] or UNREADABLE, text)
    try:
        return json.loads(text)
    except RecursionError as error:
        raise ValueError("It is nested too deeply.") from error
