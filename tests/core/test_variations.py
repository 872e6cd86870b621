"""Designing rows: what they cover is proven apart from how they were made."""

import itertools
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lantern.cli import main
from lantern.core.data.variations.coverage import coverage
from lantern.core.data.variations.designing import design
from lantern.core.data.variations.plans import WAYS, Plan
from lantern.core.data.variations.rules import holds, read_rule
from lantern.core.data.variations.wording import COMPARISONS, Part, wording
from lantern.core.problems import BadInput, Problem, UnknownName
from lantern.core.steps.edits import SetCells, WriteDesign, apply, held_against
from lantern.core.steps.model import Document, Row

CLAYS = {"clay": ["Raku", "Stoneware", "Porcelain"], "cone": ["06", "6", "10"],
         "rush": ["yes", "no"], "glaze": ["Clear", "Celadon"]}  # fmt: skip


def plan(inputs=None, strength=2, **more):
    return Plan.read({"inputs": inputs or CLAYS, **more}, strength)


def rows_of(plan, how="", seed=1):
    return [row.values for row in design(plan, how, seed)]


def shape(*parts):
    sizes = [size for size, count in parts for _ in range(count)]
    return {f"a{n}": [str(value) for value in range(size)] for n, size in enumerate(sizes)}


@pytest.mark.parametrize(
    ("parts", "strength", "most"),
    [
        ([(3, 4)], 2, 9),
        ([(3, 13)], 2, 17),
        ([(4, 15), (3, 17), (2, 29)], 2, 34),
        ([(4, 1), (3, 39), (2, 35)], 2, 26),
        ([(3, 10)], 3, 66),
        ([(4, 5)], 2, 16),
        ([(9, 4), (7, 2)], 2, 81),
        ([(2, 10)], 2, 6),
        ([(2, 35)], 2, 8),
        ([(5, 1)], 2, 5),
    ],
)
def test_few_rows_cover_everything(parts, strength, most):
    asked = plan(shape(*parts), strength)
    rows = rows_of(asked)
    assert len(rows) <= most
    assert coverage(asked, rows).missing == 0


def test_the_same_seed_gives_the_same_rows_and_another_other_ones():
    asked = plan(shape((3, 3), (2, 2)), constraints=["if a0 = 0 then a1 = 0"])
    assert rows_of(asked, seed=4) == rows_of(asked, seed=4)
    assert len({str(rows_of(asked, seed=seed)) for seed in range(5)}) > 1


def test_the_ways_of_combining_cover_what_they_say():
    asked = plan()
    counts = {how: len(rows_of(asked, how)) for how in WAYS}
    assert counts["each value once"] == 3
    assert counts["pairs"] < counts["triples"] < counts["all combinations"] == 3 * 3 * 2 * 2
    once = rows_of(asked, "each value once")
    for name, values in CLAYS.items():
        assert {row[name] for row in once} == set(values)


def test_constraints_are_kept_and_forbidden_combinations_said():
    asked = plan(constraints=["if clay = Raku then rush = no", "if clay = Raku then cone = 06"])
    rows = rows_of(asked)
    told = coverage(asked, rows)
    assert told.missing == 0
    forbidden = [dict(one.values) for one in told.tuples if one.forbidden]
    assert {"clay": "Raku", "rush": "yes"} in forbidden
    assert {"clay": "Raku", "cone": "6"} in forbidden  # 06 is another cone than 6
    assert all(row["rush"] == "no" for row in rows if row["clay"] == "Raku")


@pytest.mark.parametrize(
    ("rule", "fits"),
    [
        ("count > 6", ["12"]),
        ("count >= 6 and count < 12", ["6"]),
        ("not (count in (6, 12))", ["1"]),
        ("count = 1 or count = 12", ["1", "12"]),
        ("if count != 1 then other = count", ["1", "6", "12"]),
        ("'the shelf' = \"top one\" and count = 6", ["6"]),
    ],
)
def test_constraints_are_read_as_they_are_written(rule, fits):
    inputs = {"count": ["1", "6", "12"], "other": ["6", "12"], "the shelf": ["top one", "low"]}
    rows = rows_of(plan(inputs, constraints=[rule]), "all combinations")
    assert sorted({row["count"] for row in rows}, key=int) == fits


@pytest.mark.parametrize(
    ("rules", "words"),
    [
        (["clay = Raku", "clay != Raku"], "“clay = Raku” and “clay != Raku” clash"),
        (["if clay = Raku then rush = no", "clay = Raku", "rush = yes", "glaze = Clear"],
         "“if clay = Raku then rush = no”, “clay = Raku” and “rush = yes” clash"),
        (["clay = Raku and clay = Porcelain"], "can never hold"),
        (["clay = Rakku"], "not a value of clay: Raku, Stoneware, Porcelain"),
        (["if clay = Raku"], "needs “then”"),
        (["(clay = Raku"], "needs “)”"),
        (["clay Raku"], "says nothing of clay"),
        (["clay = Raku rush"], "where it should end"),
        (["clay in Raku"], "needs “(”"),
        (["clay = \""], "does not go on"),
    ],
)  # fmt: skip
def test_impossible_and_malformed_constraints_say_what_is_wrong(rules, words):
    with pytest.raises(BadInput) as said:
        design(plan(constraints=rules))
    assert words in said.value.message


