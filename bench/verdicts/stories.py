"""The stories in which faults are planted, and what can be changed about them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import date, timedelta

import requests
from sqlalchemy.orm import Session

from bench._bench import Place
from bench.verdicts.proxy import Proxy, Rule
from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.demo.data import BOARD, ELEMENTS, QUOTE, SIGN_IN
from lantern.demo.desk.state import next_open_day
from lantern.store import documents, elements, tests
from lantern.store.models import Environment
from lantern.store.vault import Vault

BENCH = "Glaze bench - Kiln Desk"
LIMIT = 2.0


def _element(key: str, name: str, kind: str, page: str, *clues: tuple[str, str]) -> Element:
    made = tuple(Clue(fact, "is", value) for fact, value in clues)
    return Element(f"v-{key}", name, kind, made, (), page)


MORE = {
    one.id: one
    for one in (
        replace(ELEMENTS["demo-piece"], id="v-drop", name="Drop-off date", kind="text box",
                clues=(Clue("label", "is", "Drop-off date"),), spare=()),
        _element("message", "Message", "text", BOARD, ("role", "status")),
        _element("find", "Find", "text box", BOARD, ("label", "Find")),
        _element("search", "Search", "button", BOARD, ("name", "Search")),
        _element("menu", "Menu", "button", BOARD, ("name", "Menu"), ("row", "Tea caddy")),
        _element("delete", "Delete", "button", BOARD, ("name", "Delete"), ("row", "Tea caddy")),
        _element("kiln", "Kiln", "choice list", BENCH, ("name", "Kiln")),
        _element("noted", "Noted", "text", BENCH, ("name", "Noted")),
    )
}  # fmt: skip
"""Elements of pages that the demo's tests do not go to."""


def _step(key: str, action: str, element: str = "", page: str = "", **inputs: str) -> Step:
    return Step(key, action, element, inputs, page=page)


def signed_in(member: str = "mara", at: str = "/quote") -> list[Step]:
    """Return the sentences that sign in and go to a page."""
    steps = [
        _step("s1", "open", address="/sign-in"),
        _step("s2", "type", "demo-member", SIGN_IN, text=member),
        _step("s3", "type", "demo-password", SIGN_IN, text="${secret.mara_password}"),
        _step("s4", "press", "demo-enter", SIGN_IN),
    ]
    if at != "/quote":
        steps.append(_step("s5", "open", address=at))
    return steps


def _is(key: str, element: str, page: str, expected: str, prop: str = "text") -> Step:
    return _step(key, "check", element, page, property=prop, comparison="is", expected=expected)


def quote() -> Document:
    """Return quotes of three rows."""
    steps = [
        *signed_in("${env.member}"),
        _step("q1", "type", "demo-piece", QUOTE, text="${row.piece}"),
        _step("q2", "choose", "demo-clay", QUOTE, option="${row.clay}"),
        _step("q3", "choose", "demo-cone", QUOTE, option="${row.cone}"),
        _step("q4", "type", "demo-count", QUOTE, text="${row.pieces}"),
        _step("q5", "choose", "demo-shelf", QUOTE, option="Medium (9 litres)"),
        _step("q6", "type", "v-drop", QUOTE, text="${row.drop_off}"),
        _step("q7", "press", "demo-ask", QUOTE),
        _is("q8", "demo-price", QUOTE, "${row.price}"),
    ]
    day = next_open_day(date.today() + timedelta(days=1)).isoformat()
    columns = ("piece", "clay", "cone", "pieces", "drop_off", "price")
    table = [
        ("Moon jar", "Stoneware", "6", "1", day, "€ 5.40"),
        ("Breakfast bowls", "Stoneware", "6", "12", day, "€ 21.40"),
        ("Garden lantern", "Raku", "06", "8", day, "€ 8.55"),
    ]
    rows = [Row(f"r{n}", dict(zip(columns, one, strict=True))) for n, one in enumerate(table)]
    return Document(tuple(steps), columns, tuple(rows), Settings(LIMIT))


def book() -> Document:
    """Return the booking of a large firing in a rush."""
    steps = [
        *signed_in(),
        _step("b1", "type", "demo-piece", QUOTE, text="Wide platter"),
        _step("b2", "type", "demo-count", QUOTE, text="14"),
        _step("b3", "tick", "demo-rush", QUOTE),
        _step("b4", "press", "demo-ask", QUOTE),
        _is("b5", "demo-price", QUOTE, "€ 14.40"),
        _step("b6", "press", "demo-book", QUOTE),
        _is("b7", "v-message", BOARD, "Firing no. 5 is booked."),
        _is("b8", "demo-board", BOARD, "5", "number of rows"),
    ]
    return Document(tuple(steps), settings=Settings(LIMIT))


def delete() -> Document:
    """Return the deletion of a firing."""
    steps = [
        *signed_in(at="/board"),
        _step("d1", "press", "v-menu", BOARD),
        _step("d2", "press", "v-delete", BOARD),
        _step("d3", "dialog", answer="OK"),
        _is("d4", "v-message", BOARD, "The firing of Tea caddy was deleted."),
    ]
    return Document(tuple(steps), settings=Settings(LIMIT))


def kiln() -> Document:
    """Return the choice of a kiln, from a list that loads for more than a second."""
    steps = [
        *signed_in(at="/bench"),
        _step("k1", "choose", "v-kiln", BENCH, option="Big Ember"),
        _is("k2", "v-noted", BENCH, "kiln: Big Ember"),
    ]
    return Document(tuple(steps), settings=Settings(LIMIT + 1))


