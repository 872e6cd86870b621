"""What is played on a stage: a test, or a part of it, with the values of a row."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from urllib.parse import urljoin

from sqlalchemy.orm import Session

from lantern.core.elements.clues import Element
from lantern.core.engine.interpreter import Script
from lantern.core.problems import Missing
from lantern.core.rehearsing.breakpoints import Breakpoint
from lantern.core.steps.edits import Insert
from lantern.core.steps.model import Document, Row, Step
from lantern.core.values.sources import Names
from lantern.core.values.templates import resolve
from lantern.station.proving import Prover, prover_for
from lantern.store import (
    breakpoints,
    calls,
    elements,
    flows,
    pages,
    preferences,
    tables,
    tests,
)
from lantern.store.database import Database
from lantern.store.models import Test
from lantern.store.rows import unpacked
from lantern.store.vault import Vault

OUTAGE = 20.0
"""Seconds for which the database may be away before a rehearsal under way is given up."""


@dataclass(frozen=True)
class Begun:
    """What a rehearsal begins with: the script, the row's number (0: none) and its id."""

    script: Script
    number: int
    row_id: str


class Scripts:
    """Makes scripts of one test as it is whenever it is asked, for one person."""

    def __init__(
        self, database: Database, vault: Vault, test_id: int, account_id: int | None
    ) -> None:
        self._database, self._vault = database, vault
        self.test_id, self._account_id = test_id, account_id

    def some(self, steps: Collection[str]) -> Script:
        """Return some steps of the test, with its first row."""
        with self._database.session() as session:
            test = tests.get(session, self.test_id)
            document = unpacked(test)
            chosen = tuple(step for step in document.steps if step.id in steps)
            names = self._names(session, test)
            return self._script(session, test, replace(document, steps=chosen), names)

    def until(self, step_id: str) -> list[str]:
        """Return the ids of the steps up to and with one; "" gives none. Raises Missing."""
        with self._database.session() as session:
            document = unpacked(tests.get(session, self.test_id))
        if not step_id:
            return []
        place = document.steps.index(document.step(step_id))
        return [step.id for step in document.steps[: place + 1]]

    def proof(self) -> tuple[Script, Prover]:
        """Return the whole test with its first row, and what holds it against its recording."""
        with self._database.session() as session:
            test = tests.get(session, self.test_id)
            document = preferences.surrounded(unpacked(test), preferences.get(session))
            names = self._names(session, test)
            prover = prover_for(session, self.test_id, document, names)
            return self._script(session, test, document, names), prover

    def rehearsal(self, row_id: str, kept: dict[str, str]) -> Begun:
        """Return the whole test with a row ("" for the first); `kept` is what was kept already.

        What may be changed by hand is in dictionaries of its own. Raises Missing for a row that
        there is not.
        """
        with self._database.session() as session:
            test = tests.get(session, self.test_id)
            number, row = _row(tables.filled(session, unpacked(test)), row_id)
            names = self._names(session, test, row)
            names = replace(
                names,
                row=dict(names.row),
                env=dict(names.env),
                given=dict(names.given),
                kept=kept,
                instead={},
                seed=f"rehearsal|{number}",
            )
            document = preferences.surrounded(unpacked(test), preferences.get(session))
            script = self._script(session, test, document, names)
            return Begun(script, number, row.id if row else "")

    def now(self, before: Script) -> Script:
        """Return a script as its test, flows and elements are now, with the names that it has."""

        def read(session: Session) -> Script:
            test = tests.get(session, self.test_id)
            document = preferences.surrounded(unpacked(test), preferences.get(session))
            made = self._script(session, test, document, before.names)
            settings = replace(made.document.settings, pictures=before.document.settings.pictures)
            return replace(made, document=replace(made.document, settings=settings))

        return self._database.insist(read, OUTAGE)

    def row(self, row_id: str) -> Mapping[str, str]:
        """Return the values of a row as they are now; {} for one that is gone, or for none."""
        document = self._database.insist(
            lambda session: tables.filled(session, unpacked(tests.get(session, self.test_id))),
            OUTAGE,
        )
        return next((one.values for one in document.rows if row_id and one.id == row_id), {})

    def fill(self, template: str) -> str:
        """Fill names in a value with what they mean in the first row; raises Problem."""
        with self._database.session() as session:
            return resolve(template, self._names(session, tests.get(session, self.test_id)))

    def reset_address(self) -> str:
        """Return where the application is set back, "" when it can not be."""
        with self._database.session() as session:
            environment = tests.get(session, self.test_id).environment
            base = f"{environment.address.rstrip('/')}/"
            return urljoin(base, environment.reset) if environment.reset else ""

    # -- for rehearsals --------------------------------------------------------------------------

    def breakpoints(self) -> tuple[list[Breakpoint], bool]:
        """Return the person's breakpoints, and whether all of them are switched off."""

        def read(session: Session) -> tuple[list[Breakpoint], bool]:
            mine = breakpoints.of(session, self._account_id)
            return mine, breakpoints.all_off(session, self._account_id)

        return self._database.insist(read, OUTAGE)

    def played_at(self, step_id: str) -> str:
        """Return the address at which a sentence was last come to on a page, "" for not known."""
        with self._database.session() as session:
            return pages.address_of(session, self.test_id, step_id)

    def last_green(self, title: str, at: str) -> pages.Green:
        """Return what was on a page before a sentence when it passed last; empty for none."""
        with self._database.session() as session:
            return pages.last_green(session, self.test_id, title, at=at)

    def flow_that_signs_in(self) -> str:
        """Return the id of a flow that types a password, "" for none."""
        with self._database.session() as session:
            return flows.that_signs_in(session, preferences.get(session).before)

    def put_before(self, flow: str, step_id: str, step: Step, element: Element | None) -> str:
        """Put a sentence into the story before another, with its element; returns its id."""
        with self._database.session() as session:
            made = replace(step, id=tests.new_id())
            place = int(flow) if flow else self.test_id
            if element is not None:
                known = elements.same(session, element)
                if known is None:
                    elements.save(session, element)
                made = replace(made, element=(known or element).id)
            tests.edit(session, place, Insert((made,), before=step_id), self._account_id)
            return made.id

    # -- inside ----------------------------------------------------------------------------------

    @staticmethod
    def _script(session: Session, test: Test, document: Document, names: Names) -> Script:
        quiet = replace(document, settings=replace(document.settings, pictures="none"))
        called = calls.load(session, quiet.flow_ids())
        known = elements.load(session, calls.element_ids(quiet, called))
        return Script(quiet, known, names, test.environment.address, called)

    def _names(self, session: Session, test: Test, row: Row | None = None) -> Names:
        """Return what names mean while the test is being made: with a row, else its first."""
        document = tables.filled(session, unpacked(test))
        chosen = row or (document.rows[0] if document.rows else None)
        values: Mapping[str, str] = dict(chosen.values) if chosen else {}
        secrets = self._vault.values(session, test.environment_id)
        env = {**test.environment.variables, "base_url": test.environment.address}
        given = {one.name: one.default for one in document.takes}
        today = datetime.now(UTC).date()
        return Names(row=values, env=env, secret=secrets, given=given, today=today)


def _row(document: Document, row_id: str) -> tuple[int, Row | None]:
    """Return a row with its number, the first one for "", and 0 where there are no rows."""
    if not document.rows:
        return 0, None
    if not row_id:
        return 1, document.rows[0]
    for number, row in enumerate(document.rows, 1):
        if row.id == row_id:
            return number, row
    raise Missing("That row is not in the table any more.", where=row_id)