def test_kept_rows_come_first_and_count():
    keep = [{"clay": "Porcelain", "rush": "yes"}, {"cone": "10"}]
    made = design(plan(keep=keep))
    assert [row.origin for row in made[:3]] == ["kept", "kept", "designed"]
    assert made[0].values["clay"] == "Porcelain"
    assert made[1].values["cone"] == "10"
    assert coverage(plan(), [row.values for row in made]).missing == 0
    with pytest.raises(BadInput, match=r"The kept row 1 .* breaks “rush = no”"):
        design(plan(keep=keep, constraints=["rush = no"]))


def test_a_group_has_a_strength_of_its_own():
    asked = plan(groups=[{"inputs": ["clay", "cone", "rush"], "strength": 3}])
    rows = rows_of(asked)
    assert coverage(asked, rows).missing == 0
    seen = {(row["clay"], row["cone"], row["rush"]) for row in rows}
    assert len(seen) == 18


def test_values_to_be_refused_never_meet():
    inputs = CLAYS | {
        "count": ["1", "12", {"value": "0", "invalid": True}, {"value": "99", "invalid": "yes"}],
        "age": ["18", {"value": "-1", "invalid": True}],
    }
    made = design(plan(inputs))
    refused = [row.values for row in made if row.origin == "invalid"]
    assert (refused[0]["count"], refused[0]["age"]) == ("0", "18")
    assert len(refused) == 3
    for row in made:
        bad = (row.values["count"] in ("0", "99")) + (row.values["age"] == "-1")
        assert bad == (row.origin == "invalid")
    assert len(design(plan(inputs), "one invalid at a time")) == 4


@pytest.mark.parametrize(
    "raw",
    [
        {}, {"inputs": {}}, {"inputs": {"a": []}}, {"inputs": {"a": "x"}}, [],
        {"inputs": {"a": ["x", "x"]}}, {"inputs": {"a": [{"value": "x", "invalid": True}]}},
        {"inputs": {"a": ["x"]}, "rows": []}, {"inputs": {"a": ["x"]}, "constraints": "a = x"},
        {"inputs": {"a": ["x"]}, "keep": [["x"]]}, {"inputs": {"a": ["x"]}, "keep": [{"b": "x"}]},
        {"inputs": {"a": ["x"]}, "keep": [{"a": "y"}]}, {"inputs": {"a": ["x"]}, "strength": "two"},
        {"inputs": {"a": ["x"]}, "strength": 0}, {"inputs": {"a": ["x"]}, "groups": ["a"]},
        {"inputs": {"a": ["x"]}, "groups": [{"inputs": ["a"]}]},
        {"inputs": {f"a{n}": [str(v) for v in range(90)] for n in range(60)}},
    ],
)  # fmt: skip
def test_plans_that_make_no_sense_are_refused(raw):
    with pytest.raises(Problem):
        Plan.read(raw)


def test_too_many_combinations_and_unknown_ways_are_refused():
    with pytest.raises(BadInput, match="at most"):
        design(plan(shape((10, 6))), "all combinations")
    with pytest.raises(UnknownName):
        design(plan(), "quadruples")


@st.composite
def small_plans(draw):
    sizes = draw(st.lists(st.integers(1, 4), min_size=2, max_size=6))
    inputs = {f"a{n}": [f"v{value}" for value in range(size)] for n, size in enumerate(sizes)}
    names = st.sampled_from(sorted(inputs))

    def atom():
        name = draw(names)
        sign = draw(st.sampled_from(["=", "!="]))
        return f"{name} {sign} {draw(st.sampled_from(inputs[name]))}"

    rules = [f"if {atom()} then {atom()}" for _ in range(draw(st.integers(0, 4)))]
    return Plan.read({"inputs": inputs, "constraints": rules}, draw(st.integers(1, 3)))


@pytest.mark.parametrize("count", range(2, 40))
def test_any_number_of_two_valued_inputs_has_all_its_pairs(count):
    asked = Plan.read({"inputs": {f"a{n}": ["no", "yes"] for n in range(count)}}, 2)
    assert coverage(asked, rows_of(asked)).missing == 0


@settings(max_examples=40)
@given(small_plans())
def test_every_allowed_combination_is_covered_whatever_is_asked(asked):
    names = [one.name for one in asked.inputs]
    every = itertools.product(*(one.values for one in asked.inputs))
    full = [dict(zip(names, row, strict=True)) for row in every]
    open_ended = Plan(asked.inputs, asked.rules, strength=len(names))
    allowed = [one.values for one in coverage(open_ended, full).tuples if one.row is not None]
    try:
        rows = rows_of(asked)
    except BadInput:
        assert not allowed
        return
    assert all(row in allowed for row in rows)
    told = coverage(asked, rows)
    assert told.missing == 0
    for one in told.tuples:
        reachable = any(one.values.items() <= row.items() for row in allowed)
        assert one.forbidden != reachable


