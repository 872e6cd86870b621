"""Made-up values within what a field takes: its options, range, pattern and length."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from random import Random

from rstr import Rstr

from lantern.core.elements.facts import Facts
from lantern.core.patterns import check_pattern, fullmatch
from lantern.core.problems import BadInput, Problem
from lantern.core.values.sources import Names
from lantern.core.values.templates import has_made, resolve

MOST_TRIES = 60
_WORDS = "amber bowl clay dish ember flask glaze jar kiln lid moss pot ridge slip tile vase".split()
_MOST_LETTERS = 40
MOST_LETTERS = 10_000
"""How long a text of a pattern may become: pages under test may ask for anything."""


@dataclass(frozen=True)
class Limits:
    """What a field takes; numbers and days are text, "" for no limit."""

    kind: str = "text"
    options: tuple[str, ...] = ()
    low: str = ""
    high: str = ""
    pattern: str = ""
    longest: int = 0

    @property
    def known(self) -> bool:
        """Whether anything limits the field."""
        limits = self.options or self.low or self.high or self.pattern or self.longest
        return bool(limits) or self.kind != "text"

    def fits(self, value: str) -> bool:
        """Tell whether the field takes a value."""
        if self.options and value not in self.options:
            return False
        if self.longest and len(value) > self.longest:
            return False
        try:
            if self.pattern and not fullmatch(value, self.pattern):
                return False
        except Problem:
            pass  # a pattern that Python does not know says nothing
        return self._in_range(value)

    def _in_range(self, value: str) -> bool:
        reader: Callable[[str], float] | None = _READERS.get(self.kind)
        if reader is None:
            return True
        try:
            at = reader(value)
        except ValueError:
            return False
        above = not self.low or at >= reader(self.low)
        return above and (not self.high or at <= reader(self.high))

    def words(self) -> str:
        """Say what the field takes."""
        if self.options:
            return "one of " + ", ".join(self.options[:8])
        told = [
            f"at least {self.low}" if self.low else "",
            f"at most {self.high}" if self.high else "",
            f"of the form {self.pattern}" if self.pattern else "",
            f"up to {self.longest} letters" if self.longest else "",
        ]
        return " and ".join(filter(None, told)) or f"a {self.kind}"


def _day(text: str) -> float:
    return float(date.fromisoformat(text).toordinal())


_READERS: dict[str, Callable[[str], float]] = {"number": float, "range": float, "date": _day}


def limits_of(facts: Facts | None) -> Limits:
    """Return what a field takes, as far as its facts tell."""
    if facts is None:
        return Limits()
    given = facts.attributes
    kind = given.get("type", "text")
    kind = kind if kind in _READERS else "text"
    longest = given.get("maxlength", "")
    pattern = given.get("pattern", "")
    try:
        check_pattern(pattern)
    except Problem:
        pattern = ""
    low, high = (_limit(given.get(side, ""), kind) for side in ("min", "max"))
    return Limits(kind, facts.options, low, high, pattern, int(longest) if longest.isdigit() else 0)


def _limit(text: str, kind: str) -> str:
    try:
        _READERS.get(kind, float)(text)
    except ValueError:
        return ""
    return text


def fitting(limits: Limits, random: Random, today: date) -> str:
    """Return a made-up value that a field takes; raises BadInput when none is found."""
    for _ in range(MOST_TRIES):
        value = _drawn(limits, random, today)
        if limits.fits(value):
            return value
    raise BadInput(f"No value was found that is {limits.words()}.")


def _drawn(limits: Limits, random: Random, today: date) -> str:
    if limits.options:
        return random.choice([one for one in limits.options if one] or list(limits.options))
    if limits.kind in ("number", "range"):
        low = float(limits.low) if limits.low else min(0.0, float(limits.high or 0))
        high = float(limits.high) if limits.high else low + 100
        return str(random.randint(int(-(-low // 1)), max(int(high), int(-(-low // 1)))))
    if limits.kind == "date":
        low_day = date.fromisoformat(limits.low) if limits.low else today
        high_day = date.fromisoformat(limits.high) if limits.high else low_day + timedelta(60)
        return (
            low_day + timedelta(random.randint(0, max((high_day - low_day).days, 0)))
        ).isoformat()
    if limits.pattern:
        return _of_pattern(limits.pattern, random)[: limits.longest or None]
    words = " ".join(random.choice(_WORDS) for _ in range(3)).capitalize()
    return words[: limits.longest or _MOST_LETTERS].strip()


def _of_pattern(pattern: str, random: Random) -> str:
    """Return a text of a pattern; raises BadInput for one that is odd, or would be enormous."""
    counts = [max(map(int, re.findall(r"\d+", one))) for one in re.findall(r"\{\d[^}]*\}", pattern)]
    most = math.prod(max(count, 1) for count in counts) * 100 ** len(re.findall(r"[*+]", pattern))
    if most > MOST_LETTERS:
        raise BadInput(f"Texts of the form {pattern[:60]} would be too long to make up.")
    try:
        return str(Rstr(random).xeger(pattern))
    except Exception as error:  # patterns of pages know more than the package does
        raise BadInput(f"No text of the form {pattern[:60]} can be made up.") from error


def drawn_for(template: str, names: Names, key: str, facts: Facts | None) -> tuple[Names, str]:
    """Return the names and the key with which a template gives a value that the field takes.

    Made-up values are drawn until they fit; `${fitting()}` is whatever fits. Raises BadInput when
    the limits of a made-up value and those of the field never meet.
    """
    if not has_made(template):
        return names, key
    limits = limits_of(facts)
    names = replace(names, of_field=lambda random, today: fitting(limits, random, today))
    if not limits.known:
        return names, key
    for number in range(MOST_TRIES):
        tried = f"{key}|{number}" if number else key
        if limits.fits(resolve(template, names, tried)):
            return names, tried
    raise BadInput(
        f"{template} was made up {MOST_TRIES} times and never was {limits.words()}, which the "
        "field takes.",
        where=template,
        hint="Make its limits narrower, or use ${fitting()}.",
    )
