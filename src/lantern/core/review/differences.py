"""In what two texts differ: letter by letter, and as numbers, money and dates."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation

from rapidfuzz.distance import Indel

LONGEST = 2000
"""Letters up to which texts are held against each other letter by letter; longer ones by words."""
MOST = 4000
"""Pieces of a text up to which they are held against each other at all: pages may show megabytes.
Of longer texts only the beginnings and the ends that are the same are told apart."""
_NUMBER = re.compile(r"-?\d[\d.,'\u00a0\u202f ]*\d|-?\d")
_MARKS = re.compile(r"[\W_]+")
_MONEY = re.compile(r"[€$£¥]|\b(?:EUR|USD|GBP|CHF|JPY)\b")
_ISO = re.compile(r"\b(\d{4})-(\d\d)-(\d\d)\b")  # ISO 8601
_DOTTED = re.compile(r"\b(\d{1,2})\.(\d{1,2})\.(\d{4})\b")
_WORDS = re.compile(r"\s+|\w+|[^\w\s]")


@dataclass(frozen=True)
class Part:
    """A piece of a text; `same` where the other text has it as well."""

    text: str
    same: bool


@dataclass(frozen=True)
class Difference:
    """Two texts in pieces, and in words what the difference comes to ("" for nothing to say)."""

    expected: tuple[Part, ...]
    found: tuple[Part, ...]
    told: str


def difference(expected: str, found: str) -> Difference:
    """Return in what a text that was found differs from the one that was expected."""
    one, other = _pieces(expected, found)
    left: list[Part] = []
    right: list[Part] = []
    for same, a, b, c, d in _blocks(one, other):
        _add(left, "".join(one[a:b]), same)
        _add(right, "".join(other[c:d]), same)
    return Difference(tuple(left), tuple(right), told(expected, found))


def _blocks(one: list[str], other: list[str]) -> Iterator[tuple[bool, int, int, int, int]]:
    """Give the stretches of two texts in order: whether they are the same, and where they are."""
    begin = _shared(one, other)
    end = _shared(one[begin:][::-1], other[begin:][::-1])
    rest, others = one[begin : len(one) - end], other[begin : len(other) - end]
    yield True, 0, begin, 0, begin
    if max(len(rest), len(others)) > MOST:
        yield False, begin, len(one) - end, begin, len(other) - end
    else:
        for step in Indel.opcodes(rest, others):
            a, b = begin + step.src_start, begin + step.src_end
            yield step.tag == "equal", a, b, begin + step.dest_start, begin + step.dest_end
    yield True, len(one) - end, len(one), len(other) - end, len(other)


def _shared(one: list[str], other: list[str]) -> int:
    """Return how many pieces two texts begin with alike."""
    pairs = zip(one, other, strict=False)
    return next((n for n, (a, b) in enumerate(pairs) if a != b), min(len(one), len(other)))


def _pieces(expected: str, found: str) -> tuple[list[str], list[str]]:
    if len(expected) + len(found) <= LONGEST:
        return list(expected), list(found)
    return _WORDS.findall(expected), _WORDS.findall(found)


def _add(parts: list[Part], text: str, same: bool) -> None:
    """Add a piece, to the last one where that is alike."""
    if text and parts and parts[-1].same == same:
        parts[-1] = Part(parts[-1].text + text, same)
    elif text:
        parts.append(Part(text, same))


def _spaced(text: str) -> str:
    """Return a text with each run of white space as one blank, trimmed, however long it is."""
    return " ".join(text.split())


def told(expected: str, found: str) -> str:
    """Return in words by how much, or in what alone, a text differs; "" for in more than that."""
    if expected == found:
        return ""
    return next(_sayings(expected, found), "")


def _sayings(expected: str, found: str) -> Iterator[str]:
    if not _spaced(found):
        yield "Nothing was there."
    elif _spaced(expected) == _spaced(found):
        yield "Only spaces differ."
    elif expected.casefold() == found.casefold():
        yield "Only capital letters differ."
    yield from _by_days(expected, found)
    if only_written_otherwise(expected, found):
        yield "It says the same and is only written otherwise."
    yield from _by_how_much(expected, found)
    if found.startswith(expected):
        yield f"It goes on with “{found[len(expected) :][:80]}”."
    elif expected.startswith(found) and found:
        yield f"“{expected[len(found) :][:80]}” is missing at its end."


def _by_days(expected: str, found: str) -> Iterator[str]:
    one, other = _dates(expected), _dates(found)
    if len(one) != 1 or len(other) != 1 or one == other:
        return
    days = (other[0] - one[0]).days
    counted = "1 day" if abs(days) == 1 else f"{abs(days)} days"
    yield f"{other[0].isoformat()} is {counted} {'later' if days > 0 else 'earlier'}."


def _dates(text: str) -> list[date]:
    found = []
    for pattern, order in ((_ISO, (1, 2, 3)), (_DOTTED, (3, 2, 1))):
        for match in pattern.finditer(text):
            try:
                found.append(date(*(int(match[place]) for place in order)))
            except ValueError:
                continue
    return found


def _by_how_much(expected: str, found: str) -> Iterator[str]:
    """Tell by how much the one number that differs is more or less."""
    one, other = numbers_in(expected), numbers_in(found)
    if len(one) != len(other) or _letters(expected) != _letters(found):
        return
    pairs = [(a, b) for a, b in zip(one, other, strict=True) if a != b]
    if len(pairs) != 1:
        return
    before, now = pairs[0]
    money = _MONEY.search(found)
    sign = f"{money[0]} " if money else ""
    yield f"{sign}{now} is {sign}{abs(now - before)} {'more' if now > before else 'less'}."


def _letters(text: str) -> str:
    return _spaced(_NUMBER.sub("#", text)).casefold()


def numbers_in(text: str) -> list[Decimal]:
    """Return the numbers in a text, whatever stands between thousands and before decimals."""
    found = []
    for match in _NUMBER.finditer(text):
        digits = re.sub(r"[\s'\u00a0\u202f]", "", match[0])
        last = max(digits.rfind("."), digits.rfind(","))
        whole, part = (digits[:last], digits[last + 1 :]) if last >= 0 else (digits, "")
        if last >= 0 and len(part) == 3 and digits.count(digits[last]) == 1 and whole != "0":
            whole, part = digits, ""  # thousands
        try:
            found.append(Decimal(re.sub(r"[.,]", "", whole) + ("." + part if part else "")))
        except InvalidOperation:
            continue
    return found


def only_written_otherwise(expected: str, found: str) -> bool:
    """Tell whether two texts say the same: the same letters, and numbers of the same value."""
    if _MARKS.sub("", expected).casefold() == _MARKS.sub("", found).casefold():
        return numbers_in(expected) == numbers_in(found) or "." not in expected + found
    letters = re.compile(r"[^\d.,' ]+")
    same = letters.findall(_spaced(expected).casefold()) == letters.findall(
        _spaced(found).casefold()
    )
    return same and bool(numbers_in(expected)) and numbers_in(expected) == numbers_in(found)
