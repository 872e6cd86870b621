"""Requirements, what covers them, and how that came out."""

from __future__ import annotations

from pydantic import Field

from lantern.core.review.requirements import LONGEST_ID
from lantern.web.shapes.base import Shape


class StandingOut(Shape):
    """How a requirement came out on a release: the worst of `rows` rows, and the run of that."""

    release: str
    outcome: str
    run: int
    rows: int


class CoversOut(Shape):
    """A test that covers a requirement."""

    test: int
    name: str


class RequirementOut(Shape):
    """A requirement: where it lives ("" for nowhere), what covers it, how it stands."""

    id: str
    title: str
    link: str
    tests: list[CoversOut]
    releases: list[StandingOut]


class SchemeOut(Shape):
    """How requirements are named: the form of ids, the column of rows, the address with {id}."""

    form: str = Field(max_length=200)
    column: str = Field(max_length=80)
    address: str = Field(default="", max_length=500)


class Requirements(Shape):
    """All requirements by id, the releases newest first, and how many are `known` of a list."""

    requirements: list[RequirementOut]
    releases: list[str]
    scheme: SchemeOut
    known: int


class KnownIn(Shape):
    """A CSV whose first column holds ids, and whose second holds titles; the list that there is."""

    csv: str = Field(max_length=LONGEST_ID * 200_000)
