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
from typing import Literal

from lantern.core.problems import BadInput, UnknownName

_CALL = re.compile(r"\s*([A-Za-z_]\w*)\s*\((.*)\)\s*", re.DOTALL)
_AWAY = re.compile(r"([+-]?\d+)\s*([dwmy])")
_LETTERS = "abcdefghijklmnopqrstuvwxyz"
LONGEST_FORM = 1000


@dataclass(frozen=True)
class Part:
    """A part of a form for a made-up value: what it is called, its kind, what it begins with.

    `kind` is number, text, or texts (any number of them); what is `optional` may stay empty.
    """

    name: str
    kind: Literal["number", "text", "texts"]
    default: str = ""
    optional: bool = False


@dataclass(frozen=True)
class Made:
    """A way to make values up.

    `arguments` tells in words how it is written, `draw` makes a value, `said` says a call of it in
    words; `title` and `parts` make its form.
    """

    arguments: str
    draw: Callable[[Random, Sequence[object], date], str]
    title: str
    said: Callable[[Sequence[object]], str]
    parts: tuple[Part, ...] = ()
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
    if not isinstance(pattern, str) or len(pattern) > LONGEST_FORM:
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


def _any_of(args: Sequence[object]) -> str:
    listed = [str(one) for one in args]
    return " or ".join(filter(None, (", ".join(listed[:-1]), *listed[-1:])))


def _places(args: Sequence[object]) -> str:
    places = args[2] if len(args) > 2 else 2
    return f"a number from {args[0]} to {args[1]} with {places} decimals"


def _day(args: Sequence[object]) -> str:
    match = _AWAY.fullmatch(str(args[0] if args else "+0d"))
    if not match or int(match[1]) == 0:
        return "today"
    count = abs(int(match[1]))
    unit = {"d": "day", "w": "week", "m": "month", "y": "year"}[match[2]]
    told = f"{count} {unit}{'' if count == 1 else 's'}"
    return f"{told} ago" if match[1].startswith("-") else f"in {told}"


FUNCTIONS: dict[str, Made] = {
    "integer": Made(
        "lowest, highest",
        _integer,
        "a whole number",
        lambda args: f"a number from {args[0]} to {args[1]}",
        (Part("lowest", "number", "1"), Part("highest", "number", "24")),
    ),
    "number": Made(
        "lowest, highest, places after the point",
        _number,
        "a number with decimals",
        _places,
        (
            Part("lowest", "number", "0"),
            Part("highest", "number", "10"),
            Part("decimals", "number", "2", optional=True),
        ),
    ),
    "pick": Made(
        '"one", "another", …',
        _pick,
        "one of several",
        _any_of,
        (Part("values, one a line", "texts"),),
    ),
    "text": Made(
        '"??-####" (? a letter, # a figure)',
        _text,
        "a text of a form",
        lambda args: f"a text such as {args[0]}",
        (Part("form: ? a letter, # a figure", "text", "??-####"),),
    ),
    "date": Made(
        '"+3d", "-2w", "+1m" or "+1y", and a format such as "%d.%m.%Y"',
        _date,
        "a date",
        _day,
        (
            Part("away: +3d, -2w, +1m, +1y", "text", "+3d"),
            Part("format such as %d.%m.%Y", "text", optional=True),
        ),
    ),
    "uuid": Made("", _uuid, "a unique id", lambda _: "a unique id"),
    "fitting": Made(
        "", _fitting, "what the field takes", lambda _: "what the field takes", of_field=True
    ),
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
