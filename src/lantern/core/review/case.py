"""All that is known of a sentence that failed: what a verdict is made of. Plain data."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import cached_property
from typing import Any

from lantern.core.elements.facts import Facts, numbers_open, tidy
from lantern.core.review.words import saying
from lantern.core.searching.looked import Answer, Looked
from lantern.core.searching.reasons import answers

ALERTS = frozenset({"alert", "alertdialog"})
_USES = re.compile(r"\$\{(\w+)(?:\.([^}]*))?\}")


def uses(template: str, kind: str) -> list[str]:
    """Return the names of one kind (row, env, secret, kept) that a value is made of."""
    return [name or "" for found, name in _USES.findall(template) if found == kind]


@dataclass(frozen=True)
class Line:
    """A sentence of a row as it was played; seconds, and what the page complained about.

    `given` are its inputs as they stand in the test, `title` that of the page it belongs to.
    """

    step: str
    action: str
    sentence: str
    outcome: str = "passed"
    used: float = 0.0
    given: Mapping[str, str] = field(default_factory=dict)
    title: str = ""
    found: str = ""
    expected: str = ""
    console: Sequence[str] = ()
    requests: Sequence[str] = ()
    element: str = ""
    """The id of its element, "" for none."""


@dataclass(frozen=True)
class Green:
    """The last time that the same row passed, or, where it never did, any row of the test.

    `same_row` tells which; `lines` are its sentences by id.
    """

    run: int
    same_row: bool
    values: Mapping[str, str] = field(default_factory=dict)
    lines: Mapping[str, Line] = field(default_factory=dict)


@dataclass(frozen=True)
class Changes:
    """What is other than when it passed last: in words, and as pairs of (before, now).

    `sentence` tells whether the failed sentence itself was changed, `before` whether one that
    was played before it, `element` whether its element was.
    """

    test: Sequence[str] = ()
    sentence: bool = False
    before: bool = False
    element: bool = False
    elements: Sequence[str] = ()
    data: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    variables: Sequence[str] = ()
    address: tuple[str, str] | None = None
    release: tuple[str, str] | None = None
    browser: tuple[str, str] | None = None
    station: tuple[str, str] | None = None

    def in_words(self) -> list[str]:
        """Return all that is other than when it passed, a sentence for each."""
        pairs = (
            ("The release was {} and is {}.", self.release),
            ("The environment's address was {} and is {}.", self.address),
            ("The browser was {} and is {}.", self.browser),
            ("It was played on another station.", self.station),
        )
        told = [words.format(*pair) for words, pair in pairs if pair]
        told += [f"The row's {name} was “{was}” and is “{now}”."
                 for name, (was, now) in self.data.items()]  # fmt: skip
        told += self.variables
        told += [f"The element “{name}” has other clues." for name in self.elements]
        told += [f"The test was changed: {words}." for words in dict.fromkeys(self.test)]
        return told

    @property
    def nothing(self) -> bool:
        """Whether all is as it was."""
        pairs = (self.address, self.release, self.browser, self.station)
        many = (self.test, self.elements, self.data, self.variables)
        return not any(pairs) and not any(many)


@dataclass(frozen=True)
class Others:
    """How the same sentence went in the other rows and browsers of the run.

    `alike` failed for the same reason; `same_row` passed with this row in another browser, by
    name; `again` tells that the same row passed when it was played once more.
    """

    passed: int = 0
    alike: int = 0
    otherwise: int = 0
    same_row: Sequence[str] = ()
    again: bool = False


@dataclass(frozen=True)
class Case:
    """A sentence that failed, with all that can say why. Times are in seconds.

    `line` is the sentence itself, `before` those that were played before it, the last one last.
    `looked` is what there is to look for its element in, None where it has none or no page was
    kept; `nodes`, `title` and `address` are those of the page, `nodes_then` what was on it when it
    passed last. `usual` is how long each sentence took when it passed, by id. `late` is what a
    second look saw (core.engine.late). `corrected` counts what people called failures like it.
    """

    line: Line
    reason: str
    message: str
    limit: float = 10.0
    values: Mapping[str, str] = field(default_factory=dict)
    before: Sequence[Line] = ()
    looked: Looked | None = None
    nodes: Sequence[Facts] = ()
    nodes_then: Sequence[Facts] = ()
    title: str = ""
    address: str = ""
    usual: Mapping[str, Sequence[float]] = field(default_factory=dict)
    late: Mapping[str, Any] = field(default_factory=dict)
    green: Green | None = None
    changes: Changes = Changes()
    others: Others = Others()
    corrected: Mapping[str, int] = field(default_factory=dict)
    today: date | None = None

    @cached_property
    def answers(self) -> list[Answer]:
        """Why its element was not found or could not be used, the likeliest first."""
        return answers(self.looked) if self.looked else []

    @cached_property
    def said(self) -> list[str]:
        """What the page says in words that it did not say when it passed, outermost first."""
        texts = [tidy(self.title)] if self.title and _new_title(self) else []
        return list(dict.fromkeys([*texts, *(text for _, text in self._new)]))

    @cached_property
    def warned(self) -> str:
        """What the page puts before people as an alert and did not when it passed, "" for nothing.

        In whatever language: pages mark what went wrong so (WAI-ARIA 1.2, alert).
        """
        return next((text for facts, text in self._new if facts.role in ALERTS), "")

    @cached_property
    def _new(self) -> list[tuple[Facts, str]]:
        then = {numbers_open(one.text) for one in self.nodes_then}
        found = []
        for facts in self.nodes:
            text = tidy(facts.own or facts.text)
            if facts.visible and 3 <= len(text) <= 300 and numbers_open(text) not in then:
                found.append((facts, text))
        return found

    @cached_property
    def trouble(self) -> bool:
        """Whether the page says that it is down, broken, or wants another sign-in."""
        return any(saying(text) in ("session", "down", "broken") for text in self.said)

    @cached_property
    def columns(self) -> list[str]:
        """The columns that the failed sentence takes values from."""
        return [name for value in self.line.given.values() for name in uses(value, "row")]

    @cached_property
    def columns_before(self) -> list[str]:
        """The columns that it or a sentence before it takes values from."""
        given = [value for one in (*self.before, self.line) for value in one.given.values()]
        return list(dict.fromkeys(name for value in given for name in uses(value, "row")))

    @cached_property
    def fresh_requests(self) -> list[str]:
        """The requests that failed and did not when it passed, from its page on."""
        known = self._green_noise("requests")
        found = [one for line in (*self.before[-3:], self.line) for one in line.requests]
        return [one for one in dict.fromkeys(found) if numbers_open(one) not in known]

    @cached_property
    def fresh_console(self) -> list[str]:
        """The complaints in the console that were not there when it passed."""
        known = self._green_noise("console")
        found = [one for line in (*self.before[-3:], self.line) for one in line.console]
        return [one for one in dict.fromkeys(found) if numbers_open(one) not in known]

    def _green_noise(self, name: str) -> set[str]:
        lines = self.green.lines.values() if self.green else ()
        return {numbers_open(one) for line in lines for one in getattr(line, name)}

    @cached_property
    def then(self) -> Line | None:
        """The same sentence when it passed last."""
        return self.green.lines.get(self.line.step) if self.green else None


def _new_title(case: Case) -> bool:
    wanted = case.line.title or (case.looked.wanted_title if case.looked else "")
    return not wanted or numbers_open(wanted) != numbers_open(case.title)
