"""Edits of what holds for a whole test or flow."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, NotRequired, Self

from typing_extensions import TypedDict

from lantern.core.problems import BadInput
from lantern.core.runs.places import check_labels
from lantern.core.steps.code import signature
from lantern.core.steps.edits.asked import SettingsAsked, TakenAsked
from lantern.core.steps.edits.base import CALLING, NEEDS, Edit, NewId, setting_part
from lantern.core.steps.labels import read_labels, relabelled
from lantern.core.steps.model import Document, Settings, Taken
from lantern.core.values.templates import check_name, renamed


class SetSettingsAsked(TypedDict):
    """What `SetSettings` is read from."""

    do: Literal["set settings"]
    fields: SettingsAsked


@dataclass(frozen=True)
class SetSettings(Edit):
    """Set some of the test's settings; None leaves one to the project."""

    do = "set settings"
    asked = SetSettingsAsked
    told = "settings changed"
    fields: Mapping[str, Any]

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON."""
        return cls(dict(raw.get("fields") or {}))

    def touches(self) -> frozenset[str]:
        """Return the settings that are meant: two people may change different ones."""
        return frozenset(map(setting_part, self.fields))

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the settings."""
        left = {name for name, value in self.fields.items() if value is None}
        given = {name: value for name, value in self.fields.items() if value is not None}
        inherits = [name for name in document.settings.inherits if name not in given] + [*left]
        raw = document.settings.as_json() | given | {"inherits": inherits}
        return replace(document, settings=Settings.read(raw))


class SetLabelsAsked(TypedDict):
    """What `SetLabels` is read from."""

    do: Literal["set labels"]
    add: NotRequired[list[str]]
    remove: NotRequired[list[str]]


@dataclass(frozen=True)
class SetLabels(Edit):
    """Put labels on a test and take some off; two people may do so at once."""

    do = "set labels"
    asked = SetLabelsAsked
    told = "labels changed"
    add: tuple[str, ...] = ()
    remove: tuple[str, ...] = ()

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput for what can not be a label."""
        return cls(read_labels(raw.get("add") or ()), read_labels(raw.get("remove") or ()))

    def touches(self) -> frozenset[str]:
        """Return nothing: whatever the labels are by now, these are added and removed."""
        return frozenset()

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the labels."""
        return replace(document, labels=relabelled(document.labels, self.add, self.remove))


class SetNeedsAsked(TypedDict):
    """What `SetNeeds` is read from."""

    do: Literal["set needs"]
    needs: list[str]


@dataclass(frozen=True)
class SetNeeds(Edit):
    """Say which labels a station must have to play the test."""

    do = "set needs"
    asked = SetNeedsAsked
    told = "what it needs of a station changed"
    needs: tuple[str, ...] = ()

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput for what can not be a label of a station."""
        return cls(check_labels(raw.get("needs") or ()))

    def touches(self) -> frozenset[str]:
        """Return what is needed of a station."""
        return frozenset({NEEDS})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with what it needs."""
        return replace(document, needs=self.needs)


class SetCallingAsked(TypedDict):
    """What `SetCalling` is read from."""

    do: Literal["set calling"]
    takes: list[TakenAsked]
    gives: list[str]
    was: NotRequired[dict[str, str]]


@dataclass(frozen=True)
class SetCalling(Edit):
    """Set what a flow takes and gives; `was` tells the old names of inputs that are renamed."""

    do = "set calling"
    asked = SetCallingAsked
    told = "inputs and outputs changed"
    takes: tuple[Taken, ...]
    gives: tuple[str, ...]
    was: Mapping[str, str]

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput for names, and for two that are the same."""
        takes = tuple(Taken.read(one) for one in raw.get("takes") or ())
        gives = tuple(check_name(str(name), "output") for name in raw.get("gives") or ())
        for names in ([one.name for one in takes], list(gives)):
            double = next((name for name in names if names.count(name) > 1), None)
            if double:
                raise BadInput(f"Two are named {double!r}.", where=double)
        was = {str(new): str(old) for new, old in (raw.get("was") or {}).items() if new != old}
        return cls(takes, gives, was)

    def touches(self) -> frozenset[str]:
        """Return the inputs and outputs."""
        return frozenset({CALLING})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the flow with them; sentences that used an old name use the new one."""

        def changed(value: str) -> str:
            for new, old in self.was.items():
                value = renamed(value, "input", old, new)
            return value

        steps = tuple(
            replace(step, inputs={name: changed(value) for name, value in step.inputs.items()})
            for step in document.steps
        )
        return replace(document, steps=steps, takes=self.takes, gives=self.gives)


class SetCodeAsked(TypedDict):
    """What `SetCode` is read from."""

    do: Literal["set code"]
    code: str


@dataclass(frozen=True)
class SetCode(Edit):
    """Give a flow that is written in Python another source; its inputs and outputs follow."""

    do = "set code"
    asked = SetCodeAsked
    told = "code changed"
    code: str

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """Build the edit from JSON; raises BadInput, with the line, for code that is wrong."""
        code = str(raw.get("code") or "")
        signature(code)
        return cls(code)

    def touches(self) -> frozenset[str]:
        """Return what calls depend on."""
        return frozenset({CALLING})

    def apply(self, document: Document, new_id: NewId) -> Document:
        """Return the document with the code."""
        offers = signature(self.code)
        return replace(document, code=self.code, takes=offers.takes, gives=offers.gives, steps=())


ENTRIES: tuple[type[Edit], ...] = (SetSettings, SetLabels, SetNeeds, SetCalling, SetCode)
