"""Made-up values: `${integer(1, 10)}`, `${pick("matt", "gloss")}`, `${date("+3d")}`.

Each is drawn from the run's seed, its row and its sentence, so that the same seed gives the same
values again.
"""

from __future__ import annotations

import ast
import re
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from random import Random

from lantern.core.problems import BadInput, UnknownName

_CALL = re.compile(r"\s*([A-Za-z_]\w*)\s*\((.*)\)\s*", re.DOTALL)
_AWAY = re.compile(r"([+-]?\d+)\s*([dwmy])")
_LETTERS = "abcdefghijklmnopqrstuvwxyz"
LONGEST = 1000


@dataclass(frozen=True)
class Made:
    """A way to make values up: what its arguments are, in words, and how it draws."""

    arguments: str
    draw: Callable[[Random, Sequence[object], date], str]
    of_field: bool = False
    """Whether it depends on the field that the value goes into."""


def _integer(random: Random, args: Sequence[object], _: date) -> str:
    low, high = args
    if not isinstance(low, int) or not isinstance(high, int) or low > high:
        raise ValueError
    return str(random.randint(low, high))


def _number(random: Random, args: Sequence[object], _: date) -> str:
    low, high, *rest = args
    places = rest[0] if rest else 2
    if not isinstance(low, int | float) or not isinstance(high, int | float) or low > high:
        raise ValueError
    if not isinstance(places, int) or not 0 <= places <= 10:
        raise ValueError
    return f"{random.uniform(low, high):.{places}f}"


def _pick(random: Random, args: Sequence[object], _: date) -> str:
    if not args:
        raise ValueError
    return str(random.choice(args))


def _text(random: Random, args: Sequence[object], _: date) -> str:
    """Each ? becomes a letter, each # a figure."""
    (pattern,) = args
    if not isinstance(pattern, str) or len(pattern) > LONGEST:
        raise ValueError
    drawn = {"?": lambda: random.choice(_LETTERS), "#": lambda: str(random.randrange(10))}
    return "".join(drawn[sign]() if sign in drawn else sign for sign in pattern)


def _months_on(day: date, months: int) -> date:
    place = day.year * 12 + day.month - 1 + months
    year, month = divmod(place, 12)
    for last in range(day.day, 0, -1):
        try:
            return date(year, month + 1, last)
        except ValueError:
            if last <= 28:
                raise
    raise ValueError


def _date(_: Random, args: Sequence[object], today: date) -> str:
    away, *rest = args or ("+0d",)
    match = _AWAY.fullmatch(str(away))
    if not match or len(rest) > 1:
        raise ValueError
    count, unit = int(match[1]), match[2]
    if unit in "my":
        day = _months_on(today, count * (12 if unit == "y" else 1))
    else:
        day = today + timedelta(days=count * (7 if unit == "w" else 1))
    return day.strftime(str(rest[0])) if rest else day.isoformat()


def _uuid(random: Random, args: Sequence[object], _: date) -> str:
    if args:
        raise ValueError
    return str(uuid.UUID(int=random.getrandbits(128), version=4))


def _fitting(_: Random, args: Sequence[object], __: date) -> str:
    """What a field takes is known only where the value is used; see `fitting`."""
    if args:
        raise ValueError
    return ""


FUNCTIONS: dict[str, Made] = {
    "integer": Made("lowest, highest", _integer),
    "number": Made("lowest, highest, places after the point", _number),
    "pick": Made('"one", "another", …', _pick),
    "text": Made('"??-####" (? a letter, # a figure)', _text),
    "date": Made('"+3d", "-2w", "+1m" or "+1y", and a format such as "%d.%m.%Y"', _date),
    "uuid": Made("", _uuid),
    "fitting": Made("", _fitting, of_field=True),
}
"""Every way to make values up. A further one is one entry here."""


def call_in(inside: str) -> tuple[str, tuple[object, ...]] | None:
    """Return the function and arguments that a place of a template names; None for no call.

    Raises UnknownName, or BadInput with how it is written.
    """
    match = _CALL.fullmatch(inside)
    if not match:
        return None
    name = match[1]
    if name not in FUNCTIONS:
        raise UnknownName("made-up value", name, FUNCTIONS)
    try:
        args = ast.literal_eval(f"({match[2]},)" if match[2].strip() else "()")
        FUNCTIONS[name].draw(Random(0), args, date(2026, 1, 31))  # noqa: S311 - only a trial
    except (ValueError, TypeError, SyntaxError, MemoryError, OverflowError) as error:
        raise _wrong(name, inside) from error
    return name, args


def _wrong(name: str, inside: str) -> BadInput:
    return BadInput(
        f"${{{inside.strip()}}} can not be worked out.",
        where=inside,
        hint=f"Write ${{{name}({FUNCTIONS[name].arguments})}}.",
    )


def draw(
    inside: str, key: str, today: date, of_field: Callable[[Random, date], str] | None = None
) -> str:
    """Return the value that a call makes up for a key (seed, row, sentence), always the same.

    `of_field` makes up what the field takes.
    """
    call = call_in(inside)
    if call is None:
        raise BadInput(f"{inside!r} makes nothing up.")
    name, args = call
    try:
        random = Random(f"{key}|{inside.strip()}")  # noqa: S311 - test data, not a secret
        if FUNCTIONS[name].of_field and of_field:
            return of_field(random, today)
        return FUNCTIONS[name].draw(random, args, today)
    except (ValueError, OverflowError) as error:
        raise _wrong(name, inside) from error
