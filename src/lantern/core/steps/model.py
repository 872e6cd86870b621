"""A test as a document: steps, a table of rows and settings. Immutable; edits make new ones."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal, get_args

from lantern.core.data.table import PLAIN, Row, Trait
from lantern.core.elements.facts import tidy
from lantern.core.problems import BadInput, Missing, UnknownName
from lantern.core.steps.labels import read_labels
from lantern.core.values.templates import check_name

__all__ = [
    "Document",
    "InputKind",
    "OnFailure",
    "OnInterrupted",
    "Pictures",
    "Row",
    "Settings",
    "Step",
    "Taken",
    "Trait",
]

OnFailure = Literal["stop", "go on", "stop everything"]
Pictures = Literal["each step", "failures", "none"]
OnInterrupted = Literal["leave", "play again"]
InputKind = Literal["text", "number", "date", "yes/no"]
LIMIT_RANGE = (0.1, 600.0)
MOST_RETRIES = 5
DEEPEST = 12
LONGEST_TITLE = 200
LONGEST_COMMENT = 4000


def _choice(
    value: object,
    kinds: Any,  # noqa: ANN401 - a Literal type
    where: str,
) -> Any:  # noqa: ANN401 - one of that type's values
    known = get_args(kinds)
    if value not in known:
        raise UnknownName("choice", str(value), known, where=where)
    return value


def _box(sides: Sequence[float]) -> tuple[float, float, float, float]:
    x, y, width, height = (float(side) for side in sides)
    return x, y, width, height


def check_limit(value: object) -> float:
    """Return a time limit in seconds; raises BadInput outside LIMIT_RANGE."""
    try:
        limit = float(str(value))
    except ValueError as error:
        raise BadInput(f"A time limit is a number of seconds, not {value!r}.") from error
    if not LIMIT_RANGE[0] <= limit <= LIMIT_RANGE[1]:
        raise BadInput(f"A time limit is between {LIMIT_RANGE[0]} and {LIMIT_RANGE[1]:g} seconds.")
    return limit


def _whole(value: object, most: int, what: str) -> int:
    try:
        number = int(str(value))
    except ValueError as error:
        raise BadInput(f"{what} is a whole number, not {value!r}.") from error
    if not 0 <= number <= most:
        raise BadInput(f"{what} is between 0 and {most}.")
    return number


@dataclass(frozen=True)
class Step:
    """One step.

    `inputs` holds value templates by the names that the action gives them; `element` the id of
    the element that it acts on, "" for none; `limit` and `on_failure` override the test's;
    `page` is the title of the page it was recorded on; `picture` the digest of a picture and
    `box` where on it the element is (x, y, width, height as shares of the picture, 0 to 1).
    `onto` is the second element of actions that have two; `title` stands above the sentence where
    a person gave one, `comment` below it; `idle` marks a recorded press that did nothing.
    `depth` tells how many blocks the step is in: those blocks are the nearest steps before it of
    lower depths. `flow` is the id of the flow that it calls. `retries` tells how often it is
    carried out again when it fails, `pictures` which pictures are kept of it. The limit, the
    retries, the pictures and what to do on failure of a block hold for all that is in it and does
    not say otherwise.
    """

    id: str
    action: str
    element: str = ""
    inputs: Mapping[str, str] = field(default_factory=dict)
    enabled: bool = True
    limit: float | None = None
    on_failure: OnFailure | None = None
    page: str = ""
    picture: str = ""
    box: tuple[float, float, float, float] | None = None
    onto: str = ""
    title: str = ""
    comment: str = ""
    idle: bool = False
    depth: int = 0
    flow: str = ""
    retries: int | None = None
    pictures: Pictures | None = None

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Step:
        """Build a step from JSON; raises BadInput when a part makes no sense."""
        inputs = raw.get("inputs") or {}
        if not isinstance(inputs, Mapping):
            raise BadInput("The inputs of a step are names with values.", where=str(raw.get("id")))
        box = raw.get("box")
        on_failure = raw.get("on_failure")
        limit, retries, shots = raw.get("limit"), raw.get("retries"), raw.get("pictures")
        return cls(
            id=str(raw.get("id") or ""),
            action=str(raw.get("action") or ""),
            element=str(raw.get("element") or ""),
            inputs={str(name): str(value) for name, value in inputs.items()},
            enabled=bool(raw.get("enabled", True)),
            limit=None if limit is None else check_limit(limit),
            on_failure=None if on_failure is None else _choice(on_failure, OnFailure, "on failure"),
            page=str(raw.get("page") or ""),
            picture=str(raw.get("picture") or ""),
            box=_box(box) if box and len(box) == 4 else None,
            onto=str(raw.get("onto") or ""),
            title=tidy(raw.get("title"))[:LONGEST_TITLE],
            comment=str(raw.get("comment") or "")[:LONGEST_COMMENT],
            idle=bool(raw.get("idle", False)),
            depth=_whole(raw.get("depth", 0), DEEPEST, "The depth of a sentence"),
            flow=str(raw.get("flow") or ""),
            retries=None if retries is None else _whole(retries, MOST_RETRIES, "Retries"),
            pictures=None if shots is None else _choice(shots, Pictures, "pictures"),
        )

    def as_json(self) -> dict[str, Any]:
        """Return the step as an object that `read` accepts."""
        return {
            "id": self.id,
            "action": self.action,
            "element": self.element,
            "inputs": dict(self.inputs),
            "enabled": self.enabled,
            "limit": self.limit,
            "on_failure": self.on_failure,
            "page": self.page,
            "picture": self.picture,
            "box": list(self.box) if self.box else None,
            "onto": self.onto,
            "title": self.title,
            "comment": self.comment,
            "idle": self.idle,
            "depth": self.depth,
            "flow": self.flow,
            "retries": self.retries,
            "pictures": self.pictures,
        }


@dataclass(frozen=True)
class Settings:
    """What holds for every step that does not say otherwise; `limit` is in seconds.

    `on_interrupted` tells what becomes of a row whose station died while it played: what it had
    done until then is not taken back, so it is left unless the test says otherwise. `inherits`
    names those that are as the project says, whatever stands here.
    """

    limit: float = 10.0
    on_failure: OnFailure = "stop"
    pictures: Pictures = "each step"
    retries: int = 0
    on_interrupted: OnInterrupted = "leave"
    inherits: tuple[str, ...] = ()

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Settings:
        """Build settings from JSON; what is missing takes its default."""
        default = cls()
        return cls(
            limit=check_limit(raw.get("limit", default.limit)),
            on_failure=_choice(raw.get("on_failure", default.on_failure), OnFailure, "on failure"),
            pictures=_choice(raw.get("pictures", default.pictures), Pictures, "pictures"),
            retries=_whole(raw.get("retries", default.retries), MOST_RETRIES, "Retries"),
            on_interrupted=_choice(
                raw.get("on_interrupted", default.on_interrupted), OnInterrupted, "when interrupted"
            ),
            inherits=tuple(name for name in INHERITED if name in (raw.get("inherits") or ())),
        )

    def as_json(self) -> dict[str, Any]:
        """Return the settings as an object that `read` accepts."""
        return {
            "limit": self.limit,
            "on_failure": self.on_failure,
            "pictures": self.pictures,
            "retries": self.retries,
            "on_interrupted": self.on_interrupted,
            "inherits": list(self.inherits),
        }

    def within(self, project: Settings) -> Settings:
        """Return the settings with what they inherit as the project says."""
        return replace(self, **{name: getattr(project, name) for name in self.inherits})


INHERITED = ("limit", "on_failure", "pictures", "retries", "on_interrupted")
"""What a test can leave to its project."""


@dataclass(frozen=True)
class Taken:
    """An input of a flow; `default` is a value template that holds where a caller gives none."""

    name: str
    kind: InputKind = "text"
    default: str = ""

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Taken:
        """Build an input from JSON; raises BadInput for its name or kind."""
        return cls(
            check_name(str(raw.get("name") or ""), "input"),
            _choice(raw.get("kind", "text"), InputKind, "kind of an input"),
            str(raw.get("default") or ""),
        )


@dataclass(frozen=True)
class Document:
    """What a test or a flow consists of; `design` is how designed rows were made, {} for none.

    `takes` are the inputs of a flow, `gives` the names of the kept values that it hands back.
    `traits` tells more of columns than their names; `table` is the id of the shared table from
    which the columns and rows come, "" for rows of the test's own; `source` tells from which
    attached file they came, {} for none. `code` is the Python source of a flow that is written
    in Python; it has no steps. `labels` are what people sort it by, `needs` labels
    that a station must have to play it.
    """

    steps: tuple[Step, ...] = ()
    columns: tuple[str, ...] = ()
    rows: tuple[Row, ...] = ()
    settings: Settings = Settings()
    design: Mapping[str, Any] = field(default_factory=dict)
    takes: tuple[Taken, ...] = ()
    gives: tuple[str, ...] = ()
    traits: Mapping[str, Trait] = field(default_factory=dict)
    table: str = ""
    source: Mapping[str, Any] = field(default_factory=dict)
    code: str = ""
    labels: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Document:
        """Build a document from JSON; raises BadInput with the part that makes no sense."""
        return cls(
            steps=tuple(Step.read(step) for step in raw.get("steps") or ()),
            columns=tuple(str(column) for column in raw.get("columns") or ()),
            rows=tuple(Row.read(row) for row in raw.get("rows") or ()),
            settings=Settings.read(raw.get("settings") or {}),
            design=dict(raw.get("design") or {}),
            takes=tuple(Taken.read(one) for one in raw.get("takes") or ()),
            gives=tuple(check_name(str(name), "output") for name in raw.get("gives") or ()),
            traits={name: Trait.read(one) for name, one in (raw.get("traits") or {}).items()},
            table=str(raw.get("table") or ""),
            source=dict(raw.get("source") or {}),
            code=str(raw.get("code") or ""),
            labels=read_labels(raw.get("labels") or ()),
            needs=read_labels(raw.get("needs") or ()),
        )

    def as_json(self) -> dict[str, Any]:
        """Return the document as an object that `read` accepts."""
        return {
            "steps": [step.as_json() for step in self.steps],
            "columns": list(self.columns),
            "rows": [row.as_json() for row in self.rows],
            "settings": self.settings.as_json(),
            "design": dict(self.design),
            "takes": [vars(one) for one in self.takes],
            "gives": list(self.gives),
            "traits": {name: one.as_json() for name, one in self.traits.items()},
            "table": self.table,
            "source": dict(self.source),
            "code": self.code,
            "labels": list(self.labels),
            "needs": list(self.needs),
        }

    def trait(self, column: str) -> Trait:
        """Return what is known of a column."""
        return self.traits.get(column, PLAIN)

    def step(self, step_id: str) -> Step:
        """Return the step of that id; raises Missing when it is gone."""
        for step in self.steps:
            if step.id == step_id:
                return step
        raise Missing("That sentence is no longer in the test.", where=step_id)

    def with_step(self, step: Step) -> Document:
        """Return the document with the step of the same id replaced."""
        self.step(step.id)
        return replace(self, steps=tuple(step if old.id == step.id else old for old in self.steps))

    def element_ids(self) -> Iterable[str]:
        """Return the ids of the elements that the steps act on, each once."""
        used = (key for step in self.steps for key in (step.element, step.onto))
        return dict.fromkeys(key for key in used if key)

    def flow_ids(self) -> Iterable[str]:
        """Return the ids of the flows that the steps call, each once."""
        return dict.fromkeys(step.flow for step in self.steps if step.flow)
