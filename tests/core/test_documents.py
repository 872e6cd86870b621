"""Tests as documents: edits, conflicts, rows, values, sentences."""

import itertools
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.data.choosing import choose_rows
from lantern.core.problems import BadInput, Conflict, Missing, Problem, UnknownName
from lantern.core.steps import edits
from lantern.core.steps.actions.navigating import same_title, title_pattern
from lantern.core.steps.catalogue import ACTIONS, check_inputs
from lantern.core.steps.comparing import difference, suspects
from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.core.steps.properties import COMPARISONS, PROPERTIES, common_for, compare, offered
from lantern.core.steps.sentences import parts, scenes, sentence
from lantern.core.values.sources import Names
from lantern.core.values.templates import (
    check_name,
    literal,
    masked,
    places,
    propose_name,
    resolve,
    shown,
)
from tests.core.samples import element


def document(*ids, columns=(), rows=()):
    steps = tuple(Step(i, "type", "e", {"text": f"value {i}"}) for i in ids)
    return Document(steps, tuple(columns), tuple(rows))


def ids(doc):
    return "".join(step.id for step in doc.steps)


def apply(doc, edit):
    numbers = itertools.count(1)
    return edits.apply(doc, edit, lambda: f"n{next(numbers)}")


@pytest.mark.parametrize(
    ("edit", "result"),
    [
        (edits.Insert((Step("x", "press"),), "a"), "axbc"),
        (edits.Insert((Step("x", "press"),), ""), "xabc"),
        (edits.Insert((Step("x", "press"),)), "abcx"),
        (edits.Move(("c",), ""), "cab"),
        (edits.Move(("a", "b"), "c"), "cab"),
        (edits.Remove(("b",)), "ac"),
        (edits.Copy(("a", "b")), "abn1n2c"),
    ],
    ids=str,
)
def test_steps_can_be_inserted_moved_removed_and_copied(edit, result):
    assert ids(apply(document("a", "b", "c"), edit)) == result


@given(st.permutations("abcdef"), st.data())
def test_moving_loses_no_step_and_doubles_none(order, data):
    doc = document(*order)
    moved = data.draw(st.lists(st.sampled_from(order), min_size=1, max_size=4, unique=True))
    rest = [one for one in order if one not in moved]
    after = data.draw(st.sampled_from(["", *rest]))
    result = apply(doc, edits.Move(tuple(moved), after))
    assert sorted(ids(result)) == sorted(order)
    assert [i for i in ids(result) if i in rest] == rest


def test_a_change_merges_values_and_keeps_the_rest():
    doc = document("a")
    changed = apply(doc, edits.Change("a", {"inputs": {"text": "new"}, "limit": 3}))
    assert changed.step("a").inputs == {"text": "new"}
    assert changed.step("a").limit == 3
    assert changed.step("a").element == "e"


@pytest.mark.parametrize(
    "raw",
    [
        {"do": "explode"},
        {"do": "remove", "steps": []},
        {"do": "change", "step": "a", "fields": {"id": "b"}},
        {"do": "change", "step": "a", "fields": {"limit": "soon"}},
        {"do": "change", "step": "a", "fields": {"limit": 100_000}},
        {"do": "change", "step": "gone", "fields": {}},
        {"do": "move", "steps": ["a"], "after": "a"},
        {"do": "insert", "steps": [{"id": "a", "action": "press"}]},
        {"do": "set settings", "fields": {"on_failure": "panic"}},
        {"do": "set table", "columns": ["a b"], "rows": []},
        {"do": "set table", "columns": ["a", "a"], "rows": []},
        {"do": "to column", "step": "a", "input": "price", "column": "x"},
        {"do": "to column", "step": "a", "input": "text", "column": "9 lives"},
    ],
    ids=str,
)
def test_edits_that_make_no_sense_are_refused(raw):
    with pytest.raises(Problem):
        apply(document("a", "b"), edits.read_edit(raw))


def test_a_constant_becomes_the_first_rows_value():
    result = apply(document("a"), edits.ToColumn("a", "text", "piece"))
    assert result.step("a").inputs == {"text": "${row.piece}"}
    assert result.columns == ("piece",)
    assert [dict(row.values) for row in result.rows] == [{"piece": "value a"}]


