"""Who is told of a run of a plan by mail, and why it goes to them."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, get_args

from lantern.core.plans.posting import Event
from lantern.core.problems import BadInput, UnknownName

Whom = Literal["person", "owners", "changers"]
When = Literal["failed", "fixed", "always", "digest"]
WHOM: tuple[Whom, ...] = get_args(Whom)
WHEN: tuple[When, ...] = get_args(When)
LONGEST_EMAIL = 254
MOST_TELLS = 100
MOST_NAMED = 3
"""Tests that are named as a reason."""
_EMAIL = re.compile(r"[^@\s<>()\[\],;:\"\\]+@[^@\s<>()\[\],;:\"\\]+")


@dataclass(frozen=True)
class Tell:
    """Whom a plan tells, and when: `account` is the id of a "person", 0 for all others.

    "owners" are those of its tests, "changers" who changed what failed since it last passed.
    "digest" is one mail a day, of all that ended.
    """

    whom: Whom = "person"
    account: int = 0
    when: tuple[When, ...] = ("failed",)

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Tell:
        """Build it from JSON; raises BadInput or UnknownName."""
        whom, account = raw.get("whom", "person"), raw.get("account") or 0
        if whom not in WHOM:
            raise UnknownName("choice", str(whom), WHOM, where="tells")
        if isinstance(account, bool) or not isinstance(account, int):
            raise BadInput("Say which person is told.", where="tells")
        if whom == "person" and account < 1:
            raise BadInput("Say which person is told.", where="tells")
        said = set(raw.get("when") or ())
        for one in said - set(WHEN):
            raise UnknownName("choice", str(one), WHEN, where="tells")
        return cls(whom, account if whom == "person" else 0, tuple(w for w in WHEN if w in said))


def read_tells(raw: Iterable[Mapping[str, Any]]) -> tuple[Tell, ...]:
    """Read whom a plan tells: each once, those who are never told left out; raises BadInput."""
    found = {(one.whom, one.account): one for one in map(Tell.read, raw) if one.when}
    if len(found) > MOST_TELLS:
        raise BadInput(f"A plan tells up to {MOST_TELLS} people.", where="tells")
    return tuple(found.values())


@dataclass(frozen=True)
class Part:
    """How a test came out of a run: `owner` and `changers` are ids of accounts.

    `happened` is what is to be told of it: "failed", or "fixed" where it failed before.
    """

    test: str
    happened: Literal["failed", "fixed", ""] = ""
    owner: int | None = None
    changers: Collection[int] = ()


@dataclass
class Hears:
    """What a person is told: now, or only in the `digest`; `why` in sentences."""

    digest: bool = True
    people: bool = False
    owned: list[str] = field(default_factory=list)
    changed: list[str] = field(default_factory=list)

    @property
    def why(self) -> str:
        """Why it goes to this person."""
        found = ["You are on the list of the plan."] if self.people else []
        if self.owned:
            found.append(f"You own {_named(self.owned)}.")
        if self.changed:
            found.append(f"You changed {_named(self.changed)} since it last passed.")
        return " ".join(found)


def hear(
    tells: Iterable[Tell], events: Collection[Event], parts: Sequence[Part]
) -> dict[int, Hears]:
    """Return what people are told of a run of a plan that ended, by the ids of their accounts."""
    found: dict[int, Hears] = {}
    if "end" not in events:
        return found
    whole = {"always", "digest"} | {
        when for when, event in (("failed", "fail"), ("fixed", "fixed")) if event in events
    }
    for tell in tells:
        for account, part, happened in _meant(tell, whole, parts):
            matched = set(tell.when) & happened
            if matched:
                hears = found.setdefault(account, Hears())
                hears.digest = hears.digest and matched == {"digest"}
                _reason(hears, tell, part)
    return found


def _meant(
    tell: Tell, whole: set[str], parts: Sequence[Part]
) -> Iterable[tuple[int, str, set[str]]]:
    """Yield whom it is about, because of which test, and what happened as far as they go."""
    if tell.whom == "person":
        yield tell.account, "", whole
        return
    for part in parts:
        happened = {"always", "digest", part.happened}
        if tell.whom == "owners" and part.owner:
            yield part.owner, part.test, happened
        elif tell.whom == "changers" and part.happened:
            for account in part.changers:
                yield account, part.test, happened


def _reason(hears: Hears, tell: Tell, test: str) -> None:
    if tell.whom == "person":
        hears.people = True
        return
    listed = hears.owned if tell.whom == "owners" else hears.changed
    if test not in listed:
        listed.append(test)


def _named(tests: Sequence[str]) -> str:
    shown = ", ".join(f"“{one}”" for one in tests[:MOST_NAMED])
    return f"{shown} and {len(tests) - MOST_NAMED} more" if len(tests) > MOST_NAMED else shown


def check_email(text: str) -> str:
    """Return a mail address without space around it, "" for none; raises BadInput."""
    text = text.strip()
    if text and (len(text) > LONGEST_EMAIL or not _EMAIL.fullmatch(text)):
        raise BadInput(
            f"“{text[:80]}” is no mail address.",
            where="email",
            hint="Such as wren@emberhall.example.",
        )
    return text
