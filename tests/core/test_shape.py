"""The shape of a test: what is drawn, and that nothing is drawn over anything else."""

from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from lantern.core.steps.model import Step
from lantern.core.steps.shape import drawing
from lantern.core.steps.tree import settled

ACTIONS = [
    "reload",
    "if value",
    "else",
    "else if value",
    "repeat",
    "section",
    "try",
    "flow",
    "always",
]


def draw(*steps):
    return drawing([Step(f"s{n}", *step) for n, step in enumerate(steps)], lambda s: s.action)


def test_sentences_in_a_row_are_one_box_that_leads_to_each():
    shape = draw(("reload",), ("go back",), ("reload",))
    assert [(one.look, one.steps) for one in shape.shapes] == [
        ("sentences", ("s0", "s1", "s2")),
        ("end", ()),
    ]
    assert shape.shapes[0].words == "reload … 3 sentences"


def test_sentences_on_another_page_are_another_box():
    steps = [
        Step("a", "open"),
        Step("b", "reload", page="Sign in"),
        Step("c", "reload", page="Quote"),
        Step("d", "reload"),
    ]
    boxes = drawing(steps, lambda s: s.id).shapes
    assert [(one.words, one.steps) for one in boxes[:-1]] == [
        ("Sign in … 2 sentences", ("a", "b")),
        ("Quote … 2 sentences", ("c", "d")),
    ]


def test_a_choice_has_a_yes_below_and_a_no_aside_that_come_together_again():
    steps = [Step("q", "if value"), Step("y", "reload", depth=1), Step("e", "else")]
    shape = drawing([*steps, Step("n", "go back", depth=1)], lambda s: s.id)
    at = {one.words: one for one in shape.shapes}
    assert at["y"].x == at["q"].x < at["n"].x
    assert {arrow.word for arrow in shape.arrows} >= {"yes", "no"}
    together = [arrow for arrow in shape.arrows if arrow.points[-1][0] == at["q"].x]
    assert any(arrow.points[0][0] == at["n"].x for arrow in together)


def test_a_repeat_leads_back_to_its_box():
    steps = [Step("r", "repeat"), Step("a", "reload", depth=1)]
    shape = drawing(steps, lambda s: s.id)
    again = next(arrow for arrow in shape.arrows if arrow.word == "again")
    box = next(one for one in shape.shapes if one.look == "repeat")
    assert again.points[-1] == (box.x - box.width / 2, 0.5)


def test_what_is_switched_off_is_left_out_and_nothing_says_so():
    off = Step("a", "reload", enabled=False)
    assert [one.words for one in drawing([off], str).shapes] == ["nothing yet"]


@st.composite
def stories(draw):
    count = draw(st.integers(0, 12))
    return settled(
        [
            Step(f"s{n}", draw(st.sampled_from(ACTIONS)), depth=draw(st.integers(0, 4)))
            for n in range(count)
        ]
    )


@given(stories())
def test_every_step_is_drawn_once_and_no_box_over_another(steps):
    shape = drawing(steps, lambda step: step.action)
    drawn = [step for one in shape.shapes for step in one.steps]
    others = {step.id for step in steps if step.action == "else"}
    assert sorted(drawn) == sorted({step.id for step in steps} - others)
    for one in shape.shapes:
        assert one.x - one.width / 2 >= -1e-9
        assert one.x + one.width / 2 <= shape.width + 1e-9
        assert 0 <= one.y <= one.y + one.height <= shape.height + 1e-9
    for a, b in combinations(shape.shapes, 2):
        beside = abs(a.x - b.x) >= (a.width + b.width) / 2 - 1e-9
        apart = a.y + a.height <= b.y + 1e-9 or b.y + b.height <= a.y + 1e-9
        assert beside or apart, (a, b)