def test_an_existing_column_keeps_its_values():
    doc = document("a", columns=["piece"], rows=[Row("r", {"piece": "Moon jar"})])
    result = apply(doc, edits.ToColumn("a", "text", "piece"))
    assert [dict(row.values) for row in result.rows] == [{"piece": "Moon jar"}]


def test_a_value_that_is_a_column_already_is_no_constant():
    doc = apply(document("a"), edits.ToColumn("a", "text", "piece"))
    with pytest.raises(BadInput, match="not a constant"):
        apply(doc, edits.ToColumn("a", "text", "other"))


def test_edits_of_different_steps_do_not_conflict_but_of_the_same_do():
    base = document("a", "b")
    current = apply(base, edits.Change("a", {"inputs": {"text": "mine"}}))
    edits.check_fresh(edits.Change("b", {"enabled": False}), base, current)
    with pytest.raises(Conflict, match="changed by someone else"):
        edits.check_fresh(edits.Change("a", {"enabled": False}), base, current)
    with pytest.raises(Conflict):
        edits.check_fresh(edits.Remove(("a",)), base, current)


def test_two_who_change_the_table_conflict():
    base = document("a")
    current = apply(base, edits.SetTable(("piece",), (Row("r", {"piece": "x"}),)))
    with pytest.raises(Conflict, match="table"):
        edits.check_fresh(edits.SetTable(("clay",), ()), base, current)


values = st.dictionaries(st.sampled_from(["text", "option"]), st.text(max_size=20))
steps = st.builds(
    Step,
    id=st.uuids().map(str),
    action=st.sampled_from(sorted(ACTIONS)),
    inputs=values,
    enabled=st.booleans(),
    limit=st.none() | st.floats(0.1, 600),
    on_failure=st.sampled_from([None, "stop", "go on"]),
    box=st.none() | st.tuples(*[st.floats(0, 1)] * 4),
)


@given(st.lists(steps, max_size=5), st.lists(st.text(max_size=8), max_size=3))
def test_documents_survive_their_json(some, cells):
    rows = tuple(Row(str(n), {"piece": cell}, n % 2 == 0) for n, cell in enumerate(cells))
    doc = Document(tuple(some), ("piece",), rows, Settings(3, "go on", "failures"))
    assert Document.read(doc.as_json()) == doc


# -- values --------------------------------------------------------------------------------------

NAMES = Names(row={"clay": "Raku"}, env={"base_url": "http://desk"}, secret={"pin": "1234"})


def test_names_are_replaced_and_secrets_masked_where_shown():
    template = "${env.base_url}/${row.clay}?pin=${secret.pin}"
    assert resolve(template, NAMES) == "http://desk/Raku?pin=1234"
    assert shown(template, NAMES) == "http://desk/Raku?pin=••••••"


@given(st.text())
def test_any_text_can_be_written_as_itself(text):
    assert resolve(literal(text), NAMES) == text


def test_an_unknown_name_lists_what_exists_and_the_nearest():
    with pytest.raises(UnknownName) as problem:
        resolve("${row.claye}", NAMES)
    assert "clay" in problem.value.message
    assert problem.value.hint == "Did you mean clay?"


@pytest.mark.parametrize("template", ["${rows.clay}", "${clay}", "${row.}", "${}"])
def test_a_place_that_is_none_is_refused(template):
    with pytest.raises(BadInput, match="not a value that Lantern knows"):
        places(template)


@given(st.text())
def test_a_proposed_name_is_always_a_good_one(text):
    assert check_name(propose_name(text)) == propose_name(text)


def test_a_bad_name_is_refused_with_a_proposal():
    with pytest.raises(BadInput) as problem:
        check_name("piece name")
    assert problem.value.hint == "For example piece_name."


def test_secrets_are_masked_inside_texts():
    assert masked("pin 1234 and 12345", {"pin": "1234"}) == "pin •••••• and ••••••5"
    assert "pin" not in repr(NAMES)


# -- rows ----------------------------------------------------------------------------------------

ROWS = [Row(str(n), ticked=n in (2, 4)) for n in range(1, 6)]


@pytest.mark.parametrize(
    ("choice", "chosen"),
    [
        ("all", [0, 1, 2, 3, 4]),
        ("", [0, 1, 2, 3, 4]),
        ("3", [2]),
        ("2-4", [1, 2, 3]),
        ("4-", [3, 4]),
        ("5, 1, 1-2", [0, 1, 4]),
        ("Ticked", [1, 3]),
    ],
)
def test_rows_are_chosen_by_words_numbers_and_ranges(choice, chosen):
    assert choose_rows(ROWS, choice) == chosen


