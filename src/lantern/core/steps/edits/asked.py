"""The parts that edits are read from, as they come over the API.

Typed dictionaries, so that the API can say of each edit what belongs to it; what a value may be is
still for the edits themselves to say.
"""

from __future__ import annotations

from typing_extensions import TypedDict

from lantern.core.steps.model import InputKind, OnFailure, OnInterrupted, Pictures


class _Parts(TypedDict, total=False):
    action: str
    element: str
    enabled: bool
    limit: float | None
    on_failure: OnFailure | None
    page: str
    picture: str
    box: list[float] | None
    onto: str
    title: str
    comment: str
    idle: bool
    flow: str
    retries: int | None
    pictures: Pictures | None


class StepAsked(_Parts, total=False):
    """A sentence; without an `id` it gets one."""

    id: str
    inputs: dict[str, str]
    depth: int


class FieldsAsked(_Parts, total=False):
    """Parts of a sentence that change; `inputs` are merged, null takes one away."""

    inputs: dict[str, str | None]


class RowAsked(TypedDict, total=False):
    """A row; without an `id` it gets one."""

    id: str
    values: dict[str, str]
    ticked: bool
    designed: bool


class CellAsked(TypedDict):
    """A value, by row and column."""

    row: str
    column: str
    value: str


class PlaceAsked(TypedDict):
    """A value of a sentence."""

    step: str
    input: str


class SettingsAsked(TypedDict, total=False):
    """Settings of a test that change; null, or a name in `inherits`, leaves one to the project."""

    limit: float | None
    on_failure: OnFailure | None
    pictures: Pictures | None
    retries: int | None
    on_interrupted: OnInterrupted | None
    inherits: list[str]


class TakenAsked(TypedDict, total=False):
    """An input of a flow."""

    name: str
    kind: InputKind
    default: str
