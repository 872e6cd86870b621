"""Taking back what one did oneself, also when others went on since."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.elements import clues as core
from lantern.core.history.merging import taken_back, taken_back_keys
from lantern.core.problems import BadInput, BuiltOn
from lantern.core.steps.model import Document
from lantern.store import accounts, acts, documents, elements
from lantern.store.calls import check_calls
from lantern.store.database import tell
from lantern.store.models import Act, Element, ElementVersion, Version
from lantern.store.rows import unpacked

ELEMENT_PARTS = {
    "name": "the name",
    "kind": "the kind",
    "page": "the page",
    "clues": "the clues",
    "spare": "",
    "seen": "",
    "lookalikes": "",
}
"""What an element consists of and how it is called; what has no name nobody is asked about."""


def travel(
    session: Session, place: int, account_id: int | None, *, forward: bool, force: bool = False
) -> Act:
    """Take a person's last act in a test back, or (forward) do again what was taken back last.

    Raises BadInput when there is none, BuiltOn (unless `force`) where others built on it.
    """
    act = acts.next_of(session, place, account_id, forward=forward)
    if act is None:
        raise BadInput("There is nothing to redo." if forward else "There is nothing to undo.")
    return take_back(session, act, account_id, force=force)


def take_back(session: Session, act: Act, account_id: int | None, *, force: bool = False) -> Act:
    """Take an act back as an act of its own; raises BuiltOn, unless `force`, Missing, BadInput.

    Only one's own acts can be taken back.
    """
    if act.account_id != account_id:
        raise BadInput("That was done by somebody else.", hint="Restore an earlier version.")
    again = session.get(Act, act.undoes) if act.undoes else None
    told = f"done again: {again.summary}" if again else f"taken back: {act.summary}"
    taking = acts.begin(session, account_id, act.place, told, undoes=act.id)
    clashes: list[str] = []
    for version in _versions(session, act):
        clashes += _document_back(session, version, told, account_id)
    for element in _elements(session, act):
        clashes += _element_back(session, element)
    if clashes and not force:
        named = ", ".join(dict.fromkeys(clashes))
        raise BuiltOn(
            f"Since then this was changed again: {named}.",
            where=act.summary,
            hint="Taking yours back takes that back with it.",
        )
    return taking


def _versions(session: Session, act: Act) -> Iterable[Version]:
    """Return the versions that an act made, of each test the newest first."""
    order = (Version.test_id, Version.number.desc())
    query = select(Version).filter_by(act_id=act.id).order_by(*order)
    return session.scalars(query).all()


def _elements(session: Session, act: Act) -> Iterable[ElementVersion]:
    order = (ElementVersion.element_id, ElementVersion.number.desc())
    query = select(ElementVersion).filter_by(act_id=act.id).order_by(*order)
    return session.scalars(query).all()


def _document_back(
    session: Session, version: Version, told: str, account_id: int | None
) -> list[str]:
    """Take the change that a version was back from its test; returns what was built on it."""
    test = documents.get(session, version.test_id, lock=True)
    old = documents.before(session, version.test_id, version.number)
    if old is None:
        return []  # the test was made by it
    before, after, now = unpacked(old), unpacked(version), unpacked(test)
    back = taken_back(before, after, now)
    check_calls(session, test, back.document)
    names = _later_authors(session, version) if back.clashes else ""
    clashes = [f"{_named(one.thing, one.key, one.part, now)}{names}" for one in back.clashes]
    documents.put(session, test, back.document, told, account_id)
    return clashes


def _later_authors(session: Session, version: Version) -> str:
    """Return who changed a test after one of its versions, as “ (by …)”."""
    query = select(Version.author_id).filter(
        Version.test_id == version.test_id,
        Version.number > version.number,
        Version.author_id.is_not(None),
        Version.author_id != version.author_id,
    )
    names = sorted(accounts.names(session, set(session.scalars(query.distinct()))).values())
    return f" (by {', '.join(names)})" if names else ""


def _named(thing: str, key: str, part: str, now: Document) -> str:
    """Return what a clash is about, in words."""
    if thing == "sentence" and key:
        numbers = {step.id: number for number, step in enumerate(now.steps, 1)}
        return f"sentence {numbers[key]}" if key in numbers else "a sentence that was deleted"
    if thing == "row" and key:
        numbers = {row.id: number for number, row in enumerate(now.rows, 1)}
        return f"row {numbers[key]}" if key in numbers else "a row that was deleted"
    return f"the order of {thing}s" if part == "order" else f"the {thing}"


def _element_back(session: Session, version: ElementVersion) -> list[str]:
    """Take a change of an element back; returns what was built on it.

    An element that the act made stays: another test may use it by now.
    """
    key = version.element_id
    old = elements.version_before(session, key, version.number)
    if old is None or old.body is None:
        return []
    row = session.get(Element, key, with_for_update=True)
    if version.body is None or row is None:
        elements.save(session, core.Element.read(old.body))
        tell(session, "element", id=key)
        return []
    body, again = taken_back_keys(old.body, version.body, row.body)
    elements.save(session, core.Element.read(body))
    tell(session, "element", id=key)
    words = [ELEMENT_PARTS.get(name, name) for name in again]
    return [f"{word} of “{row.name}”" for word in words if word]