@pytest.mark.parametrize("choice", ["0", "6", "4-2", "two", "1,,2", "-3", "1-9"])
def test_a_choice_that_names_no_row_is_refused(choice):
    with pytest.raises(BadInput):
        choose_rows(ROWS, choice)


def test_ticked_without_a_tick_is_refused_and_no_rows_is_nothing_to_choose():
    with pytest.raises(BadInput, match="No row is ticked"):
        choose_rows([Row("1")], "ticked")
    assert choose_rows([], "3") == []


CLAYS = [
    Row("1", {"clay": "Raku", "count": "3", "glaze name": "clear"}),
    Row("2", {"clay": "Stoneware", "count": "12", "glaze name": "matt white"}),
    Row("3", {"clay": "Raku", "count": "20", "glaze name": "matt white"}),
]


@pytest.mark.parametrize(
    ("condition", "chosen"),
    [
        ("clay = Raku", [0, 2]),
        ("clay = Raku and count > 5", [2]),
        ('not "glaze name" = clear', [1, 2]),
        ("count < 5 or count >= 20", [0, 2]),
    ],
)
def test_rows_are_chosen_by_what_holds_for_them(condition, chosen):
    assert choose_rows(CLAYS, f"where {condition}") == chosen
    assert choose_rows(CLAYS, f"WHERE  {condition}") == chosen


def test_a_condition_that_fits_no_row_or_names_nothing_is_refused():
    with pytest.raises(BadInput, match="No row is so that count > 99"):
        choose_rows(CLAYS, "where count > 99")
    with pytest.raises(BadInput, match="is not a value"):
        choose_rows(CLAYS, "where clay = Rakku")
    with pytest.raises(BadInput, match="Known: clay"):
        choose_rows(CLAYS, "where clai = Raku")


# -- sentences, actions and properties -----------------------------------------------------------


def test_every_action_reads_as_a_sentence_and_says_what_it_does():
    price = element("Price", "text", id="price")
    for action in ACTIONS.values():
        inputs = {entry.name: entry.default or "x" for entry in action.inputs}
        on = price.id if action.kinds is not None else ""
        inputs = {name: "no" if name == "expected" else text for name, text in inputs.items()}
        made = Step("s", action.name, on, inputs)
        words = sentence(made, {price.id: price})
        assert action.help.endswith(".")
        assert "{" not in words
        assert ("Price" in words) is (action.kinds is not None)
        named = {part.input for part in parts(made, {}) if part.kind == "value"}
        assert named == {entry.name for entry in action.inputs}


def test_inputs_are_checked_by_the_catalogue():
    check = ACTIONS["check"]
    good = {"property": "text", "comparison": "is", "expected": "x"}
    check_inputs(check, good)
    for wrong in ({"property": "mood"}, {"comparison": "likes"}, {"colour": "red"}):
        with pytest.raises(BadInput):
            check_inputs(check, good | wrong)
    with pytest.raises(BadInput, match="needs a value"):
        check_inputs(check, {"property": "text"})


def test_scenes_follow_the_pages_and_an_opening_belongs_to_what_it_leads_to():
    story = [
        Step("1", "open"),
        Step("2", "type", page="Sign in"),
        Step("3", "press", page="Sign in"),
        Step("4", "dialog"),
        Step("5", "check", page="Quote"),
        Step("6", "open"),
    ]
    assert [(s.page, "".join(s.steps)) for s in scenes(story)] == [
        ("Sign in", "1234"),
        ("Quote", "5"),
        ("", "6"),
    ]


@given(
    st.lists(
        st.builds(
            Step,
            id=st.uuids().map(str),
            action=st.sampled_from(["open", "press"]),
            page=st.sampled_from(["", "A", "B"]),
        )
    )
)
def test_scenes_hold_every_step_once_and_in_order(story):
    assert [i for scene in scenes(story) for i in scene.steps] == [step.id for step in story]


@pytest.mark.parametrize(
    ("found", "comparison", "wanted", "holds"),
    [
        ("€ 5.40", "is", "€  5.40", True),
        ("€ 5.40", "is not", "€ 5.40", False),
        ("Moon jar", "contains", "jar", True),
        ("Moon jar", "does not contain", "jar", False),
        ("Moon jar", "matches", r"^M\w+ jar$", True),
        ("€ 1,234.50", "is at least", "1000", True),
        ("€ 5.40", "is at most", "5", False),
    ],
)
def test_comparisons(found, comparison, wanted, holds):
    assert compare(found, comparison, wanted) is holds


