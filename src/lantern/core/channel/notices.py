"""What everybody is told when something changes."""

from __future__ import annotations

from typing import Literal, NotRequired

from typing_extensions import TypedDict

About = Literal[
    "", "test", "element", "files", "run", "defect", "project", "environment", "stations",
    "signed out", "stop",
]  # fmt: skip
"""What a notice is about."""


class Notice(TypedDict):
    """Something has changed: ids only. An empty `about` follows a gap: anything may have."""

    about: About
    id: NotRequired[int | str]
    row: NotRequired[int]
    version: NotRequired[int]
    account: NotRequired[int]
    sign_ins: NotRequired[list[str]]
    casts: NotRequired[list[int]]
