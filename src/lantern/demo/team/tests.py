"""The fourteen tests of the sample project, and the flows that they share."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from lantern.core.steps.model import Document, Row, Settings, Step, Taken
from lantern.demo.data import BOARD, QUOTE, SIGN_IN, booking_test, quote_test
from lantern.demo.team.elements import BENCH, FILES, PLATTER, RECIPES, SHELVES, TICKET

COME_IN, ASK = "Sign in as Mara", "Ask for a quote"
SEARCHES = "Searches of the board"
PHOTO = "moon-jar.png"
LIMIT = 4.0
Flows = Mapping[str, str]
"""The ids of flows by name."""


@dataclass(frozen=True)
class TeamTest:
    """A test of the team: its `story` is told with the ids of flows and the shared table's."""

    name: str
    labels: tuple[str, ...]
    author: str
    story: Callable[[Flows, str], Document]


def _step(key: str, action: str, element: str = "", page: str = "", **inputs: str) -> Step:
    return Step(key, action, f"demo-{element}" if element else "", inputs, page=page)


def _check(key: str, element: str, page: str, expected: str, how: str = "is",
           prop: str = "text") -> Step:  # fmt: skip
    return _step(key, "check", element, page, property=prop, comparison=how, expected=expected)


def _call(key: str, flow: str, **inputs: str) -> Step:
    return Step(key, "flow", inputs=inputs, flow=flow)


def come_in() -> Document:
    """Return the flow that signs in."""
    steps = (
        _step("in1", "open", address="/sign-in"),
        _step("in2", "type", "member", SIGN_IN, text="mara"),
        _step("in3", "type", "password", SIGN_IN, text="${secret.mara_password}"),
        _step("in4", "press", "enter", SIGN_IN),
    )
    return Document(steps, settings=Settings(limit=LIMIT))


def ask() -> Document:
    """Return the flow that fills in the form of a quote and sends it."""
    steps = (
        _step("as1", "type", "piece", QUOTE, text="${input.piece}"),
        _step("as2", "type", "count", QUOTE, text="${input.pieces}"),
        _step("as3", "press", "ask", QUOTE),
    )
    takes = (Taken("piece"), Taken("pieces", default="1"))
    return Document(steps, takes=takes, settings=Settings(limit=LIMIT))


FLOWS: Mapping[str, Callable[[], Document]] = {COME_IN: come_in, ASK: ask}


def searches() -> Document:
    """Return the shared table of what is looked for on the board."""
    return Document(
        (), *_rows(("words", "firings"), ("Moon", "1"), ("Breakfast", "1"), ("Raku", "1"))
    )


def _rows(
    columns: Sequence[str], *values: Sequence[str]
) -> tuple[tuple[str, ...], tuple[Row, ...]]:
    rows = tuple(Row(f"t{n}", dict(zip(columns, one, strict=True))) for n, one in enumerate(values))
    return tuple(columns), rows


def _document(flows: Flows, *steps: Step, at: str = "", limit: float = LIMIT) -> Document:
    """Return a test that signs in first, and goes to a page."""
    start = [_call("c1", flows[COME_IN])]
    if at:
        start.append(_step("c2", "open", address=at))
    return Document((*start, *steps), settings=Settings(limit=limit))


def _rush(flows: Flows, _: str) -> Document:
    return _document(
        flows,
        _step("r1", "type", "piece", QUOTE, text="Wide platter"),
        _step("r2", "type", "count", QUOTE, text="14"),
        _step("r3", "tick", "rush", QUOTE),
        _step("r4", "press", "ask", QUOTE),
        _check("r5", "price", QUOTE, "€ 14.40"),
    )


def _large(flows: Flows, _: str) -> Document:
    return _document(
        flows,
        _call("l1", flows[ASK], piece="${row.piece}", pieces="${row.pieces}"),
        _step("l2", "press", "book", QUOTE),
        _check("l3", "message", BOARD, "is booked", "contains"),
        _step("l4", "type", "find", BOARD, text="${row.piece}"),
        _step("l5", "press", "search", BOARD),
        _check("l6", "board", BOARD, "${row.piece}", "contains"),
    )


def _refused(flows: Flows, _: str) -> Document:
    return _document(
        flows,
        _step("n1", "type", "piece", QUOTE, text="${row.piece}"),
        _step("n2", "choose", "clay", QUOTE, option="${row.clay}"),
        _step("n3", "choose", "cone", QUOTE, option="${row.cone}"),
        _step("n4", "type", "count", QUOTE, text="${row.pieces}"),
        _step("n5", "press", "ask", QUOTE),
        _check("n6", "refusal", QUOTE, "${row.reason}", "contains"),
    )


def _wrong_sign_in(_: Flows, __: str) -> Document:
    steps = (
        _step("w1", "open", address="/sign-in"),
        _step("w2", "type", "member", SIGN_IN, text="${row.member}"),
        _step("w3", "type", "password", SIGN_IN, text="not-this-one"),
        _step("w4", "press", "enter", SIGN_IN),
        _check("w5", "no-entry", SIGN_IN, "${row.answer}"),
    )
    return Document(steps, settings=Settings(limit=LIMIT))


def _find(flows: Flows, table: str) -> Document:
    made = _document(
        flows,
        _step("f1", "type", "find", BOARD, text="${row.words}"),
        _step("f2", "press", "search", BOARD),
        _check("f3", "board", BOARD, "${row.firings}", prop="number of rows"),
        at="/board",
    )
    return replace(made, table=table)


def _delete(flows: Flows, _: str) -> Document:
    return _document(
        flows,
        _call("d1", flows[ASK], piece=PLATTER),
        _step("d2", "press", "book", QUOTE),
        _step("d3", "press", "menu-of-it", BOARD),
        _step("d4", "press", "delete", BOARD),
        _step("d5", "dialog", answer="OK"),
        _check("d6", "message", BOARD, f"The firing of {PLATTER} was deleted."),
    )


