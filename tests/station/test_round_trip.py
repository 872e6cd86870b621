"""For every widget of the Kiln Desk: recorded, played on a fresh state, the same in the end."""

import base64

import pytest
from sqlalchemy import func, select

from lantern.browser.engines import ENGINES
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.core.engine.interpreter import Script
from lantern.core.steps.model import Document, Settings
from lantern.core.steps.sentences import sentence
from lantern.core.values.sources import Names
from lantern.station.keeping import Keeper
from lantern.station.player import Player
from lantern.station.stage import Stage
from lantern.store import elements, tests
from lantern.store.models import Environment, Test
from lantern.store.rows import unpacked
from lantern.store.vault import Vault
from tests.station.conftest import Notes, browser_of
from tests.station.desk import DeskServer, Hand, until


@pytest.fixture(scope="module")
def desk():
    server = DeskServer()
    yield server
    server.stop()


class Recording:
    """A stage on which a test is recorded, and what came of it."""

    def __init__(self, running, database, desk):
        self.running, self.database, self.desk = running, database, desk
        chromium = browser_of("chromium", running)
        with database.session() as session:
            environment = Environment(name="Desk", address=desk.address)
            session.add(environment)
            session.flush()
            self.test = tests.create(session, "A recording", environment.id, None).id
        self.keeper = Keeper(database, Vault(), self.test, 1)
        self.stage = Stage(chromium, self.keeper, desk.address)
        self.said = []
        self.stage.live.say = self.said.append
        self.hand = Hand(self.stage)

    def start(self, member=True):
        self.hand.open("/sign-in")
        self.stage.take({"type": "record", "on": True})
        self.hand.open("/sign-in")
        self.hand.type("member", "mara")
        self.hand.type("password", "wheel-and-kiln")
        self.hand.press("enter")
        until(lambda: "/quote" in self.hand.page.address, "signed in")

    def document(self):
        with self.database.session() as session:
            document = unpacked(tests.get(session, self.test))
            return document, elements.load(session, document.element_ids())

    def count(self):
        """How many sentences are kept; asking for them all takes longer than recording one."""
        steps = func.jsonb_array_length(Test.body["steps"])
        with self.database.session() as session:
            return session.scalar(select(steps).where(Test.id == self.test))

    def sentences(self, skip=4):
        document, known = self.document()
        return [sentence(step, known) for step in document.steps[skip:]]

    def errors(self):
        return [one["message"] for one in self.said if one["type"] == "error"]

    def finish(self):
        self.stage.take({"type": "record", "on": False})
        self.stage.close()

    def play(self, then=lambda: None):
        """Play it in every engine, on the application as it was; returns the last notes."""
        for engine in ENGINES:
            if hasattr(self.desk, "reset"):
                self.desk.reset()
            notes = self.outcome(engine=engine)
            told = [one.message for one in self.failed(notes)]
            assert notes.outcome == "passed", f"{engine}: {told}"
            then()
        return notes

    def failure(self, limit=1.0):
        """Play what has to fail; returns the message."""
        notes = self.outcome(limit)
        assert notes.outcome == "failed", notes.outcome
        return self.failed(notes)[0].message

    @staticmethod
    def failed(notes):
        return [result for result in notes.results if result.outcome == "failed"]

    def outcome(self, limit=8.0, engine="chromium"):
        document, known = self.document()
        with self.database.session() as session:
            test = tests.get(session, self.test)
            secrets = Vault().values(session, test.environment_id)
        context = browser_of(engine, self.running).new_session(BROWSERS[USUAL])
        context.open_page()
        notes = Notes()
        notes.file = self.keeper.file
        plain = Document(document.steps, settings=Settings(limit, pictures="none"))
        script = Script(plain, known, Names(secret=secrets), self.desk.address)
        notes.outcome = Player(context, notes).play(script)
        context.close()
        return notes


@pytest.fixture
def recording(running, database, desk):
    desk.reset()
    made = Recording(running, database, desk)
    yield made
    made.stage.close()


def upload(hand, part="photo", name="moon-jar.png", content=b"a picture"):
    hand.press(part)
    until(lambda: hand.page.chooser, "the page asking for a file")
    file = {"name": name, "content": base64.b64encode(content).decode()}
    hand.stage.take({"type": "files", "files": [file]})
    hand.rest()


