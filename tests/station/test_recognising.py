"""Facts from real pages and the clues chosen from them."""

import json

import pytest

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.engine.finding import query_for
from lantern.station.lookup import survey


def sentences(proposal):
    return [clue.sentence() for clue in proposal.clues]


@pytest.mark.parametrize(
    ("html", "selector", "kind", "clues"),
    [
        ("<button id=x1y2z3>Save</button>", "button", "button", ["name is “Save”"]),
        ("<label>Piece <input></label>", "input", "text box", ["name is “Piece”"]),
        ("<label for=a>Pin</label><input id=a type=password>", "input", "password box",
         ["name is “Pin”"]),
        ("<input placeholder='Search'>", "input", "text box", ["hint text is “Search”"]),
        ("<input aria-label=Count>", "input", "text box", ["name is “Count”"]),
        ("<img alt='A moon jar' src=x>", "img", "picture", ["name is “A moon jar”"]),
        ("<div role=button tabindex=0>Fire</div>", "div", "button", ["name is “Fire”"]),
        ("<table aria-label=Firings><tr><td>1</table>", "table", "table", ["name is “Firings”"]),
        ("<input type=checkbox data-test=rush>", "input", "tick box", ["test id is “rush”"]),
    ],
)  # fmt: skip
def test_the_first_choice_is_what_people_see(page, clues_for, html, selector, kind, clues):
    page.show(html)
    proposal = clues_for(selector)
    assert (proposal.kind, sentences(proposal)) == (kind, clues)


def test_a_value_is_named_by_the_word_before_it(page, clues_for):
    page.show("<section aria-label=Quote><span>Price</span> <output>€ 5.40</output></section>")
    assert clues_for("output").name == "Price"


def test_a_cell_button_is_known_by_its_row(page, clues_for):
    rows = "".join(
        f"<tr><td>{n}</td><td>Piece {n}</td><td><button>Menu</button>" for n in range(30)
    )
    page.show(f"<table>{rows}</table>")
    assert sentences(clues_for("button", 7)) == [
        "name is “Menu”",
        "in the row of “Piece 7”",
    ]


SURE = """
<div role=dialog aria-labelledby=ask><div><h3 id=ask>Delete the bowl?</h3></div>
  <p>It can not be undone.<p><button>Yes</button><button>Not yet</button></div>
<main><h1>Bowls</h1><button>Fire</button></main>
"""


@pytest.mark.parametrize(
    ("place", "clues"),
    [
        (0, ["name is “Yes”", "inside “Delete the bowl?”"]),
        (1, ["name is “Not yet”"]),
        (2, ["name is “Fire”"]),
    ],
)
def test_a_bare_word_is_known_by_the_group_that_it_answers(page, clues_for, place, clues):
    page.show(SURE)
    assert sentences(clues_for("button", place)) == clues


RECORD = """
<form><h2>Edit Tea caddy</h2><label>Piece <input value="Tea caddy"></label>
<button>Save</button></form>
<form><h2>Search</h2><input type=search><button>Find</button></form>
"""


def test_a_form_that_is_called_after_what_it_holds_is_called_otherwise_tomorrow(page, clues_for):
    page.show(RECORD)
    assert sentences(clues_for("button", 0)) == ["name is “Save”"]
    assert sentences(clues_for("button", 1)) == ["name is “Find”", "inside “Search”"]


ONE_ROW = """
<table><thead><tr><th><button>Piece</button><th>Shelf<th></thead>
<tr><td><a href=/1>Bowl</a><td><a href=/s/2>Upper</a><td><button>Delete</button></table>
"""


def test_the_only_row_of_today_still_says_which_one_is_deleted(page, clues_for):
    page.show(ONE_ROW)
    row = "in the row where Piece is “Bowl”"
    assert sentences(clues_for("button", 0)) == ["name is “Piece”"], "a heading is in no row"
    assert sentences(clues_for("button", 1)) == ["name is “Delete”", row]
    assert sentences(clues_for("a", 0)) == ["name is “Bowl”"], "it says itself what the row is of"
    assert sentences(clues_for("a", 1)) == ["name is “Upper”", row]


def test_what_other_rows_show_when_it_is_their_turn_counts_as_well(page, clues_for):
    menu = "<ul{}><li><button>Open ticket</button></ul>"
    rows = "".join(
        f"<tr><td>{piece}<td>{menu.format(' hidden' * (piece != 'Cup'))}"
        for piece in ("Cup", "Jar", "Tile")
    )
    page.show(f"<table><thead><tr><th>Piece<th></thead>{rows}</table>")
    assert sentences(clues_for("button")) == [
        "name is “Open ticket”",
        "in the row where Piece is “Cup”",
    ]


GRID = """
<div role=grid><div role=rowgroup><div role=row>
<span role=columnheader aria-colindex=1>Piece</span>
<span role=columnheader aria-colindex=3>Count</span></div></div>
<div role=rowgroup><div role=row><b role=gridcell aria-colindex=3 class=not-editing>4</b></div>
<div role=row><b role=gridcell aria-colindex=1>Jug</b></div></div></div>
"""


def test_cells_of_a_grid_stand_under_the_heading_of_their_number(page, clues_for):
    """Grids draw columns apart from each other, in any order, and only those in view."""
    page.show(GRID)
    assert [clues_for("[role=gridcell]", n).name for n in (0, 1)] == ["Count", "Piece"]


