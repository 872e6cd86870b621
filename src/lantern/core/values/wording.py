"""Made-up values in words: `${integer(1, 24)}` reads as "a number from 1 to 24"."""

from __future__ import annotations

from lantern.core.problems import Problem
from lantern.core.values.made import FUNCTIONS, call_in


def in_words(template: str) -> str:
    """Return a value that is one made-up value in words; "" for any other."""
    text = template.strip()
    if not (text.startswith("${") and text.endswith("}")) or "}" in text[2:-1]:
        return ""
    try:
        call = call_in(text[2:-1])
    except Problem:
        return ""
    if call is None:
        return ""
    name, args = call
    return FUNCTIONS[name].said(args)
