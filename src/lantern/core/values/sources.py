"""Where a value can come from: each source is one entry, with all that is to be known of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date
from random import Random
from typing import Literal


@dataclass(frozen=True)
class Names:
    """The values that may be named, by source; `secret` values are never shown.

    `kept` grows while a row is played, `given` are the inputs of the flow that is played, `each`
    is what the innermost repeat is at. `seed` (the run's, with the row) and `today` decide what
    is made up; `instead` holds what a person wants in its place, by the place it is made up for.
    """

    row: Mapping[str, str] = field(default_factory=dict)
    env: Mapping[str, str] = field(default_factory=dict)
    secret: Mapping[str, str] = field(default_factory=dict, repr=False)
    kept: dict[str, str] = field(default_factory=dict)
    given: Mapping[str, str] = field(default_factory=dict)
    each: Mapping[str, str] = field(default_factory=dict)
    seed: str = ""
    today: date = date(2026, 1, 1)
    instead: Mapping[str, str] = field(default_factory=dict)
    of_field: Callable[[Random, date], str] | None = None


@dataclass(frozen=True)
class Source:
    """Where a value can come from.

    `what` its names are called in messages, `reach` gives its values by name, `python` is the
    expression for one in exported scripts (`{}` stands for the name in quotes), `tells` says under
    a sentence where such a value comes from (`{}` for the name). It is `offered` by these words in
    place of a constant ("" for not), in a `flow` alone or everywhere; a `hidden` value is shown as
    a mask.
    """

    what: str
    reach: Callable[[Names], Mapping[str, str]]
    python: str
    tells: str
    offered: str = ""
    within: Literal["", "flow"] = ""
    hidden: bool = False


SOURCES: dict[str, Source] = {
    "row": Source(
        "column",
        lambda names: names.row,
        "row[{}]",
        "Taken from the column “{}” of each row.",
        "a column",
    ),
    "env": Source(
        "environment variable",
        lambda names: names.env,
        "ENV[{}]",
        "Taken from the environment that the test runs in.",
        "a variable of the environment",
    ),
    "secret": Source(
        "secret",
        lambda names: names.secret,
        "secret({})",
        "The secret “{}” of the environment; nobody can read it.",
        "a secret",
        hidden=True,
    ),
    "kept": Source(
        "kept value",
        lambda names: names.kept,
        "kept[{}]",
        "Taken from what an earlier sentence kept.",
        "a kept value",
    ),
    "input": Source(
        "input of the flow",
        lambda names: names.given,
        "given[{}]",
        "Given by whatever calls the flow.",
        "an input of the flow",
        within="flow",
    ),
    "each": Source(
        "value of the repeat",
        lambda names: names.each,
        "each[{}]",
        "Taken from what the repeat is at.",
    ),
}
"""Every source by the name that templates write."""
