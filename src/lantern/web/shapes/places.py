"""What is around the tests: health, catalogue, environments, stations, search."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from pydantic import Field

from lantern.core.runs.places import Mode
from lantern.web.shapes.base import Query, Shape


class Health(Shape):
    """How Lantern is: `status` is "ok" when each part is; `troubles` tells what keeps dying."""

    status: Literal["ok", "starting", "broken"]
    version: str
    database: str
    stations: str
    sample_application: str
    troubles: list[str]


class BrowserOut(Shape):
    """A browser that rows can run in: `name` as people write it, offered by so many stations.

    `can` tells what its engine does beyond playing what was recorded, `package` what brings it,
    `versions` which versions of it the stations have, `lacks` what it can not do of it.
    """

    name: str
    title: str
    engine: str
    package: str
    can: list[str]
    lacks: list[str]
    stations: int
    versions: list[str]


class BrowsersOut(Shape):
    """The browsers that rows can run in, the usual one first."""

    browsers: list[BrowserOut]


class InputOut(Shape):
    """A value that an action takes."""

    name: str
    kind: str
    choices: list[str]
    default: str
    optional: bool


class ActionOut(Shape):
    """An action of the catalogue; `kinds` is null for one without an element, empty for any.

    `block` tells how it plays what is inside it, "" for what has nothing inside.
    """

    name: str
    title: str
    template: str
    help: str
    inputs: list[InputOut]
    kinds: list[str] | None
    onto: bool
    block: str


class SourceOut(Shape):
    """Where a value can come from; see core.values.sources."""

    name: str
    tells: str
    offered: str
    within: str
    hidden: bool


class MadePart(Shape):
    """A part of a form for a made-up value; see core.values.made."""

    name: str
    kind: Literal["number", "text", "texts"]
    default: str
    optional: bool


class MadeOut(Shape):
    """A way to make values up, and its form."""

    name: str
    title: str
    parts: list[MadePart]


class Catalogue(Shape):
    """What steps, checks and defects can be made of."""

    actions: list[ActionOut]
    sources: list[SourceOut]
    made: list[MadeOut]
    kinds: list[str]
    operators: list[str]
    facts: list[str]
    """Facts by which elements are recognised; others are attributes of that name."""
    comparisons: list[str]
    properties: list[str]
    severities: list[str]
    defect_states: list[str]
    priorities: list[str]
    roles: list[str]


class EnvironmentOut(Shape):
    """An environment; of secrets only the names are ever shown."""

    id: int
    name: str
    address: str
    reset: str
    variables: dict[str, str]
    secrets: list[str]


class EnvironmentIn(Shape):
    """An environment to be created; `reset` is the path that sets it back by a POST."""

    name: str = Field(min_length=1, max_length=80)
    address: str = Field(min_length=1, max_length=500)
    reset: str = Field("", max_length=200)
    variables: dict[str, str] = Field(default_factory=dict)


class EnvironmentChange(Shape):
    """What is to change of an environment: what is None stays as it is, for others may change it.

    `reset` is "" for none; of `variables` those that are named are set, None takes one away. `was`
    is what the text was that is changed: a conflict where somebody else has changed it since.
    """

    was: str | None = None
    name: str | None = Field(None, min_length=1, max_length=80)
    address: str | None = Field(None, min_length=1, max_length=500)
    reset: str | None = Field(None, max_length=200)
    variables: dict[str, str | None] | None = None


class Environments(Shape):
    """All environments."""

    environments: list[EnvironmentOut]


class SecretIn(Shape):
    """A secret to be kept."""

    name: str
    value: str


class EngineHere(Shape):
    """An engine that a station can start, and its version, "" where it does not say one."""

    name: str
    title: str
    version: str


class StationOut(Shape):
    """A station: the engines that it can start, the browsers that run there, how busy it is.

    `load` is of its machine, by processor; `up` tells whether it lives, `joined` whether it joined
    over the network.
    """

    id: str
    name: str
    up: bool
    joined: bool
    mode: Mode
    labels: list[str]
    engines: list[EngineHere]
    browser: str
    busy: int
    places: int
    load: float
    started_at: datetime
    beat_at: datetime
    ended_at: datetime | None


class Stations(Shape):
    """The stations that are known, those first that live."""

    stations: list[StationOut]


class StationChange(Shape):
    """Let a station work, pause or drain; give it labels."""

    mode: Mode | None = None
    labels: list[str] | None = Field(default=None, max_length=20)


class Playing(Shape):
    """A cast that a station, told by its id, plays."""

    station: str
    cast: int
    run: int
    test: str
    number: int
    browser: str
    sentence: str
    since: datetime | None


class StationFailure(Shape):
    """A cast that a station ended otherwise than well."""

    cast: int
    run: int
    test: str
    number: int
    browser: str
    outcome: str
    message: str
    ended_at: datetime | None


class StationDay(Shape):
    """How many casts a station ended on a day, by outcome."""

    day: date
    casts: dict[str, int]


class StationWhole(Shape):
    """A station with what it plays, and what it did in the last fourteen days."""

    station: StationOut
    plays: list[Playing]
    days: list[StationDay]
    failures: list[StationFailure]


class Found(Shape):
    """A thing that a search found."""

    kind: Literal["test", "plan", "run", "defect", "element"]
    title: str
    detail: str
    link: str


class SearchAsk(Query):
    """What to search for."""

    q: str = ""


class SearchOut(Shape):
    """What a search found, best first."""

    found: list[Found]