def tabs(hand):
    until(lambda: len(hand.stage.context.pages) == 2, "the new window")
    until(lambda: "Firing no" in hand.page.probe("page")["title"], "the ticket")


def answer(accept, text=""):
    def act(hand):
        until(lambda: hand.page.dialog, "the dialog")
        hand.stage.take({"type": "dialog", "accept": accept, "text": text})

    return act


CASES = {
    "native fields": ("/bench", [
        lambda h: h.set("cool", "2031-05-04"),
        lambda h: h.set("start", "09:30"),
        lambda h: h.set("tint", "#336699"),
        lambda h: h.type("litres", "7"),
        lambda h: h.type("remarks", "Two of them, with care"),
        lambda h: h.key("Enter", modifiers=2), lambda h: h.press("bench heading"),
    ], [
        "Type “2031-05-04” into Cool-down day", "Type “09:30” into Start time",
        "Type “#336699” into Tint", "Type “7” into Litres",
        "Type “Two of them, with care” into Remarks",
        "Press the key Control+Enter in Remarks", "Press Glaze bench",
    ]),
    "ticks and radios": ("/bench", [
        lambda h: h.press("wax"), lambda h: h.press("reduction"), lambda h: h.press("vent"),
    ], ["Tick Wax the foot", "Tick Reduction", "Press Vent"]),
    "a list of the page with typing ahead": ("/bench", [
        lambda h: h.type("finish", "cel"), lambda h: h.press("finish Celadon"),
    ], ["Choose “Celadon” in Finish"]),
    "a list that is fetched when it opens": ("/bench", [
        lambda h: h.press("kiln"), lambda h: h.press("(.floating [role=option]:last-child)"),
    ], ["Choose “Little Ember” in Kiln"]),
    "several of a list": ("/bench", [
        lambda h: h.press("(#tools option:nth-child(2))"),
    ], ["Choose “Tongs” in Tools"]),
    "editable text": ("/bench", [
        lambda h: h.type("tag", "Top left"), lambda h: h.press("bench heading"),
    ], ["Type “Top left” into Shelf tag", "Press Glaze bench"]),
    "a slider of the browser": ("/bench", [
        lambda h: h.press("hold"),
    ], ["Slide Hold time to “30”"]),
    "a slider of the page": ("/shelves", [
        lambda h: h.press("door gap"),
    ], ["Slide Door gap to “5”"]),
    "twice, with the right button, menus": ("/bench", [
        lambda h: h.press("stir", count=2), lambda h: h.press("bucket", button="right"),
        lambda h: h.press("fill bucket"),
    ], ["Press Stir twice", "Press Bucket with the right button", "Press Fill it"]),
    "a menu that shows under the mouse": ("/bench", [
        lambda h: h.point("workshop"), lambda h: h.press("book table"),
    ], ["Point at Workshop", "Press Book the glaze table"]),
    "drag and drop": ("/shelves", [
        lambda h: h.drag("waiting Tea caddy", "Top shelf"),
    ], ["Drag Tea caddy to Top shelf"]),
    "a block of a list": ("/bench", [
        lambda h: h.press("take Tenmoku"),
    ], ["Press Take out in the row where Heading is “Tenmoku”"]),
    "carried with the pointer": ("/shelves", [
        lambda h: h.drag("witness cone", "Back peephole"),
    ], ["Drag Witness cone to Back peephole"]),
    "a frame, a frame in it, a frame of elsewhere": ("/recipes", [
        lambda h: h.press("mix Snow shino"), lambda h: h.type("recipe note", "less iron"),
        lambda h: h.type("kilos", "12"), lambda h: h.press("order frit"),
    ], [
        "Press Mix in the row where Recipe is “Snow shino”", "Type “less iron” into Your note",
        "Type “12” into Kilos of frit", "Press Order frit",
    ]),
    "nested shadow roots": ("/chart", [
        lambda h: h.choose("unit", "Fahrenheit"), lambda h: h.press("use 6"),
    ], ["Choose “Fahrenheit” in Unit", "Press Use cone 6"]),
    "a row's menu and a question": ("/board", [
        lambda h: h.press("menu of Tea caddy"), lambda h: h.press("delete Tea caddy"),
        answer(True),
    ], [
        "Press Menu in the row where Piece is “Tea caddy”",
        "Press Delete in the row where Piece is “Tea caddy”", "Answer the dialog with OK",
    ]),
    "a new window and back": ("/talk", [
        lambda h: h.press("first ticket"), tabs, lambda h: h.press("ticket print"),
    ], ["Press Show ticket 1", "Go to the window “Firing no. #”", "Press Print"]),
    "a question for a text": ("/talk", [
        lambda h: h.press("ask name"), answer(True, "Ember 7"),
    ], ["Press Name the firing", "Answer the dialog with OK “Ember 7”"]),
    "a button that waits for a bar": ("/talk", [
        lambda h: h.press("load"), lambda h: h.press("after load"),
    ], ["Press Load the kilns", "Press Choose this kiln"]),
    "files given": ("/files", [
        upload, lambda h: h.press("send"),
    ], ["Give the file “moon-jar.png” to Photo", "Press Send the photo"]),
    "a download": ("/files", [
        lambda h: h.press("price list"),
    ], ["Press Price list (CSV)", "Take the download “price-list.csv”"]),
    "enter sends a form": ("/board", [
        lambda h: h.type("board find", "moon"), lambda h: h.key("Enter"),
    ], ["Type “moon” into Find", "Press the key Enter in Find"]),
    "editing in place": ("/board", [
        lambda h: h.press("count of Tea caddy", count=2),
        lambda h: h.text("9"), lambda h: h.key("Enter"),
    ], [
        "Press Pieces in the row where Piece is “Tea caddy” twice",
        "Type “9” into Number of pieces in the firing",
        "Press the key Enter in Number of pieces in the firing",
    ]),
    "a notice that is in the way": ("/talk", [
        lambda h: h.press("news"), lambda h: h.press("understood"),
    ], ["Press Any news?", "Press Understood"]),
    "something far below": ("/talk", [
        lambda h: h.press("bottom"),
    ], ["Press I have read it all"]),
    "a window that script opens": ("/talk", [
        lambda h: h.press("chart window"),
        lambda h: until(lambda: "Cone chart" in h.page.probe("page")["title"], "the chart"),
        lambda h: h.press("use 1"),
    ], ["Press Cone chart in a window", "Go to the window “Cone chart - Kiln Desk”",
        "Press Use cone 1"]),
    "the quote form": ("/quote", [
        lambda h: h.type("piece", "Moon jar"), lambda h: h.choose("clay", "Porcelain"),
        lambda h: h.choose("cone", "10"), lambda h: h.press("rush"), lambda h: h.press("ask"),
        lambda h: h.press("book"),
    ], [
        "Type “Moon jar” into Piece name", "Choose “Porcelain” in Clay", "Choose “10” in Cone",
        "Tick Rush", "Press Get a quote", "Press Book this firing",
    ]),
    "a note sent by enter": ("/bench", [
        lambda h: h.type("quick", "hot"), lambda h: h.key("Enter"),
    ], ["Type “hot” into Quick note", "Press the key Enter in Quick note"]),
    "sorting, back, forward, anew": ("/board", [
        lambda h: h.press("sort piece"),
        lambda h: h.stage.take({"type": "history", "to": "back"}),
        lambda h: h.stage.take({"type": "history", "to": "forward"}),
        lambda h: h.stage.take({"type": "history", "to": "reload"}),
    ], ["Press Piece", "Go back", "Go forward", "Reload the page"]),
    "a picture that is drawn": ("/chart", [lambda h: h.press("curve")], ["Press Firing curve"]),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_round_trip(recording, desk, name):
    path, acts, sentences = CASES[name]
    recording.start()
    recording.hand.open(path)
    for act in acts:
        act(recording.hand)
    until(lambda: len(recording.sentences(5)) >= len(sentences), lambda: recording.sentences(5))
    recording.hand.page.quiet(0.2, 5)
    wanted = desk.state()
    recording.finish()
    assert recording.sentences(5) == sentences
    recording.play(
        then=lambda: until(lambda: desk.state() == wanted, f"{desk.state()} to be {wanted}")
    )
