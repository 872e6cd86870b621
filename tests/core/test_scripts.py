"""Writing a test as a script: names, comments, and blocks whose question can not be told."""

import ast
import keyword

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.model import Document, Settings, Step
from lantern.exchange.script.words import identifier, one_line, quoted, unique
from lantern.exchange.script.writing import Source, write

TEXTS = st.text(max_size=80)
NAMES = st.lists(st.sampled_from(["Ash", "ash!", "Àsh", "class", "7 cones", "", "名"]), max_size=12)
PRICE = Element("price", "Price", "text", (Clue("id", "is", "price"),))
SHOWN = {"property": "shown", "comparison": "is", "expected": "yes"}


# NUL can not stand in a file of Python at all: it never gets into a test.
@given(TEXTS.map(lambda text: text.replace("\0", "")))
def test_any_text_makes_a_name_a_comment_of_one_line_and_a_docstring(text):
    name = identifier(text)
    assert name.isidentifier()
    assert not keyword.iskeyword(name)
    assert len(ast.parse(f"# {one_line(text)}\npass").body) == 1
    assert ast.get_docstring(ast.parse(f'"""a {quoted(text)}."""')) is not None


@given(NAMES)
def test_things_of_one_name_have_names_of_their_own(names):
    made = unique((str(place), name) for place, name in enumerate(names))
    assert list(made) == [str(place) for place in range(len(names))]
    assert len(set(made.values())) == len(names)
    assert all(name.isidentifier() for name in made.values())


def story(*steps, settings=None):
    """The sentences of a test as they stand in its script."""
    document = Document(steps, settings=settings or Settings())
    text = write(Source("Quotes", document, {"price": PRICE}, {}, "http://kiln.test"))
    ast.parse(text)
    body = text.partition("def test_")[2].partition("\n\n\n")[0]
    lines = [line for line in body.splitlines()[1:] if line.strip() and '"""' not in line]
    return [line for line in lines if line.strip() not in ("row = {}", "kept = {}")]


def press(key, depth=0):
    return Step(key, "pause", inputs={"seconds": key}, depth=depth)


def asking(action, key, **more):
    known = {} if action in ("else", "else if value") else {"element": "price", "inputs": SHOWN}
    return Step(key, action, **{**known, **more})


def chain(lines):
    """What a story consists of, and of its first condition how each alternative is asked for."""
    body = ast.parse("if True:\n" + "\n".join(lines)).body[0].body
    first = body[0].body[0] if isinstance(body[0], ast.With) else body[0]
    asked, rest = [], [first]
    while len(rest) == 1 and isinstance(rest[0], ast.If):
        asked.append(rest[0].test.func.attr)
        rest = rest[0].orelse
    return [type(one).__name__ for one in body], asked, bool(rest)


ALTERNATIVES = ("if", "else if", "else")


@pytest.mark.parametrize("which", ["", "if", "else if"])
def test_a_condition_that_lets_the_row_go_on_takes_its_alternatives_along(which):
    steps = []
    for number, action in enumerate(ALTERNATIVES):
        leads = {"on_failure": "go on"} if action == which else {}
        steps += [asking(action, action, **leads), press(str(number), 1)]
    lines = story(*steps, press("4"))
    kinds, asked, otherwise = chain(lines)
    assert kinds[:2] == ["With" if which else "If", "Expr"]
    assert asked == ["asked" if action == which else "holds" for action in ALTERNATIVES[:2]]
    assert otherwise
    assert lines[0].strip().startswith("with page.as_far_as_told():" if which else "if page.")


def test_repeats_ask_as_well_and_what_stops_everything_says_so():
    rows = Step("r", "repeat rows", "price", on_failure="go on")
    often = Step("t", "repeat", inputs={"times": "3"}, on_failure="stop everything")
    lines = story(rows, press("1", 1), often, press("2", 1))
    assert [line.strip() for line in lines if line.strip().startswith(("with", "for"))] == [
        "with page.as_far_as_told():",
        "for each in page.asked('go_on', lambda: page.rows(PRICE)):",
        "with page.go_on():",
        "for each in page.asked('stop_everything', lambda: times('3')):",
        "with page.stop_everything():",
    ]


def test_a_condition_is_tried_as_often_and_waits_as_long_as_it_is_said_to():
    one = asking("if", "a", limit=2.5, retries=2)
    [line] = [line.strip() for line in story(one, press("1", 1)) if "holds" in line]
    assert line.startswith("if page.within(2.5).trying(2 + 1).holds(PRICE, ")


def test_what_is_switched_off_is_a_comment_and_asks_nothing():
    off = asking("if", "a", on_failure="go on", enabled=False)
    lines = story(off, press("1", 1), press("2"))
    assert "as_far_as_told" not in "\n".join(lines)
    assert lines[0].strip().startswith("# switched off: If")
    assert len([line for line in lines if "page.pause" in line]) == 1
