"""Keeping what is recorded: each step goes into the test as soon as it happens."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.core.problems import Missing
from lantern.core.proving.noting import Noted, Place, When
from lantern.core.proving.shown import Shown
from lantern.core.recording.changes import Add, Change, Gone, Idle, Update
from lantern.core.recording.proposals import Proposal
from lantern.core.steps.catalogue import action_of, check_inputs
from lantern.core.steps.edits import Change as ChangeStep
from lantern.core.steps.edits import Edit, Insert, Remove
from lantern.core.steps.model import Step
from lantern.core.values.templates import masked, named, propose_name
from lantern.station.proving import Prover
from lantern.station.scripts import Scripts
from lantern.store import (
    elements,
    files,
    pages,
    pictures,
    proofs,
    tests,
    waits,
)
from lantern.store.database import Database
from lantern.store.rows import unpacked
from lantern.store.vault import Vault


@dataclass(frozen=True)
class _Kept:
    step_id: str
    secret: str = ""


def _fold(step_id: str) -> str:
    """Return under which name all that is recorded of one sentence is one act."""
    return f"recorded {step_id}"


class Keeper:
    """Keeps the steps recorded on one stage in one test, as its author.

    `after` is the step behind which recording goes on ("" for the start), None for the end;
    `before` one before which it does instead.
    """

    def __init__(self, database: Database, vault: Vault, test_id: int, account_id: int) -> None:
        self._database, self._vault = database, vault
        self._test_id, self._account_id = test_id, account_id
        self.scripts = Scripts(database, vault, test_id, account_id)
        self._kept: dict[int, _Kept] = {}
        self.after: str | None = None
        self.before: str | None = None
        self._recorded: list[str] = []
        self.viewport = BROWSERS[USUAL].viewport
        """Width and height of the window that is recorded in, in CSS pixels."""
        self._noted, self._last = Noted(), ""

    def note_shown(self, place: Place, shown: Shown, when: When) -> None:
        """Keep what has come of the sentence that was recorded last, in one document."""
        if not self._last:
            return
        with self._database.session() as session:
            test = tests.get(session, self._test_id)
            secrets = self._vault.values(session, test.environment_id)
            safe = shown.masked(lambda text: masked(text, secrets))
            seen = self._noted.note(self._last, place, safe, when)
            step = next((one for one in unpacked(test).steps if one.id == self._last), None)
            if seen and step:  # somebody may have deleted it meanwhile
                proofs.note(session, self._test_id, step, place[1], seen)

    def look(self, place: Place, shown: Shown) -> None:
        """Take in what a document shows that nothing has been done in yet."""
        self._noted.look(place, shown)

    def keep_proof(self, prover: Prover) -> None:
        """Keep what holding a play against the recording showed."""
        with self._database.session() as session:
            proofs.keep(session, self._test_id, prover.found, prover.compared)

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
            case Gone():
                self._edit_kept(change.key, lambda step: Remove((step,)))
                kept = self._kept.pop(change.key, None)
                if kept:
                    self._noted.withdraw(kept.step_id)
            case Idle():
                idle = {"idle": True}
                self._edit_kept(change.key, lambda step: ChangeStep(step, idle), fold=True)

    def _edit_kept(self, key: int, edit: Callable[[str], Edit], *, fold: bool = False) -> None:
        """Edit a step that was recorded before; one that a person deleted stays deleted."""
        kept = self._kept.get(key)
        if kept is None:
            return
        try:
            with self._database.session() as session:
                name = _fold(kept.step_id) if fold else ""
                change = edit(kept.step_id)
                tests.edit(session, self._test_id, change, self._account_id, fold=name)
        except Missing:
            pass

    def element(self, element_id: str) -> Element | None:
        """Return an element, or None when it is gone."""
        with self._database.session() as session:
            return elements.load(session, [element_id]).get(element_id)

    def add_look(
        self, action: str, proposal: Proposal, inputs: Mapping[str, str], page: str, picture: bytes
    ) -> None:
        """Add a step that looks at an element: check, wait until or keep. Raises UnknownName."""
        check_inputs(action_of(action), inputs)
        self._add(Add(0, action, inputs, proposal, page), picture)

    def kept_names(self) -> set[str]:
        """Return the names of the values that the test keeps."""
        with self._database.session() as session:
            document = unpacked(tests.get(session, self._test_id))
        return {step.inputs.get("name", "") for step in document.steps if step.action == "keep"}

    def _add(self, change: Add, picture: bytes) -> None:
        with self._database.session() as session:
            test = tests.get(session, self._test_id)
            secrets = self._vault.values(session, test.environment_id)
            element = self._take(session, change.element, secrets)
            onto = self._take(session, change.onto, secrets)
            inputs, secret = self._safe_inputs(change.inputs, secrets), ""
            if change.secret is not None:
                secret = self._secret_name(secrets, element.name if element else "")
                self._vault.put(session, test.environment_id, secret, change.secret)
                inputs["text"] = f"${{secret.{secret}}}"
            # What was shown before an address was opened says nothing about it.
            pictured = picture and change.action != "open"
            step = Step(
                id=tests.new_id(),
                action=change.action,
                element=element.id if element else "",
                inputs=inputs,
                page=masked(change.page, secrets),
                picture=pictures.keep(session, picture) if pictured else "",
                box=change.element.box.shares(self.viewport) if change.element else None,
                onto=onto.id if onto else "",
            )
            self._insert(session, step)
            if change.waited:
                waits.keep(session, step.id, change.waited, secrets)
        self._kept[change.key] = _Kept(step.id, secret)
        self._last = step.id

    @staticmethod
    def _safe_inputs(inputs: Mapping[str, str], secrets: Mapping[str, str]) -> dict[str, str]:
        """Return what was typed, opened or read, with the values of secrets by their names."""
        return {name: named(value, secrets) for name, value in inputs.items()}

    @staticmethod
    def _take(
        session: Session, proposal: Proposal | None, secrets: Mapping[str, str]
    ) -> Element | None:
        return elements.take(session, proposal.without(secrets)) if proposal else None

    def _insert(self, session: Session, step: Step) -> None:
        """Insert a step where recording goes on: at the end, or behind the one kept before."""
        fold = _fold(step.id)
        self._recorded.append(step.id)
        try:
            edit = Insert((step,), self.after, self.before or "")
            tests.edit(session, self._test_id, edit, self._account_id, fold=fold)
        except Missing:  # the sentence behind which it belonged was deleted meanwhile
            tests.edit(session, self._test_id, Insert((step,)), self._account_id, fold=fold)
            self.after = self.before = None
        if self.after is not None:
            self.after = step.id

    def recorded(self, *, fresh: bool) -> list[str]:
        """Return the sentences recorded since it was last asked; none when it is `fresh`."""
        found, self._recorded = self._recorded, []
        return [] if fresh else found

    def add_step(
        self,
        action: str,
        inputs: Mapping[str, str],
        proposal: Proposal,
        page: str,
        picture: bytes,
    ) -> str:
        """Add a step for something that was picked; returns its id. Raises BadInput."""
        check_inputs(action_of(action), inputs)
        self._add(Add(0, action, inputs, proposal, page), picture)
        return self._kept[0].step_id

    def secrets(self) -> list[str]:
        """Return the values of the secrets of the test's environment."""
        with self._database.session() as session:
            test = tests.get(session, self._test_id)
            return list(self._vault.values(session, test.environment_id).values())

    def save_page(
        self, title: str, nodes: list[Facts], address: str, release: str, picture: bytes
    ) -> int:
        """Keep all that is on a page; returns the saved page's number."""
        with self._database.session() as session:
            test = tests.get(session, self._test_id)
            secrets = self._vault.values(session, test.environment_id)

            def hide(text: str) -> str:
                return masked(text, secrets)

            kept = pages.save(
                session,
                hide(title),
                [facts.masked(hide) for facts in nodes],
                address=hide(address),
                release=hide(release),
                picture=pictures.keep(session, picture),
                test_id=self._test_id,
            )
            return kept.id

    def file(self, name: str) -> bytes | None:
        """Return a file that is kept with the test; None when there is none of that name."""
        with self._database.session() as session:
            digest = files.digests(session, self._test_id).get(name)
            kept = pictures.load(session, digest) if digest else None
            return kept.content if kept else None

    def keep_file(self, name: str, content: bytes) -> None:
        """Keep a file with the test under its name; a newer one replaces an older."""
        with self._database.session() as session:
            files.put(session, self._test_id, name, content)

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
            test = tests.get(session, self._test_id)
            secrets = self._vault.values(session, test.environment_id)
            fields: dict[str, object] = {"inputs": self._safe_inputs(change.inputs, secrets)}
            if change.action:
                fields["action"] = change.action
            edit = ChangeStep(kept.step_id, fields)
            fold = _fold(kept.step_id)
            tests.edit(session, self._test_id, edit, self._account_id, fold=fold)

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
                    fold = _fold(kept.step_id)
                    tests.edit(session, self._test_id, edit, self._account_id, fold=fold)
                except Missing:
                    continue  # the sentence was deleted meanwhile
                self._vault.drop(session, environment, kept.secret)
