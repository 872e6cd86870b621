"""What a plan says: tests, rows, browsers, environments, order, and what a failure leads to."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, fields
from typing import Any, Literal, get_args

from lantern.core.engine.browsers import browser_named
from lantern.core.plans.telling import Tell, read_tells
from lantern.core.problems import BadInput, UnknownName
from lantern.core.runs.places import check_labels
from lantern.core.steps.labels import check_label

PickKind = Literal["test", "label", "search"]
OrderKind = Literal["as listed", "longest first", "random"]
OnFailure = Literal["go on", "stop the test", "stop everything"]
Known = Literal["fails", "passes"]
Overlap = Literal["wait", "skip", "cancel the old"]

LAST_FAILED = "failed last"
"""The choice of rows that failed when the test was last run on record."""
LONGEST_NAME = 200
MOST_PICKS = 500
MOST_AT_ONCE = 64
MOST_RETRIES = 3
MOST_MINUTES = 7 * 24 * 60
MOST_WEIGHT = 10


@dataclass(frozen=True)
class Pick:
    """Tests that a plan takes: one (`test` is its id), or all that `words` lead to at its start.

    With the kind "label" `words` are a label, with "search" a part of names. `rows` chooses rows of
    each as core.data.choosing reads it, or LAST_FAILED.
    """

    kind: PickKind = "test"
    test: int = 0
    words: str = ""
    rows: str = "all"

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Pick:
        """Build a pick from JSON; raises BadInput for one that leads to nothing."""
        kind = _one_of(raw.get("kind", "test"), PickKind, "picks")
        words = " ".join(str(raw.get("words") or "").split())
        test = (
            _whole(raw.get("test") or 0, 0, 2**31 - 1, "A test's number") if kind == "test" else 0
        )
        if kind == "test" and not test:
            raise BadInput("Say which test is meant.", where="picks")
        if kind == "label":
            words = check_label(words)
        if kind == "search" and not words:
            raise BadInput("Say what to search for.", where="picks")
        rows = str(raw.get("rows") or "all").strip() or "all"
        return cls(kind, test, "" if kind == "test" else words, rows[:500])


@dataclass(frozen=True)
class Cell:
    """A test in a browser that a plan leaves out."""

    test: int
    browser: str


@dataclass(frozen=True)
class Plan:
    """What to run together.

    `environments` are ids, none for each test's own; `browsers` names of the catalogue, none for
    the usual one; `left_out` cells of tests and browsers that are not played. With the order
    "random" a `seed` (drawn where there is none) gives the same order again. `at_once` is how many
    casts play at once, 0 for as many as there are places; `retries` how often a failed row is
    played again. `before` and `after` are the ids of flows played once around all of it,
    `before_row` and `after_row` around each row instead of the project's, "" for none. `minutes` is
    the limit for the whole, 0 for none. `weight` is its share of the stations beside other plans;
    `needs` are labels that a station must have; `overlap` is what happens where it is to begin
    while it still runs; `tells` whom a mail is sent of it; with `known` "passes" it passes where
    open defects are known for all that failed.
    """

    picks: tuple[Pick, ...] = ()
    browsers: tuple[str, ...] = ()
    left_out: tuple[Cell, ...] = ()
    environments: tuple[int, ...] = ()
    order: OrderKind = "as listed"
    seed: str = ""
    at_once: int = 0
    on_failure: OnFailure = "go on"
    retries: int = 0
    before: str = ""
    after: str = ""
    before_row: str = ""
    after_row: str = ""
    minutes: int = 0
    weight: int = 1
    needs: tuple[str, ...] = ()
    overlap: Overlap = "wait"
    tells: tuple[Tell, ...] = ()
    known: Known = "fails"

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Plan:
        """Build a plan from JSON; raises BadInput or UnknownName with the part that is wrong."""
        picks = tuple(map(Pick.read, raw.get("picks") or ()))
        if len(picks) > MOST_PICKS:
            raise BadInput(f"A plan picks up to {MOST_PICKS} times.", where="picks")
        return cls(
            picks=tuple(dict.fromkeys(picks)),
            browsers=_browsers(raw.get("browsers") or ()),
            left_out=tuple(
                dict.fromkeys(
                    Cell(int(one["test"]), str(one["browser"])) for one in raw.get("left_out") or ()
                )
            ),
            environments=tuple(dict.fromkeys(int(one) for one in raw.get("environments") or ())),
            order=_one_of(raw.get("order", cls.order), OrderKind, "order"),
            seed=str(raw.get("seed") or "").strip()[:40],
            at_once=_whole(raw.get("at_once", 0), 0, MOST_AT_ONCE, "How many play at once"),
            on_failure=_one_of(raw.get("on_failure", cls.on_failure), OnFailure, "on_failure"),
            retries=_whole(raw.get("retries", 0), 0, MOST_RETRIES, "Retries"),
            **{name: str(raw.get(name) or "") for name in FLOWS},
            minutes=_whole(raw.get("minutes", 0), 0, MOST_MINUTES, "The limit in minutes"),
            weight=_whole(raw.get("weight", 1), 1, MOST_WEIGHT, "The weight"),
            needs=check_labels(raw.get("needs") or ()),
            overlap=_one_of(raw.get("overlap", cls.overlap), Overlap, "overlap"),
            tells=read_tells(raw.get("tells") or ()),
            known=_one_of(raw.get("known", cls.known), Known, "known"),
        )

    def as_json(self) -> dict[str, Any]:
        """Return the plan as an object that `read` accepts."""
        plain = {one.name: getattr(self, one.name) for one in fields(self)}
        listed = {name: list(value) for name, value in plain.items() if isinstance(value, tuple)}
        nested = {
            name: [vars(one) for one in getattr(self, name)]
            for name in ("picks", "left_out", "tells")
        }
        return plain | listed | nested

    def leaves_out(self, test: int, browser: str) -> bool:
        """Tell whether a test is not to be played in a browser."""
        return Cell(test, browser) in self.left_out


FLOWS = ("before", "after", "before_row", "after_row")
"""The parts of a plan that name flows."""


def check_name(name: str) -> str:
    """Return a plan's name with its white space tidied; raises BadInput for what can not be one."""
    name = " ".join(name.split())
    if not name or len(name) > LONGEST_NAME:
        raise BadInput(f"A plan's name has 1 to {LONGEST_NAME} characters.", where="name")
    return name


def differences(before: Plan, after: Plan, named: Callable[[str], str] = str) -> list[str]:
    """Return in words which parts of a plan changed; `named` says what a part is called."""
    return [
        named(one.name.replace("_", " "))
        for one in fields(Plan)
        if getattr(before, one.name) != getattr(after, one.name)
    ]


def _browsers(names: Iterable[object]) -> tuple[str, ...]:
    known = [str(name) for name in names]
    for name in known:
        browser_named(name)  # raises UnknownName with those that there are
    return tuple(dict.fromkeys(known))


def _one_of(value: object, kinds: Any, where: str) -> Any:  # noqa: ANN401 - a Literal and its value
    known = get_args(kinds)
    if value not in known:
        raise UnknownName("choice", str(value), known, where=where)
    return value


def _whole(value: object, least: int, most: int, what: str) -> int:
    if isinstance(value, bool) or not isinstance(value, int | float) or value != int(value):
        raise BadInput(f"{what} is a whole number, not “{value}”.")
    if not least <= value <= most:
        raise BadInput(f"{what} is from {least} to {most}, not {int(value)}.")
    return int(value)
