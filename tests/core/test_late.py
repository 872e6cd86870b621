"""A second look after a failure: only where the page waits, and without doing anything."""

import pytest

from lantern.core.engine import requests as ask
from lantern.core.engine.late import BUSY, LONGEST, SIGNS, Late, told
from lantern.core.steps.model import Settings
from tests.core.samples import FakeStage, element, node, step

PRICE = element("Price")
SHOWN = step("check", PRICE, property="text", comparison="is", expected="€ 5.40")


class Waiting(FakeStage):
    """A stage whose page waits for an answer up to some time."""

    def __init__(self, *nodes, until=0.0, **more):
        super().__init__(*nodes, **more)
        self.until, self.asked, self.busy = until, 0, ()

    def answer(self, request):
        if isinstance(request, ask.Outstanding):
            self.asked += 1
            return ["POST /quote"] if self.time < self.until else []
        if isinstance(request, ask.Lookup) and request.query.selector == SIGNS:
            return ask.Seen(self.busy, len(self.busy), 1)
        return super().answer(request)


def play(stage, sentence=SHOWN):
    stage.play(sentence, elements=[PRICE], settings=Settings(limit=2))
    return stage.results[0]


def price():
    return node("button", "Price", text="€ 5.40")


def test_what_came_with_the_answer_is_seen_and_the_sentence_stays_failed():
    stage = Waiting(price(), until=4.0, values={("Price", "text"): "€ 5.40"})
    stage.appears = {"Price": 3.9}
    result = play(stage)
    assert result.outcome == "failed"
    assert result.late["came"] is True
    assert result.late["pending"] == ["POST /quote"]
    assert 1.5 < result.late["waited"] < 3


def test_an_answer_that_brings_something_else_is_no_matter_of_time():
    result = play(Waiting(price(), until=4.0, values={("Price", "text"): "€ 9.00"}))
    assert result.late["came"] is False
    assert result.found == "€ 9.00"


def test_a_page_that_waits_for_nothing_costs_no_time():
    stage = Waiting(price(), values={("Price", "text"): "€ 9.00"})
    assert play(stage).late == {}
    assert stage.asked == 1
    assert stage.time < 3


def test_nobody_waits_for_ever():
    stage = Waiting(price(), until=1e9, values={("Price", "text"): "€ 9.00"})
    assert LONGEST <= play(stage).late["waited"] < LONGEST + 1


def test_a_page_that_shows_that_it_is_busy_is_waited_for_less_long():
    stage = Waiting(price(), values={("Price", "text"): ""})
    stage.busy = (node("progress", ""),)
    late = play(stage).late
    assert late["busy"] is True
    assert BUSY <= late["waited"] < BUSY + 1


def test_nothing_is_pressed_again():
    stage = Waiting(price(), until=5.0)
    stage.problems = {"Price": "disabled"}
    result = play(stage, step("press", PRICE))
    assert result.late["pending"] == ["POST /quote"]
    assert stage.did == []


@pytest.mark.parametrize(
    ("late", "words"),
    [
        (
            Late(1.25, ("GET /a",), came=True),
            "It was there 1.2 s after the limit of 2 s had passed.",
        ),
        (Late(8.0, ("GET /a", "GET /b")), "The page was still waiting for GET /a, GET /b."),
        (Late(4.0, busy=True), ""),
    ],
)
def test_what_was_seen_is_told(late, words):
    assert told(late, 2.0) == words
