"""A story that is played with a hand on it, in the core alone."""

from dataclasses import replace

from lantern.core.engine import requests as ask
from lantern.core.engine.attempt import Flow
from lantern.core.engine.interpreter import Script, play_row
from lantern.core.rehearsing.hand import Hand
from lantern.core.steps.model import Document, Settings, Step, Taken
from lantern.core.values.sources import Names
from tests.core.samples import FakeStage, element, node

SAVE = element("Save")
BOOK = element("Book this firing")
save = node(name="Save", handle=1)
TEST = 7
FLOW = "9"


def key(name, keys, depth=0, **more):
    return Step(name, "key", inputs={"keys": keys}, depth=depth, **more)


def block(name, action, depth=0, **inputs):
    return Step(name, action, inputs=inputs, depth=depth)


CALL = Step("call", "flow", flow=FLOW, inputs={"clay": "Raku"})
FLOWS = {
    FLOW: Flow(
        "Fire it",
        Document((key("f1", "F"), key("f2", "G")), takes=(Taken("clay", "text", "Stoneware"),)),
    )
}
STORY = (
    key("a", "A"),
    block("twice", "repeat", times="3"),
    key("b", "B", 1),
    block("maybe", "if value", 1, value="${each.number}", comparison="is", expected="2"),
    key("c", "C", 2),
    CALL,
    replace(CALL, id="again"),
    block("end", "always"),
    key("z", "Z", 1),
)


class Rehearsed:
    """Plays a story with a hand on it: `orders` say how it goes on each time it is held."""

    def __init__(self, steps=STORY, stage=None, breakpoints=(), **names):
        self.stage = stage or FakeStage(save)
        document = Document(tuple(steps), settings=Settings(limit=1))
        known = {one.id: one for one in (SAVE, BOOK)}
        self.script = Script(document, known, Names(**names), "http://desk", FLOWS)
        self.hand = Hand(TEST, 1, breakpoints)
        self.held = []
        self.on_trouble = lambda request: ask.GO_ON

    def play(self, orders=(), start=(), way="play"):
        orders = iter(orders)
        self.hand.go(way, None)
        play, answer = play_row(self.script, start), None
        while True:
            try:
                request = play.send(answer)
            except StopIteration as end:
                return end.value
            answer = self.stage.answer(request)
            if isinstance(request, ask.StepFails):
                answer = self.on_trouble(request)
            if isinstance(request, ask.StepStarts):
                stop = self.hand.reached(request.spot)
                if stop.reason:
                    self.hand.stopped()
                    self.held.append((request.spot.step.id, stop.reason, request.spot.within))
                    order = next(orders, "play")
                    if callable(order):
                        answer = order(request.spot) or ask.GO_ON
                    elif order == "skip":
                        answer = ask.Onward("skip")
                        self.hand.go("into", request.spot)
                    else:
                        self.hand.go(order, request.spot)

    @property
    def places(self):
        return [place for place, *_ in self.held]

    def played(self):
        return [(one.step_id, one.outcome, one.within, one.position) for one in self.stage.results]