def test_a_comparison_that_can_not_be_made_says_why():
    with pytest.raises(BadInput, match="no number"):
        compare("none", "is at least", "1")
    with pytest.raises(BadInput, match="does not compile"):
        compare("x", "matches", "(")
    assert len(COMPARISONS) == 9


def test_the_common_properties_come_first_and_all_others_after():
    values = {"attribute class": "x", "text": "€ 5", "shown": "yes", "name": ""}
    assert [one["name"] for one in offered("text", values)] == [
        "text",
        "shown",
        "attribute class",
        "name",
    ]
    assert common_for("tick box")[0] == "ticked"
    assert all(entry.holds in ("text", "number", "yes/no") for entry in PROPERTIES.values())


def test_numbers_in_titles_are_open():
    assert title_pattern("Firing no. 512") == "Firing no. #"
    assert same_title("Firing no. 7", "Firing no. #")
    assert not same_title("Quote 7", "Firing no. #")
    assert same_title("Quote", "Quote")


def test_a_step_that_is_gone_is_missing():
    with pytest.raises(Missing):
        document("a").step("b")


def test_what_changed_between_two_versions_and_what_of_it_can_have_made_a_sentence_fail():
    steps = tuple(Step(f"s{n}", "key", inputs={"keys": "A"}) for n in range(1, 6))
    before = Document(steps, ("piece",), (Row("r1", {"piece": "Moon jar"}),))
    one, two, _three, four, five = steps
    changed = replace(two, inputs={"keys": "B"}, picture="new")
    pictured = replace(one, picture="new")
    fresh = Step("s9", "key", inputs={"keys": "C"})
    after = Document(
        (pictured, changed, five, four, fresh),
        ("piece", "clay"),
        (Row("r1", {"piece": "Tea caddy", "clay": ""}), Row("r2")),
        Settings(limit=4.0),
    )
    found = difference(before, after)
    told = [(change.what, (change.after or change.before).id) for change in found.steps]
    assert told[:2] == [("changed", "s2"), ("removed", "s3")]
    assert found.steps[0].parts == ("inputs",)
    assert ("added", "s9") in told
    assert sum(what == "moved" for what, _ in told) == 1
    assert found.others == (
        "column clay added", "1 row added", "1 row changed", "limit: 10.0 before, 4.0 now",
    )  # fmt: skip
    assert [c.before.id for c in suspects(before, after, "s2")] == ["s2"]
    assert "s3" in [c.before.id for c in suspects(before, after, "s4") if c.before]
    assert suspects(before, after, "gone") == []
    assert difference(before, before).nothing


def test_what_played_the_baselines_own_value_in_a_row_is_not_to_blame():
    """And what is left is ordered by how likely it is."""

    def typed(key, text, element="e"):
        return Step(key, "type", element, {"text": text}, page="Quote")

    press = Step("p", "press", "ask", page="Quote")
    before = Document((typed("a", "Moon jar"), typed("b", "2"), typed("c", "x", "ask"), press))
    after = Document(
        (typed("a", "${row.piece}"), typed("b", "3"), typed("c", "${row.other}", "ask"), press)
    )
    row = {"piece": "Moon jar", "other": "y"}
    assert [c.after.id for c in suspects(before, after, "p", row)] == ["c", "b"]
    assert [c.after.id for c in suspects(before, after, "p", row | {"piece": "Vase"})] == [
        "c", "b", "a",
    ]  # fmt: skip
    assert [c.after.id for c in suspects(before, after, "b", row)] == ["b"]


def test_what_is_added_at_the_end_behind_an_empty_block_goes_into_it():
    block = Step("b", "if", inputs={"property": "shown", "comparison": "is", "expected": "yes"})
    doc = replace(document("a"), steps=(*document("a").steps, block))
    one = apply(doc, edits.Insert((Step("x", "press"),)))
    assert [(step.id, step.depth) for step in one.steps] == [("a", 0), ("b", 0), ("x", 1)]
    two = apply(one, edits.Insert((Step("y", "press"),)))
    assert two.steps[-1].depth == 0, "the block is not empty any more"