def _in_place(flows: Flows, _: str) -> Document:
    return _document(
        flows,
        _step("p1", "double press", "pieces", BOARD),
        _step("p2", "type", "new-count", BOARD, text="7"),
        _step("p3", "key", "new-count", BOARD, keys="Enter"),
        _check("p4", "board", BOARD, "7", prop="cell Pieces where Piece is Tea caddy"),
        at="/board",
    )


def _kiln(flows: Flows, _: str) -> Document:
    return _document(
        flows,
        _step("k1", "choose", "kiln", BENCH, option="${row.kiln}"),
        _check("k2", "noted", BENCH, "kiln: ${row.kiln}"),
        at="/bench",
        limit=2.5,
    )


def _ticket(flows: Flows, _: str) -> Document:
    return _document(
        flows,
        _step("i1", "press", "menu", BOARD),
        _step("i2", "press", "ticket", BOARD),
        _step("i3", "window", window="newest"),
        _check("i4", "heading", TICKET, "Firing no. 4"),
        _step("i5", "close window", window="newest"),
        at="/board",
    )


def _recipes(flows: Flows, _: str) -> Document:
    return _document(
        flows,
        _step("e1", "type", "recipe", RECIPES, text="${row.glaze}"),
        _step("e2", "press", "find-recipe", RECIPES),
        _check("e3", "recipes", RECIPES, "1", prop="number of rows"),
        at="/recipes",
    )


def _photo(flows: Flows, _: str) -> Document:
    return _document(
        flows,
        _step("o1", "upload", "photo", FILES, file=PHOTO),
        _step("o2", "press", "send", FILES),
        _check("o3", "given", FILES, PHOTO, "contains"),
        at="/files",
    )


def _shelves(flows: Flows, _: str) -> Document:
    drag = replace(_step("s1", "drag", "jar", SHELVES), onto="demo-shelf-top")
    return _document(flows, drag, _check("s2", "shelf-top", SHELVES, "Moon jar", "contains"),
                     at="/shelves")  # fmt: skip


def _with(story: Callable[[Flows, str], Document], columns: Sequence[str],
          *values: Sequence[str]) -> Callable[[Flows, str], Document]:  # fmt: skip
    def told(flows: Flows, table: str) -> Document:
        names, rows = _rows(columns, *values)
        return replace(story(flows, table), columns=names, rows=rows)

    return told


TESTS = (
    TeamTest("Book a firing", ("booking", "smoke", "EMB-7"), "odo", lambda *_: booking_test()),
    TeamTest("Quotes by clay and cone", ("prices", "EMB-1"), "odo", lambda *_: quote_test()),
    TeamTest("Rush costs more", ("prices", "smoke", "EMB-2"), "bram", _rush),
    TeamTest("Large firings reach the board", ("booking", "EMB-8"), "bram",
             _with(_large, ("piece", "pieces"), ("Courtyard tiles", "20"), ("Soup bowls", "9"))),
    TeamTest("What can not be quoted", ("prices", "EMB-3"), "odo",
             _with(_refused, ("piece", "clay", "cone", "pieces", "reason"),
                   ("Eggshell cup", "Porcelain", "04", "2", "Porcelain is fired at cone 6"),
                   ("Roof tiles", "Stoneware", "6", "30", "A shelf holds 1 to 24 pieces."),
                   ("Bead set", "Stoneware", "1", "many", "is not a number"),
                   (" ", "Raku", "06", "1", "the piece has no name"))),
    TeamTest("Wrong sign-ins are told", ("sign-in", "smoke", "EMB-10"), "odo",
             _with(_wrong_sign_in, ("member", "answer"),
                   ("mara", "That password is not right."),
                   ("nobody", "We know no member “nobody”."))),
    TeamTest("Find a firing", ("board", "EMB-11"), "odo", _find),
    TeamTest("Delete a firing", ("board", "EMB-12"), "bram", _delete),
    TeamTest("Change the number of pieces", ("board", "EMB-13"), "bram", _in_place),
    TeamTest("Choose a kiln", ("workrooms", "EMB-20"), "bram",
             _with(_kiln, ("kiln",), ("Big Ember",), ("Little Ember",))),
    TeamTest("Ticket of a firing", ("board", "smoke", "EMB-14"), "odo", _ticket),
    TeamTest("Recipes by glaze", ("workrooms", "EMB-21"), "bram",
             _with(_recipes, ("glaze",), ("Celadon",), ("Shino",))),
    TeamTest("Give a photo", ("workrooms", "EMB-22"), "odo", _photo),
    TeamTest("Load the kiln", ("workrooms", "EMB-23"), "bram", _shelves),
)  # fmt: skip
"""The tests in the order in which a plan plays them."""

REQUIREMENTS = {
    "EMB-1": "Prices by clay, cone and count",
    "EMB-2": "Rush supplement",
    "EMB-3": "Refusals with their reasons",
    "EMB-4": "Discount of residents",
    "EMB-7": "Book a firing",
    "EMB-8": "Large firings",
    "EMB-10": "Sign in",
    "EMB-11": "Find on the board",
    "EMB-12": "Delete with a question",
    "EMB-13": "Edit in place",
    "EMB-14": "Ticket in a window",
    "EMB-20": "Choice of a kiln",
    "EMB-21": "Recipe library",
    "EMB-22": "Photos of pieces",
    "EMB-23": "Load shelves by dragging",
    "EMB-24": "Cone chart in Fahrenheit",
}
"""What the studio wants of its desk; two of them no test covers."""