def find() -> Document:
    """Return the search for firings, by rows."""
    steps = [
        *signed_in(at="/board"),
        _step("f1", "type", "v-find", BOARD, text="${row.words}"),
        _step("f2", "press", "v-search", BOARD),
        _is("f3", "demo-board", BOARD, "${row.firings}", "number of rows"),
    ]
    table = [("Moon", "1"), ("Mara", "2"), ("bowls", "1")]
    rows = [Row(f"r{n}", dict(zip(("words", "firings"), one, strict=True)))
            for n, one in enumerate(table)]  # fmt: skip
    return Document(tuple(steps), ("words", "firings"), tuple(rows), Settings(LIMIT))


STORIES: Mapping[str, Callable[[], Document]] = {
    "quote": quote, "book": book, "delete": delete, "kiln": kiln, "find": find,
}  # fmt: skip


@dataclass
class Bench:
    """What a fault is planted in: the tests, the proxy, the desk, the environment."""

    place: Place
    proxy: Proxy
    tests: dict[str, int]
    environment: int
    stories: Mapping[str, Callable[[], Document]]

    def restore(self) -> None:
        """Put all back as it is when everything passes."""
        self.proxy.rules.clear()
        requests.post(f"{self.place.desk}/reset", data={"release": "spring"}, timeout=10)
        with self.place.database.session() as session:
            environment = session.get_one(Environment, self.environment)
            environment.address, environment.variables = self.proxy.address, {"member": "mara"}
            Vault().put(session, environment.id, "mara_password", "wheel-and-kiln")
            for one in (*ELEMENTS.values(), *MORE.values()):
                elements.save(session, one)
            for name, test in self.tests.items():
                self._write(session, test, self.stories[name]())

    def _write(self, session: Session, test: int, document: Document) -> None:
        documents.put(session, documents.get(session, test, lock=True), document, "changed", None)

    def edit(self, name: str, change: Callable[[Document], Document]) -> None:
        """Change a test."""
        with self.place.database.session() as session:
            self._write(session, self.tests[name], change(self.stories[name]()))

    def element(self, key: str, *clues: Clue) -> None:
        """Give an element other clues."""
        one = (ELEMENTS | MORE)[key]
        with self.place.database.session() as session:
            elements.save(session, replace(one, clues=clues, spare=()))

    def rule(self, pattern: str, **what: object) -> None:
        """Let the proxy do something."""
        self.proxy.rules.append(Rule(pattern, **what))  # type: ignore[arg-type]

    def faults(self, *names: str, release: str = "") -> None:
        """Switch faults of the desk on, or a release."""
        session = requests.Session()
        data = {"member": "mara", "password": "wheel-and-kiln"}
        session.post(f"{self.place.desk}/sign-in", data=data, timeout=10)
        ask: dict[str, object] = {"release": release} if release else {"fault": names}
        session.post(f"{self.place.desk}/releases", data=ask, timeout=10)

    def variables(self, address: str = "", password: str = "", **values: str) -> None:
        """Change the environment."""
        with self.place.database.session() as session:
            environment = session.get_one(Environment, self.environment)
            environment.variables = {**environment.variables, **values}
            environment.address = address or environment.address
            if password:
                Vault().put(session, environment.id, "mara_password", password)


def a_bench(place: Place, stories: Mapping[str, Callable[[], Document]] = STORIES) -> Bench:
    """Return a bench whose stories have all passed."""
    proxy = Proxy(place.desk)
    with place.database.session() as session:
        environment = Environment(name="Behind the proxy", address=proxy.address)
        session.add(environment)
        session.flush()
        made = {
            name: tests.create(session, f"Story {name}", environment.id, None, story()).id
            for name, story in stories.items()
        }
        return Bench(place, proxy, made, environment.id, stories)


def row(place: int, **values: str) -> Callable[[Document], Document]:
    """Return what changes values of a row; `place` counts from 0, one behind the last adds it."""

    def change(document: Document) -> Document:
        rows = list(document.rows)
        if place == len(rows):
            rows.append(replace(rows[0], id=f"r{place}", values=dict(rows[0].values)))
        rows[place] = replace(rows[place], values={**rows[place].values, **values})
        return replace(document, rows=tuple(rows))

    return change


def given(key: str, **inputs: str) -> Callable[[Document], Document]:
    """Return what changes the inputs of a sentence."""
    return _each(
        lambda one: replace(one, inputs={**one.inputs, **inputs}) if one.id == key else one
    )


def acts_on(key: str, element: str) -> Callable[[Document], Document]:
    """Return what lets a sentence act on another element."""
    return _each(lambda one: replace(one, element=element) if one.id == key else one)


def without(*keys: str) -> Callable[[Document], Document]:
    """Return what takes sentences out."""
    return lambda document: replace(
        document, steps=tuple(one for one in document.steps if one.id not in keys)
    )


def limited(seconds: float) -> Callable[[Document], Document]:
    """Return what sets another limit."""
    return lambda document: replace(document, settings=replace(document.settings, limit=seconds))


def ordered(*keys: str) -> Callable[[Document], Document]:
    """Return what puts some sentences into another order, where the first of them stands."""

    def change(document: Document) -> Document:
        steps = {one.id: one for one in document.steps}
        queue = iter(keys)
        return replace(
            document,
            steps=tuple(steps[next(queue)] if one.id in keys else one for one in document.steps),
        )

    return change


def _each(change: Callable[[Step], Step]) -> Callable[[Document], Document]:
    return lambda document: replace(document, steps=tuple(map(change, document.steps)))


def both(*changes: Callable[[Document], Document]) -> Callable[[Document], Document]:
    """Return what makes several changes."""

    def change(document: Document) -> Document:
        for one in changes:
            document = one(document)
        return document

    return change
