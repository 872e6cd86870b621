"""What every edit is."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Self

from lantern.core.problems import BadInput
from lantern.core.steps.model import Document, Step

NewId = Callable[[], str]
TABLE = "table"
SETTINGS = "settings"
CALLING = "calling"
NEEDS = "needs"
_ROW = "row "


def setting_part(name: str) -> str:
    """Return the name of a setting among what edits touch."""
    return f"{SETTINGS} {name}"


def row_part(row_id: str) -> str:
    """Return the name of a row among what edits touch."""
    return _ROW + row_id


class Edit(ABC):
    """A change of a document. `do` names it in JSON ("" for one that only Lantern makes).

    `told` says in the list of versions what was done, `asked` is the typed dictionary that it is
    read from.
    """

    do: ClassVar[str] = ""
    told: ClassVar[str] = ""
    asked: ClassVar[type[Any] | None] = None

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput for parts that make no sense.

        What only Lantern makes can not be asked for, and is refused.
        """
        raise BadInput(f"{cls.__name__} is no change that can be asked for.", where="do")

    @abstractmethod
    def touches(self) -> frozenset[str]:
        """Return what it depends on: ids of steps, and the names of parts that stand above."""

    @abstractmethod
    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document after the edit; raises Missing or BadInput."""


def ids_in(raw: Mapping[str, Any]) -> tuple[str, ...]:
    """Return the ids of the sentences that an edit is about; raises BadInput for none."""
    ids = tuple(str(step) for step in raw.get("steps") or ())
    if not ids:
        raise BadInput("Say which sentences are meant.", where="steps")
    return ids


def all_there(document: Document, ids: Sequence[str]) -> None:
    """Raise Missing when a step is gone."""
    for step_id in ids:
        document.step(step_id)


def with_fields(step: Step, fields: Mapping[str, Any]) -> Step:
    """Return a step with parts replaced; `inputs` are merged, None takes one away."""
    merged = step.as_json() | dict(fields)
    inputs = {**step.inputs, **(fields.get("inputs") or {})}
    merged["inputs"] = {name: value for name, value in inputs.items() if value is not None}
    return Step.read(merged | {"id": step.id})


@dataclass(frozen=True)
class OfSteps(Edit):
    """An edit of sentences; `steps` are their ids."""

    steps: tuple[str, ...]

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput when no sentence is named."""
        return cls(ids_in(raw))

    def touches(self) -> frozenset[str]:
        """Return the steps."""
        return frozenset(self.steps)