def test_clues_hold_on_every_host_and_however_a_column_is_sorted(page, clues_for):
    page.show(
        "<table><thead><tr><th>No. ▼<th>Piece</thead><tr><td>7<td><a href=../shelf/2>Bowl</a>"
        "<tr><td>8<td>Jar</table>"
    )
    assert clues_for("td", 0).seen.column == "No."
    address = clues_for("a").seen.attributes["href"]
    assert address.endswith("shelf/2")
    assert ":" not in address, "neither scheme nor port"


def test_the_heading_of_a_part_leaves_its_neighbours_in_it(page, clues_for):
    page.show("<form><h2>Glaze</h2><p>Shino</p></form><section aria-label=Out>…</section>")
    assert {facts.text: facts.section for facts in survey(page) if facts.tag in ("h2", "p")} == {
        "Glaze": "",
        "Shino": "Glaze",
    }


PAGE = """
<form aria-label=First><label>Name <input name=n></label><button>Save</button></form>
<form aria-label=Second><label>Name <input name=n></label><button>Save</button></form>
<ul><li><a href=/a>More</a></li><li><a href=/b>More</a></li><li><a href=/b>More</a></li></ul>
<p>One</p><p>One</p><span role=button>Save</span><button hidden>Save</button>
<dl><dt>Cone</dt><dd>6</dd><dt>Clay</dt><dd>6</dd></dl>
"""


def test_what_is_suggested_finds_exactly_that_node_again(page, clues_for):
    """For every node of a page full of twins, the clues lead back to the node and no other."""
    page.show(PAGE)
    for selector in ("input", "form button", "a", "p", "[role=button]", "dd", "li"):
        place = 0
        while handle := page.probe("handleAt", selector, place):
            proposal = clues_for(selector, place)
            made = Element("e", proposal.name, proposal.kind, proposal.clues, seen=proposal.seen)
            query = query_for(made)
            seen = page.probe(
                "lookup",
                {
                    "selector": query.selector,
                    "clues": [clue.as_json() for clue in query.clues],
                    "aim": False,
                    "after": None,
                    "wait": 0,
                },
            )
            found = made.among(map(Facts.read, seen["candidates"]))
            assert [one.handle for one in found] == [handle], (selector, place, proposal)
            place += 1
        assert place > 1 or selector == "[role=button]"


def test_properties_are_read_with_their_present_values(page):
    page.show(
        """<label>Clay <select><option>Raku<option selected>Stoneware</select></label>
        <input type=checkbox checked><input type=password value=secret data-x=1>
        <table><thead><tr><th>a</thead><tr><td>1<tr><td>2<tr hidden><td>3</table>
        <button disabled>Save</button>"""
    )

    def read(selector, name):
        return page.probe("read", page.probe("handleAt", selector, 0), name)

    assert read("select", "selected option") == "Stoneware"
    assert read("select", "number of options") == "2"
    assert read("[type=checkbox]", "ticked") == "yes"
    assert read("table", "number of rows") == "2"
    assert read("button", "enabled") == "no"
    assert read("[type=password]", "attribute data-x") == "1"
    assert read("[type=password]", "value") == ""  # a password is not read back
    assert read("[type=password]", "property value") is None
    assert read("button", "property tabIndex") == "0"
    assert read("button", "ticked") is None


BLOCKS = """
<ul aria-label=Jars>
<li><h3>Celadon</h3><dl><dt>Litres<dd>4<dt>Shelf<dd>Top</dl><button>Take</button></li>
<li><h3>Ash white</h3><dl><dt>Litres<dd>7</dl><ul><li>cracked</li></ul><button>Take</button></li>
<li hidden><h3>Shino</h3></li>
</ul>
<ol><li>Wedge</li><li>Throw</li></ol>
"""


def test_a_list_has_rows_and_columns_like_a_table(page):
    page.show(BLOCKS)

    def table(selector):
        return json.loads(page.probe("read", page.probe("handleAt", selector, 0), "table"))

    assert table("ul") == {
        "headers": ["Heading", "Litres", "Shelf"],
        "rows": [["Celadon", "4", "Top"], ["Ash white", "7", ""]],
    }
    assert table("ol") == {"headers": ["Item"], "rows": [["Wedge"], ["Throw"]]}
    second = page.probe("describe", page.probe("handleAt", "button", 1))
    assert second["facts"]["cells"] == {"Heading": "Ash white", "Litres": "7"}


CARDS = """
<h1>Glazes</h1><div class=shelf>
<div class="card on"><h3>Celadon</h3><p>4 litres</p><button>Take</button></div>
<div class=card><h3>Shino</h3><p>7 litres</p><button>Take</button></div>
<div class=card><h3>Tenmoku</h3><p>2 litres</p><button>Take</button></div>
</div><div><div>Only a text</div><div>and another</div></div>
"""


def test_blocks_that_repeat_without_any_markup_are_a_table(page):
    """Cards in plain boxes: rows by their heading; what is inside one is told by it."""
    page.show(CARDS)
    tables = [facts for facts in survey(page) if kind_of(facts) == "table"]
    assert [(facts.attributes["class"], facts.blocks) for facts in tables] == [("shelf", 3)]
    shelf = page.probe("handleAt", ".shelf", 0)
    shown = json.loads(page.probe("read", shelf, "table"))
    assert shown == {"headers": ["Heading"], "rows": [["Celadon"], ["Shino"], ["Tenmoku"]]}
    assert page.probe("read", shelf, "number of rows") == "3"
    second = page.probe("describe", page.probe("handleAt", "button", 1))
    assert second["facts"]["cells"] == {"Heading": "Shino"}
    assert kind_of(Facts.read(second["facts"])) == "button"
    plain = page.probe("describe", page.probe("handleAt", "body > div + div > div", 0))
    assert plain["facts"]["cells"] == {}