def test_the_terminal_prints_rows_as_csv(tmp_path, capsys):
    file = tmp_path / "plan.yaml"
    file.write_text("inputs:\n  cone: [06, 6]\n  rush: [yes, no]\nkeep:\n  - {rush: no}\n")
    assert main(["design", str(file), "--strength", "2", "--seed", "1"]) == 0
    said = capsys.readouterr()
    lines = said.out.splitlines()
    assert lines[0] == "cone,rush"
    assert sorted(lines[1:]) == ["06,no", "06,yes", "6,no", "6,yes"]
    assert "4 rows; 4 combinations covered" in said.err
    file.write_text("inputs: {a: [b\n")
    assert main(["design", str(file)]) == 2
    assert "That is not YAML" in capsys.readouterr().err
    assert main(["design", str(tmp_path / "none.yaml")]) == 2


def test_designed_rows_go_into_the_table_beside_those_made_by_hand():
    numbers = itertools.count()

    def ids():
        return f"n{next(numbers)}"

    hand = Row("h", {"clay": "Raku", "price": "€ 5"})
    doc = Document(columns=("clay", "price"), rows=(hand,))
    first = WriteDesign({"how": "pairs"}, ({"clay": "Raku"}, {"clay": "Stoneware"}))
    once = apply(doc, first, ids)
    assert [(row.values["clay"], row.designed) for row in once.rows] == [
        ("Raku", False),  # made by hand, and covers what was designed
        ("Stoneware", True),
    ]
    # An expected value is filled in; designing again keeps it, and takes out what is not needed.
    priced = replace(once.rows[1], values={"clay": "Stoneware", "price": "€ 7"})
    doc = replace(once, rows=(once.rows[0], priced, Row("x", {"clay": "Ash"}, designed=True)))
    second = WriteDesign({"how": "pairs"}, ({"clay": "Stoneware"}, {"clay": "Porcelain"}))
    again = apply(doc, second, ids)
    assert [row.values for row in again.rows] == [
        {"clay": "Raku", "price": "€ 5"},
        {"clay": "Stoneware", "price": "€ 7"},
        {"clay": "Porcelain", "price": ""},
    ]
    assert again.design == {"how": "pairs"}
    assert Document.read(again.as_json()) == again


WORDS = st.text(st.characters(exclude_categories=["C"]), min_size=1, max_size=8).filter(
    lambda text: text.strip() == text and not ('"' in text and "'" in text)
)


@given(st.lists(WORDS, min_size=3, max_size=3, unique=True), st.sampled_from(sorted(COMPARISONS)))
def test_a_constraint_from_a_form_says_what_was_chosen(names, comparison):
    inputs = {name: ["04", "6", "if"] for name in names}
    when = [Part(names[0], comparison, "6"), Part(names[1], "is not", "if")]
    rule = read_rule(wording(when, Part(names[2], "is", "04")), inputs)
    told = read_rule(wording([], when[0]), {names[0]: inputs[names[0]]})
    for row in itertools.product(range(3), repeat=3):
        meant = holds(told.condition, row[:1]) and row[1] != 2
        assert holds(rule.condition, row) == (not meant or row[2] == 0)


def test_a_constraint_of_a_form_says_what_is_wrong():
    assert wording([Part("clay", "is", "Raku")], Part("rush", "is", "no")) == (
        "if clay = Raku then rush = no"
    )
    with pytest.raises(UnknownName, match="is at least"):
        Part("clay", "equals", "x").text()
    with pytest.raises(BadInput, match="both kinds of quotes"):
        Part("clay", "is", "a\"b'").text()


def test_a_designed_row_that_a_person_changed_is_a_persons():
    """Designing again takes away what nobody touched, and leaves what somebody did."""
    plan_used = {"inputs": [{"name": "clay", "values": ["Raku", "Stoneware"]}]}
    rows = ({"clay": "Raku"}, {"clay": "Stoneware"})
    numbers = itertools.count(1)

    def new_id():
        return f"r{next(numbers)}"

    table = apply(Document(columns=("clay", "price")), WriteDesign(plan_used, rows), new_id)
    priced = apply(table, SetCells({"r1": {"price": "5"}}), new_id)
    assert [row.designed for row in priced.rows] == [True, True], "an expected value is filled in"
    same = apply(priced, SetCells({"r2": {"clay": "Stoneware"}}), new_id)
    assert [row.designed for row in same.rows] == [True, True]
    edited = apply(priced, SetCells({"r2": {"clay": "Porcelain"}}), new_id)
    assert [row.designed for row in edited.rows] == [True, False]
    again = ({"clay": "Earthenware"},)
    held = held_against(edited.rows, again)
    assert (held.stay, held.go, held.come) == ((1,), (0,), (0,))
    now = apply(edited, WriteDesign(plan_used, again), new_id)
    assert [row.values["clay"] for row in now.rows] == ["Porcelain", "Earthenware"]
