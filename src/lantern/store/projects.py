"""The whole project as files: one folder that can live in a version control repository.

lantern.yaml        environments: addresses, variables, names of secrets
tests/ flows/ tables/ plans/    one text each
pages/              the elements of each page
files/TEST/         files kept with a test
lantern.schema.json the JSON Schema of the texts
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.elements import clues as core
from lantern.core.plans.text import read_plan
from lantern.core.problems import BadInput
from lantern.core.steps.comparing import difference
from lantern.core.steps.model import Document
from lantern.core.text.names import Known, slug
from lantern.core.text.nodes import Flow, FlowList, Trouble, read, write
from lantern.core.text.reading import Read, read_document, read_elements
from lantern.core.text.schema import schema
from lantern.core.text.writing import FORMAT, elements_text
from lantern.core.values.templates import check_name
from lantern.store import acts, elements, files, pictures, plan_texts, tests, texts, vault
from lantern.store.models import Environment, Test, TestFile
from lantern.store.rows import unpacked

TOP = "lantern.yaml"
FOLDERS = {"table": "tables", "flow": "flows", "test": "tests"}
"""The folder of each kind of document, in the order in which they are taken in."""


def export(session: Session) -> dict[str, bytes]:
    """Return the files of the project by path."""
    found: dict[str, str | bytes] = {TOP: _environments(session)}
    names = texts.known(session)
    for kind, folder in FOLDERS.items():
        taken: set[str] = set()
        for test in session.scalars(select(Test).filter_by(kind=kind).order_by(Test.name)):
            called = slug(test.name, taken)
            taken.add(called)
            path = f"{folder}/{called}.yaml"
            found[path] = texts.text_of(session, test, with_elements=False, names=names)
            for kept in files.listed(session, test.id):
                content = pictures.load(session, kept.digest)
                if content:
                    found[f"files/{called}/{kept.name}"] = content.content
    found |= plan_texts.texts_of(session)
    pages: dict[str, list[core.Element]] = {}
    for row in elements.listed(session):
        pages.setdefault(row.page, []).append(core.Element.read(row.body))
    taken = set()
    for page, listed in pages.items():
        called = slug(page, taken)
        taken.add(called)
        found[f"pages/{called}.yaml"] = elements_text(page, listed)
    found["lantern.schema.json"] = json.dumps(schema(), indent=1, ensure_ascii=False) + "\n"
    return {
        path: content.encode() if isinstance(content, str) else content
        for path, content in sorted(found.items())
    }


def _environments(session: Session) -> str:
    listed = [
        {
            "name": one.name,
            "address": one.address,
            "variables": Flow(one.variables),
            "secrets": FlowList(vault.names(session, one.id)),
        }
        for one in session.scalars(select(Environment).order_by(Environment.name))
    ]
    return write({"lantern": FORMAT, "environments": listed})


@dataclass(frozen=True)
class Change:
    """What taking a file in changes: "added", "changed" or "needs", and in words what."""

    what: str
    path: str
    words: str


@dataclass
class Import:
    """A project being taken in. With troubles (by path), nothing may be kept of it."""

    session: Session
    account_id: int | None
    changes: list[Change] = field(default_factory=list)
    troubles: list[tuple[str, Trouble]] = field(default_factory=list)
    fresh: set[int] = field(default_factory=set)
    """Ids of the documents that were made."""
    _known: Known | None = None
    """What everything is called, as long as nothing was made that others can be called by."""

    def take(self, project: Mapping[str, bytes]) -> None:
        """Take all files in; raises BadInput when they are no project."""
        acts.begin(self.session, self.account_id, None, "a project taken in")
        if TOP not in project:
            raise BadInput(
                f"There is no {TOP} here.", where=TOP, hint="Name a folder that was exported."
            )
        self._environments(project[TOP])
        for path in sorted(project):
            if path.startswith("pages/"):
                self._elements(path, project[path])
        made = {path: self._made(path, kind, project[path]) for kind, path in _documents(project)}
        for path, test in made.items():
            if test:
                self._document(path, test, project[path])
        for path in sorted(project):
            if path.startswith("files/"):
                self._file(path, project[path], made)
            elif path.startswith("plans/"):
                self._plan(path, project[path])

    @staticmethod
    def _text(content: bytes) -> str:
        try:
            return content.decode("utf-8")
        except UnicodeDecodeError as error:
            raise BadInput("The file is not text in UTF-8.") from error

    def _note(self, path: str, error: BadInput) -> None:
        line = int(error.where.removeprefix("line ")) if error.where.startswith("line ") else 1
        self.troubles.append((path, Trouble(line, error.message, error.hint)))

    def _environments(self, content: bytes) -> None:
        try:
            top = read(self._text(content))
        except BadInput as error:
            self._note(TOP, error)
            return
        for spot in top.parts(("lantern", "environments"))["environments"].items():
            parts = spot.parts(("name", "address", "variables", "secrets"))
            name, address = parts["name"].text().strip(), parts["address"].text().strip()
            variables = {key: value.text() for key, value in parts["variables"].entries()}
            if not name or not address:
                spot.wrong("An environment needs a name and an address.")
                continue
            try:
                for variable in variables:
                    check_name(variable, "variable")
            except BadInput as error:
                parts["variables"].problem(error)
                continue
            self._environment(name, address, variables, parts["secrets"].texts())
        self.troubles += [(TOP, trouble) for trouble in top.log]

    def _environment(
        self, name: str, address: str, variables: dict[str, str], secrets: Iterable[str]
    ) -> None:
        place = texts.environment(self.session, name)
        if place is None:
            place = Environment(name=name, address=address, variables=variables)
            self.session.add(place)
            self.session.flush()
            self.changes.append(Change("added", TOP, f"environment “{name}” at {address}"))
        elif {**place.variables, **variables} != place.variables:
            place.variables = {**place.variables, **variables}
            self.changes.append(Change("changed", TOP, f"variables of “{name}”"))
        there = vault.names(self.session, place.id)
        for secret in secrets:
            if secret not in there:
                self.changes.append(Change("needs", TOP, f"the secret {secret} of “{name}”"))

    def _elements(self, path: str, content: bytes) -> None:
        try:
            found, troubles = read_elements(self._text(content))
        except BadInput as error:
            self._note(path, error)
            return
        self.troubles += [(path, trouble) for trouble in troubles]
        counts = {"added": 0, "changed": 0}
        for element in found if not troubles else ():
            what = texts.put_element(self.session, element)
            if what:
                counts[what] += 1
        for what, count in counts.items():
            if count:
                words = f"{count} {'element' if count == 1 else 'elements'}"
                self.changes.append(Change(what, path, words))

    def _made(self, path: str, kind: str, content: bytes) -> Test | None:
        """Return the document of a file, made empty when there is none of its name."""
        found = self._read(path, content)
        if found is None or not found.head.name:
            return None
        if found.head.kind != kind:
            trouble = Trouble(2, f"A {found.head.kind} does not belong into {FOLDERS[kind]}/.")
            self.troubles.append((path, trouble))
            return None
        try:
            there = tests.named(self.session, found.head.name)
            if there.kind != kind:
                self.troubles.append(
                    (path, Trouble(2, f"“{there.name}” is a {there.kind} already."))
                )
                return None
            return there
        except BadInput:
            pass  # there is none of that name: it is made
        place = texts.environment(self.session, found.head.environment) or self.session.scalar(
            select(Environment).order_by(Environment.id)
        )
        if place is None:
            self.troubles.append((path, Trouble(1, "There is no environment to test.")))
            return None
        try:
            made = tests.create(self.session, found.head.name, place.id, self.account_id, kind=kind)
            self.fresh.add(made.id)
            if kind != "test":  # no text speaks of a test
                self._known = None
            return made
        except BadInput as error:
            self._note(path, error)
            return None

    def _read(self, path: str, content: bytes) -> Read | None:
        self._known = self._known or texts.known(self.session)
        try:
            return read_document(self._text(content), self._known)
        except BadInput as error:
            self._note(path, error)
            return None

    def _document(self, path: str, test: Test, content: bytes) -> None:
        found = self._read(path, content)
        if found is None:
            return
        self.troubles += [(path, trouble) for trouble in found.troubles]
        if found.troubles:
            return
        before = unpacked(test)
        try:
            changed = texts.put_read(self.session, test, found, self.account_id)
        except BadInput as error:
            self._note(path, error)
            return
        if test.id in self.fresh:
            words = f"{test.kind} “{test.name}”, {len(found.document.steps)} sentences"
            self.changes.append(Change("added", path, words))
        elif changed:
            self.changes.append(Change("changed", path, _words(before, unpacked(test))))

    def _file(self, path: str, content: bytes, made: Mapping[str, Test | None]) -> None:
        called, _, name = path.removeprefix("files/").partition("/")
        owner = next(
            (test for of, test in made.items() if test and of.endswith(f"/{called}.yaml")), None
        )
        if owner is None or not name:
            self.troubles.append((path, Trouble(1, "No test here is called like its folder.")))
            return
        kept = self.session.get(TestFile, (owner.id, name))
        old = pictures.load(self.session, kept.digest) if kept else None
        if old and old.content == content:
            return
        files.put(self.session, owner.id, name, content)
        self.changes.append(Change("changed" if kept else "added", path, f"{len(content)} bytes"))

    def _plan(self, path: str, content: bytes) -> None:
        try:
            found = read_plan(self._text(content), plan_texts.everything_named(self.session))
            self.troubles += [(path, trouble) for trouble in found.troubles]
            if not found.troubles:
                what = plan_texts.put_read(self.session, found, self.account_id)
                if what:
                    self.changes.append(Change(what, path, f"plan “{found.name}”"))
        except BadInput as error:
            self._note(path, error)


def _documents(project: Mapping[str, bytes]) -> list[tuple[str, str]]:
    """Return the kinds and paths of the documents in a project, what others need first."""
    return [
        (kind, path)
        for kind, folder in FOLDERS.items()
        for path in sorted(project)
        if path.startswith(f"{folder}/") and path.endswith((".yaml", ".yml"))
    ]


def _words(before: Document, after: Document) -> str:
    found = difference(before, after)
    counts: dict[str, int] = {}
    for change in found.steps:
        counts[change.what] = counts.get(change.what, 0) + 1
    told = [
        f"{count} {'sentence' if count == 1 else 'sentences'} {what}"
        for what, count in counts.items()
    ]
    return ", ".join([*told, *found.others]) or "its name or environment"
