"""Hiding values in texts, in whatever usual form they stand there."""

from __future__ import annotations

import base64
import html
import json
import re
from collections.abc import Callable, Collection
from functools import lru_cache
from typing import Any
from urllib.parse import quote, quote_plus

MASK = "••••••"
SHORTEST = 3
"""Letters from which on a value is looked for: shorter ones are everywhere."""
SHORTEST_PART = 6
"""Letters from which on the inner part of an encoded value is looked for."""


@lru_cache(maxsize=512)
def forms_of(value: str) -> frozenset[str]:
    """Return a value as it may stand in texts: plain and encoded in the usual ways.

    Percent-encoded (RFC 3986, and as forms and scripts do it), escaped for HTML and JSON, and in
    base64 (RFC 4648), also as a part of something longer. Upper and lower case is not looked at.
    """
    plain = {
        value,
        *(quote(value, safe=safe) for safe in ("", "/", "!*'()", "/:?@!$&'()*+,;=")),
        quote_plus(value),
        html.escape(value),
        html.escape(value).replace("&#x27;", "&#39;"),
        html.escape(value).replace("&#x27;", "&apos;"),
        html.escape(value, quote=False),
        *(json.dumps(value, ensure_ascii=only)[1:-1] for only in (True, False)),
        json.dumps(value)[1:-1].replace("/", "\\/"),
        repr(value)[1:-1],
        *_in_base64(value.encode("utf-8", "surrogatepass")),
    }
    return frozenset(plain)


def _in_base64(value: bytes) -> set[str]:
    """Return what base64 of anything that contains the bytes contains, at each of three offsets."""
    found = {base64.b64encode(value).decode(), base64.b64encode(value).decode().rstrip("=")}
    for offset, begins in enumerate((0, 2, 3)):
        whole = (offset + len(value)) * 8 // 6  # letters that nothing behind has part in
        part = base64.b64encode(bytes(offset) + value).decode()[begins:whole]
        if len(part) >= SHORTEST_PART:
            found.add(part)
    return found | {one.replace("+", "-").replace("/", "_") for one in found}


@lru_cache(maxsize=32)
def _known(values: frozenset[str]) -> tuple[tuple[str, ...], re.Pattern[str] | None]:
    """Return the forms of values in lower case, and what matches any of them."""
    forms = {form for value in values if len(value) >= SHORTEST for form in forms_of(value)}
    if not forms:
        return (), None
    longest_first = sorted(forms, key=len, reverse=True)
    matches = re.compile("|".join(map(re.escape, longest_first)), re.IGNORECASE)
    return tuple({form.lower() for form in forms}), matches


def redacted(text: str, values: Collection[str]) -> str:
    """Return a text with the values masked; those under SHORTEST letters are left."""
    forms, matches = _known(frozenset(values))
    if matches is None:
        return text
    lower = text.lower()
    return matches.sub(MASK, text) if any(form in lower for form in forms) else text


def everywhere(value: Any, hide: Callable[[str], str]) -> Any:  # noqa: ANN401 - JSON
    """Return a JSON value with `hide` applied to every text in it, names of objects included."""
    if isinstance(value, str):
        return hide(value)
    if isinstance(value, dict):
        return {hide(str(key)): everywhere(entry, hide) for key, entry in value.items()}
    if isinstance(value, list | tuple):
        return [everywhere(entry, hide) for entry in value]
    return value
