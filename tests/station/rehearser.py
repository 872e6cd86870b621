"""A stage with a rehearsal on it, and a page to rehearse on."""

from dataclasses import replace

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.repair import found_by
from lantern.core.elements.suggesting import suggest
from lantern.core.rehearsing.breakpoints import Breakpoint
from lantern.core.steps.model import Document, Row, Settings, Step, Taken
from lantern.station.keeping import Keeper
from lantern.station.lookup import survey
from lantern.station.stage import Stage
from lantern.store import breakpoints, elements, tests
from lantern.store.models import Account, Environment
from lantern.store.vault import Vault
from tests.station.desk import until

PAGE = """
<h1>Board</h1><label>Piece <input name=piece></label><label>Clay <input name=clay></label>
<button id=book onclick="said('booked ' + document.querySelector('input').value)">Book</button>
<button onclick="said('fired')">Fire</button><output id=log></output>
<script>function said(t) { const log = document.querySelector('#log')
  log.textContent += t + ';' }</script>
"""
BOOK = Element("e-book", "Book", "button", (Clue("name", "is", "Book"),), page="Test page")
FIRE = Element("e-fire", "Fire", "button", (Clue("name", "is", "Fire"),), page="Test page")
PIECE = Element("e-piece", "Piece", "text box", (Clue("label", "is", "Piece"),), page="Test page")
OPEN = Step("open", "open", inputs={"address": "/"})


def press(key, element, **more):
    return Step(key, "press", element=element.id, page="Test page", **more)


def typed(key, text, **more):
    return Step(key, "type", element=PIECE.id, inputs={"text": text}, page="Test page", **more)


class Rehearser:
    """A stage with a rehearsal on it, and what it says."""

    def __init__(self, chromium, site, database):
        site.put("/", PAGE)
        self.site, self.chromium, self.database = site, chromium, database
        self.said, self.stage, self.flow = [], None, 0

    def test(self, *steps, rows=(), flow=(), limit=0.6):
        with self.database.session() as session:
            self.author = session.query(Account).filter_by(username="odo").one().id
            environment = session.query(Environment).one()
            environment.address = self.site.address
            for one in (BOOK, FIRE, PIECE):
                elements.save(session, one)
            if flow:
                document = Document(tuple(flow), takes=(Taken("clay", "text", "Raku"),))
                self.flow = tests.create(
                    session, "Fire it twice", environment.id, self.author, document, kind="flow"
                ).id
                steps = [
                    replace(s, flow=str(self.flow)) if s.action == "flow" else s for s in steps
                ]
            columns = tuple(rows[0]) if rows else ()
            table = tuple(Row(f"r{n}", dict(one), True) for n, one in enumerate(rows, 1))
            document = Document(
                tuple(steps), columns=columns, rows=table, settings=Settings(limit, pictures="none")
            )
            self.id = tests.create(session, "Rehearsed", environment.id, self.author, document).id
        owner = {"account": self.author, "name": "Odo"}
        keeper = Keeper(self.database, Vault(), self.id, self.author)
        self.stage = Stage(self.chromium, keeper, self.site.address, owner=owner)
        say = self.stage.live.say

        def heard(message):
            self.said.append(message)
            say(message)

        self.stage.live.say = heard
        self.stage.rehearsals.come(owner)
        return self

    def send(self, **message):
        self.stage.take(message, self.author)

    def begin(self, **more):
        self.send(type="rehearse", fresh=True, **more)

    @property
    def state(self):
        return self.stage.rehearsals.now.state

    def held(self, step=None, why=None):
        until(
            lambda: (
                (self.state["state"] == "held")
                and (step is None or self.state["spot"]["step"] == step)
                and (why is None or self.state["why"] == why)
            ),
            lambda: f"held at {step} ({why}), but {self.state} {self.last('error')}",
        )
        return self.state

    def over(self):
        until(lambda: self.state["state"] == "over", lambda: f"over, but {self.state}")
        return self.state

    def go(self, do):
        before = self.state["moment"]
        self.send(type="hand", do=do)
        until(lambda: self.state["moment"] > before, lambda: f"gone on: {self.last('error')}")
        return self.state

    def last(self, kind):
        return next((one for one in reversed(self.said) if one["type"] == kind), None)

    def heard(self, kind, fits=lambda one: True):
        return until(
            lambda: next(
                (one for one in reversed(self.said) if one["type"] == kind and fits(one)), None
            ),
            f"{kind} said",
        )

    @property
    def log(self):
        return self.stage.context.current.run_script(
            "return document.querySelector('#log').textContent", 5
        ).gave["value"]

    def edit(self, change):
        with self.database.session() as session:
            tests.edit(session, self.id, change, self.author)

    def break_at(self, place, step, **more):
        with self.database.session() as session:
            breakpoints.put(session, self.author, Breakpoint(place, step, **more))
        if self.stage and self.stage.rehearsals.now:
            self.stage.rehearsals.now.read_breakpoints()

    def learned(self, element):
        """The element with what is remembered of its node on the page as it is meant to be."""
        page = self.stage.context.current
        page.navigate(self.site.address, 10)
        nodes = survey(page)
        node = found_by(element, nodes)[0]
        return replace(element, seen=node, lookalikes=suggest(node, nodes).lookalikes)

    def outcomes(self):
        return [
            (one["step"], one["outcome"])
            for said in self.said
            if said["type"] == "rehearsed"
            for one in said["steps"]
        ]
