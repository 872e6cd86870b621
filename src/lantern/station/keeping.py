"""Keeping what is recorded: each step goes into the test as soon as it happens."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lantern.browser.chromium import VIEWPORT
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Box
from lantern.core.problems import Missing
from lantern.core.recording.recorder import Add, Change, Proposal, Update
from lantern.core.steps.edits import Change as ChangeStep
from lantern.core.steps.edits import Insert
from lantern.core.steps.model import Step
from lantern.core.values.templates import propose_name
from lantern.store import elements, pictures, tests
from lantern.store.database import Database
from lantern.store.vault import Vault


@dataclass(frozen=True)
class _Kept:
    step_id: str
    secret: str = ""


class Keeper:
    """Keeps the steps recorded on one stage in one test, as its author."""

    def __init__(self, database: Database, vault: Vault, test_id: int, account_id: int) -> None:
        self._database, self._vault = database, vault
        self._test_id, self._account_id = test_id, account_id
        self._kept: dict[int, _Kept] = {}

    def keep(self, change: Change, picture: bytes) -> None:
        """Keep a change of the story; a step that a person deleted meanwhile stays deleted."""
        match change:
            case Add():
                self.settle_secrets()
                self._add(change, picture)
            case Update():
                try:
                    self._update(change)
                except Missing:
                    self._kept.pop(change.key, None)

    def element(self, element_id: str) -> Element | None:
        """Return an element, or None when it is gone."""
        with self._database.session() as session:
            return elements.load(session, [element_id]).get(element_id)

    def add_check(
        self, proposal: Proposal, inputs: Mapping[str, str], page: str, picture: bytes
    ) -> None:
        """Add a check of an element."""
        self._add(Add(0, "check", inputs, proposal, page), picture)

    def _add(self, change: Add, picture: bytes) -> None:
        with self._database.session() as session:
            element = elements.take(session, change.element) if change.element else None
            inputs, secret = dict(change.inputs), ""
            if change.secret is not None:
                test = tests.get(session, self._test_id)
                secret = self._secret_name(
                    self._vault.values(session, test.environment_id),
                    element.name if element else "",
                )
                self._vault.put(session, test.environment_id, secret, change.secret)
                inputs["text"] = f"${{secret.{secret}}}"
            # What was shown before an address was opened says nothing about it.
            pictured = picture and change.action != "open"
            step = Step(
                id=tests.new_id(),
                action=change.action,
                element=element.id if element else "",
                inputs=inputs,
                page=change.page,
                picture=pictures.keep(session, picture) if pictured else "",
                box=_share(change.element.box) if change.element else None,
            )
            tests.edit(session, self._test_id, Insert((step,)), self._account_id)
        self._kept[change.key] = _Kept(step.id, secret)

    @staticmethod
    def _secret_name(known: Mapping[str, str], label: str) -> str:
        base = propose_name(label or "secret")
        name, number = base, 2
        while name in known:
            name, number = f"{base}_{number}", number + 1
        return name

    def _update(self, change: Update) -> None:
        kept = self._kept.get(change.key)
        if kept is None:
            return
        with self._database.session() as session:
            if change.secret is not None and kept.secret:
                test = tests.get(session, self._test_id)
                self._vault.put(session, test.environment_id, kept.secret, change.secret)
                return
            fields = {"action": change.action, "inputs": dict(change.inputs)}
            edit = ChangeStep(kept.step_id, fields)
            tests.edit(session, self._test_id, edit, self._account_id)

    def settle_secrets(self) -> None:
        """Use one secret where the same password was typed again; called when typing is over."""
        typed = {key: kept for key, kept in self._kept.items() if kept.secret}
        if not typed:
            return
        with self._database.session() as session:
            environment = tests.get(session, self._test_id).environment_id
            for key, kept in typed.items():
                self._kept[key] = _Kept(kept.step_id)
                values = self._vault.values(session, environment)
                value = values.pop(kept.secret, None)
                same = next((name for name, known in values.items() if known == value), None)
                if same is None:
                    continue
                inputs = {"text": f"${{secret.{same}}}"}
                try:
                    edit = ChangeStep(kept.step_id, {"inputs": inputs})
                    tests.edit(session, self._test_id, edit, self._account_id)
                except Missing:
                    continue  # the sentence was deleted meanwhile
                self._vault.drop(session, environment, kept.secret)


def _share(box: Box) -> tuple[float, float, float, float]:
    """Return a box as shares of the viewport (0 to 1)."""
    width, height = VIEWPORT
    return box.x / width, box.y / height, box.width / width, box.height / height
