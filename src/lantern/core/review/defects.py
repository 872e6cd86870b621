"""From a failed step to a defect: what to say, and whether it is the same as an earlier one."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Sequence
from dataclasses import dataclass

SEVERITIES = ("critical", "major", "minor", "cosmetic")
PRIORITIES = ("urgent", "high", "normal", "low")
STATES = ("open", "in work", "fixed", "closed")
OPEN = ("open", "in work")
"""States in which a failure is known by it."""

_VARIABLE = re.compile(r"\d+(?:[.,]\d+)*|“[^”]*”")


@dataclass(frozen=True)
class Failure:
    """What is known of a failed step: texts as shown in the results."""

    test: str
    step_id: str
    sentence: str
    reason: str
    message: str
    expected: str
    found: str
    before: Sequence[str] = ()


def fingerprint(failure: Failure) -> str:
    """Return 16 hexadecimal digits that are equal for failures that are likely the same.

    Values and numbers are left out: the same step of the same test that fails for the same
    reason on another row, or with another price, is the same failure.
    """
    shape = _VARIABLE.sub("#", failure.message)
    whole = "\n".join([failure.test, failure.step_id, failure.reason, shape])
    return hashlib.sha256(whole.encode()).hexdigest()[:16]


def title(failure: Failure) -> str:
    """Propose a title of at most 120 characters."""
    if failure.reason == "check differed":
        words = f"{failure.sentence}: was “{failure.found}”"
    else:
        words = failure.message or failure.sentence
    return words if len(words) <= 120 else words[:119] + "…"


def steps_to_repeat(failure: Failure) -> str:
    """Return the numbered sentences, with real values, up to and with the one that failed."""
    sentences = [*failure.before, failure.sentence]
    return "\n".join(f"{number}. {text}" for number, text in enumerate(sentences, 1))
