"""What a station is given to play a cast: all of it, and nothing beyond."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any

from lantern.core.elements.clues import Element
from lantern.core.engine.attempt import Flow, Script
from lantern.core.problems import BadInput
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import Document
from lantern.core.values.sources import Names


def seeing(body: Mapping[str, Any], flows: Mapping[str, Any]) -> frozenset[str]:
    """Return the ids of the sentences of a story that read what a page shows, in its flows too."""
    stories = [body, *(flow["body"] for flow in flows.values())]
    steps = [step for story in stories for step in story.get("steps", [])]
    return frozenset(
        str(one["id"]) for one in steps if one["action"] in ACTIONS and ACTIONS[one["action"]].sees
    )


@dataclass(frozen=True)
class Work:
    """A cast that was taken under a `token`, by the queue's `job`, with all that playing it needs.

    `body`, `elements` and `flows` are those of its run, as they were when it was queued; `secrets`
    the values that its environment keeps secret, by name; `files` the digests of the files of its
    test, by name; `day` is the day on which it was queued; `first` tells that it is the run's first
    cast, `watched` that what its checks saw is kept, which is so in the first two.
    `test`, `account` and `plan_run` are numbers;
    `trouble` says why it can not be played at all, "" where it can.
    """

    cast: int
    token: str
    job: int
    run: int
    number: int
    browser: str
    values: Mapping[str, str]
    kind: str
    address: str
    body: Mapping[str, Any]
    elements: Mapping[str, Any]
    flows: Mapping[str, Any]
    files: Mapping[str, str]
    variables: Mapping[str, str]
    secrets: Mapping[str, str]
    seed: str
    day: date
    first: bool = False
    watched: bool = False
    test: int | None = None
    account: int | None = None
    plan_run: int | None = None
    trouble: str = ""

    def script(self) -> Script:
        """Return what is to be played; raises BadInput for what can not be read."""
        document = Document.read(dict(self.body))
        known = {key: Element.read(raw) for key, raw in self.elements.items()}
        flows = {
            key: Flow(raw["name"], Document.read(raw["body"])) for key, raw in self.flows.items()
        }
        names = Names(
            row=dict(self.values),
            env={**self.variables, "base_url": self.address},
            secret=dict(self.secrets),
            given={one.name: one.default for one in document.takes},
            seed=f"{self.seed}|{self.number}",
            today=self.day,
        )
        return Script(document, known, names, self.address, flows)

    def unseen(self) -> dict[str, str]:
        """Return by step the elements that are known by their clues alone."""
        return {
            step["id"]: step["element"]
            for step in self.body.get("steps", [])
            if step["element"] and not self.elements.get(step["element"], {}).get("seen")
        }

    def seeing(self) -> frozenset[str]:
        """Return the ids of the sentences that read what a page shows, in flows too."""
        return seeing(self.body, self.flows)

    def as_json(self) -> dict[str, Any]:
        """Return it as a JSON object."""
        return asdict(self) | {"day": self.day.isoformat()}

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Work:
        """Read what `as_json` wrote; raises BadInput."""
        try:
            return cls(**{**raw, "day": date.fromisoformat(raw["day"])})
        except (KeyError, TypeError, ValueError) as error:
            raise BadInput("That is no cast to be played.", hint=str(error)) from error
