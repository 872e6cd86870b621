"""What everybody is told when something changes."""

from __future__ import annotations

from typing import Literal, NotRequired

from typing_extensions import TypedDict

About = Literal[
    "", "test", "element", "files", "run", "defect", "project", "environment", "stations",
    "signed out", "stop", "presence", "breakpoints", "plans", "plan run", "queue", "comment",
]  # fmt: skip
"""What a notice is about."""

Doing = Literal["", "recording", "rehearsing", "gone"]
"""What somebody does in a test beside reading and changing it."""


class Here(TypedDict):
    """What a page says over its connection for notices: in which test it is, where, doing what.

    A `test` of 0 is none; `who` is a name that the page made up for itself; `runs` are those that
    it follows closely, of which it is told what changed instead of that something did.
    """

    who: str
    test: int
    runs: NotRequired[list[int]]
    at: NotRequired[str]
    doing: NotRequired[Doing]


class Notice(TypedDict):
    """Something has changed: ids only. An empty `about` follows a gap: anything may have.

    About presence: `who` is a page that has test `id` open, `name` and `account` say whose, `at`
    the sentence that is chosen there, `doing` what goes on there, "gone" when it is left.

    About a run: `casts` are those of its casts that changed, `results` those of their results that
    are new; `small` when only those who follow the run closely are to know.
    """

    about: About
    id: NotRequired[int | str]
    version: NotRequired[int]
    account: NotRequired[int]
    sign_ins: NotRequired[list[str]]
    casts: NotRequired[list[int]]
    results: NotRequired[list[int]]
    small: NotRequired[bool]
    who: NotRequired[str]
    name: NotRequired[str]
    at: NotRequired[str]
    doing: NotRequired[Doing]
