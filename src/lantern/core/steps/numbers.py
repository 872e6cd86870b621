"""Numbers as pages show them."""

from __future__ import annotations

import re

from lantern.core.problems import BadInput


def first_number(text: str) -> float:
    """Read the first number of a text such as "€ 1,234.50"; raises BadInput when there is none."""
    match = re.search(r"-?\d[\d,]*(?:\.\d+)?", text)
    if not match:
        raise BadInput(f"There is no number in “{text}”.")
    return float(match.group().replace(",", ""))
