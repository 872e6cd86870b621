"""The demo data: accounts, the Kiln Desk as an environment, and two tests of it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Facts
from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.demo.desk import rules
from lantern.demo.desk.state import ACCOUNTS as MEMBERS
from lantern.store import accounts, elements, mails, tests
from lantern.store.models import Account, Environment
from lantern.store.vault import Vault

ENVIRONMENT = "Kiln Desk"


@dataclass(frozen=True)
class DemoAccount:
    """Someone who can sign in to the demo; these passwords are printed, so they are no secret."""

    username: str
    name: str
    role: str
    password: str


ACCOUNTS = (
    DemoAccount("wren", "Wren Halloway", "lead", "lantern-lead"),
    DemoAccount("odo", "Odo Fennick", "tester", "lantern-tester"),
    DemoAccount("pia", "Pia Marlow", "viewer", "lantern-viewer"),
)

SIGN_IN, QUOTE, BOARD = (
    "Sign in - Kiln Desk",
    "Quote - Kiln Desk",
    "Firing board - Kiln Desk",
)


def _element(key: str, name: str, kind: str, page: str, *clues: tuple[str, str]) -> Element:
    made = [Clue(fact, "is", value) for fact, value in clues]
    return Element(f"demo-{key}", name, kind, tuple(made[:1]), tuple(made[1:]), page)


def _field(key: str, name: str, kind: str, page: str = QUOTE) -> Element:
    return _element(key, name, kind, page, ("label", name), ("field name", key), ("id", key))


def _list(key: str, name: str, options: Iterable[str]) -> Element:
    """Return a choice list that was seen with its options."""
    seen = Facts(
        "select",
        role="combobox",
        name=name,
        label=name,
        attributes={"id": key, "name": key},
        options=tuple(options),
    )
    return replace(_field(key, name, "choice list"), seen=seen)


def _button(key: str, name: str, page: str = QUOTE) -> Element:
    return _element(key, name, "button", page, ("name", name), ("id", key))


ELEMENTS = {
    element.id: element
    for element in (
        _field("member", "Member name", "text box", SIGN_IN),
        _field("password", "Password", "password box", SIGN_IN),
        _button("enter", "Sign in", SIGN_IN),
        _field("piece", "Piece name", "text box"),
        _list("clay", "Clay", rules.CLAYS),
        _list("cone", "Cone", rules.CONES),
        _field("count", "Number of pieces", "text box"),
        _list("shelf", "Shelf", rules.SHELVES),
        _field("rush", "Rush", "tick box"),
        _button("ask", "Get a quote"),
        _element("price", "Price", "text", QUOTE, ("id", "price"), ("section", "Quote")),
        _button("book", "Book this firing"),
        _element("board", "Firings", "table", BOARD, ("name", "Firings"), ("id", "board")),
    )
}


def _step(number: int, action: str, element: str = "", page: str = "", **inputs: str) -> Step:
    key = f"demo-{element}" if element else ""
    return Step(f"demo{number:02}", action, key, inputs, page=page)


def _sign_in(member: str) -> list[Step]:
    return [
        _step(1, "open", address="/sign-in"),
        _step(2, "type", "member", SIGN_IN, text=member),
        _step(3, "type", "password", SIGN_IN, text=f"${{secret.{member}_password}}"),
        _step(4, "press", "enter", SIGN_IN),
    ]


def quote_test() -> Document:
    """Return the demo's test of quotes: seven rows, of which one expects a wrong price."""
    steps = [
        *_sign_in("mara"),
        _step(5, "type", "piece", QUOTE, text="${row.piece}"),
        _step(6, "choose", "clay", QUOTE, option="${row.clay}"),
        _step(7, "choose", "cone", QUOTE, option="${row.cone}"),
        _step(8, "type", "count", QUOTE, text="${row.pieces}"),
        _step(9, "choose", "shelf", QUOTE, option="Medium (9 litres)"),
        _step(10, "press", "ask", QUOTE),
        _step(
            11, "check", "price", QUOTE, property="text", comparison="is", expected="${row.price}"
        ),
    ]
    columns = ("piece", "clay", "cone", "pieces", "price")
    table = [
        ("Moon jar", "Stoneware", "6", "1", "€ 5.40"),
        ("Breakfast bowls", "Stoneware", "6", "12", "€ 21.40"),
        ("Moon jar", "Porcelain", "10", "2", "€ 6.10"),
        ("Tea caddy", "Earthenware", "04", "6", "€ 6.10"),
        ("Garden lantern", "Raku", "06", "8", "€ 8.55"),
        ("Roof finial", "Stoneware", "10", "3", "€ 7.25"),
        ("Ash glaze tiles", "Stoneware", "1", "24", "€ 33.05"),
    ]
    rows = tuple(
        Row(f"demo-row-{n}", dict(zip(columns, values, strict=True)), ticked=n in (1, 3))
        for n, values in enumerate(table, 1)
    )
    return Document(tuple(steps), columns, rows, Settings(limit=4))


def booking_test() -> Document:
    """Return the demo's test of booking a firing."""
    steps = [
        *_sign_in("tobin"),
        _step(5, "type", "piece", QUOTE, text="Wide platter"),
        _step(6, "tick", "rush", QUOTE),
        _step(7, "press", "ask", QUOTE),
        _step(8, "check", "price", QUOTE, property="text", comparison="starts with", expected="€"),
        _step(9, "press", "book", QUOTE),
        _step(
            10,
            "check",
            "board",
            BOARD,
            property="number of rows",
            comparison="is at least",
            expected="1",
        ),
    ]
    return Document(tuple(steps), settings=Settings(limit=6))


def load_demo(session: Session, vault: Vault, sample: str) -> bool:
    """Load the demo data, or only the sample's new address; returns whether it was new."""
    if not load_place(session, vault, sample):
        return False
    for element in ELEMENTS.values():
        elements.save(session, element)
    environment = session.scalars(select(Environment).filter_by(name=ENVIRONMENT)).one()
    author = session.scalar(select(Account.id).filter_by(username="odo"))
    tests.create(session, "Book a firing", environment.id, author, booking_test())
    tests.create(session, "Quotes by clay and cone", environment.id, author, quote_test())
    return True


def load_place(session: Session, vault: Vault, sample: str) -> bool:
    """Load the accounts and the environment alone, or only the sample's new address.

    Returns whether it was new.
    """
    environment = session.scalar(select(Environment).filter_by(name=ENVIRONMENT))
    if environment:
        environment.address = sample
        return False
    environment = Environment(name=ENVIRONMENT, address=sample)
    session.add(environment)
    session.flush()
    people = [
        accounts.create(session, one.username, one.name, one.role, one.password) for one in ACCOUNTS
    ]
    for person in people:
        accounts.change(session, person, email=f"{person.username}@emberhall.example")
    for member in ("mara", "tobin"):
        vault.put(session, environment.id, f"{member}_password", MEMBERS[member].password)
    return True


def send_mails_to(session: Session, vault: Vault, smtp: int) -> None:
    """Let mails go to the demo's own server on a port, unless another one was said since."""
    row = mails.server(session)
    if row is None or row.stand_in:
        mails.put_server(
            session,
            vault,
            enabled=row.enabled if row else True,
            host="127.0.0.1",
            port=smtp,
            security="none",
            username="",
            password=None,
            sender="lantern@emberhall.example",
            digest_at=row.digest_at if row else "07:00",
            zone=row.zone if row else "UTC",
            stand_in=True,
        )
