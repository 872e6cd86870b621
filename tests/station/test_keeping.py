"""Keeping what is recorded: at once, with passwords sealed and deleted sentences left deleted."""

from lantern.core.recording.events import Event, Meanwhile, Node
from lantern.core.recording.recorder import Recorder
from lantern.core.steps import edits
from lantern.core.steps.edits import Remove, ToWait
from lantern.core.steps.model import Document, Step
from lantern.station.keeping import Keeper
from lantern.store import documents, elements, tests, undoing, waits
from lantern.store.models import Account, Environment
from lantern.store.rows import unpacked
from lantern.store.vault import Vault
from tests.core.samples import node

pin = node("input", "Pin", 2, role="", attributes={"type": "password"})
ask = node("button", "Get a quote", 5)


class Recording:
    """A recorder and a keeper on a fresh test."""

    def __init__(self, database):
        self.database, self.vault = database, Vault()
        with database.session() as session:
            author = session.query(Account).filter_by(username="odo").one().id
            self.environment = session.query(Environment).one().id
            self.test = tests.create(session, "Kept", self.environment, author).id
        self.recorder = Recorder("http://desk")
        self.keeper = Keeper(database, self.vault, self.test, author)

    def do(self, kind, facts, **more):
        event = Event(kind, facts, page="Quote", window="w", **more)
        for change in self.recorder.feed(event):
            self.keeper.keep(change, b"a picture")

    def steps(self):
        with self.database.session() as session:
            return unpacked(tests.get(session, self.test)).steps

    def secrets(self):
        with self.database.session() as session:
            return self.vault.values(session, self.environment)


def test_a_new_password_becomes_a_secret_of_the_environment(database):
    recording = Recording(database)
    for typed in ("s", "sl", "slip-2"):
        recording.do("input", pin, value=typed, secret=True)
    recording.do("click", ask)
    steps = recording.steps()
    assert steps[0].inputs == {"text": "${secret.pin}"}
    assert recording.secrets()["pin"] == "slip-2"
    assert steps[1].picture
    assert "slip-2" not in str([step.as_json() for step in steps])


def test_what_is_typed_into_one_field_is_one_version_and_one_undo(database):
    """However many letters it has; a press after it is another."""
    recording = Recording(database)
    field = node("input", "Piece", 3, role="textbox")
    text = "Moon jar with two handles."
    for end in range(1, len(text) + 1):
        recording.do("input", field, value=text[:end])
    recording.do("click", ask)
    with database.session() as session:
        made = documents.versions(session, recording.test, None, 50)
        assert [one.summary for one in made] == [
            "added: Press Get a quote",
            f"added: Type “{text}” into Piece",
            "created",
        ]
        author = made[0].author_id
        undoing.travel(session, recording.test, author, forward=False)
    with database.session() as session:
        undoing.travel(session, recording.test, author, forward=False)
    assert recording.steps() == ()


def test_a_password_that_is_known_already_uses_its_secret_again(database):
    recording = Recording(database)
    for typed in ("w", "wheel-and-kiln"):
        recording.do("input", pin, value=typed, secret=True)
    recording.do("click", ask)
    assert recording.steps()[0].inputs == {"text": "${secret.mara_password}"}
    assert "pin" not in recording.secrets()


def test_what_a_person_deleted_while_typing_goes_on_stays_deleted(database):
    recording = Recording(database)
    field = node("input", "Piece", 3)
    recording.do("input", field, value="Mo")
    with database.session() as session:
        gone = recording.steps()[0].id
        tests.edit(session, recording.test, Remove((gone,)), None)
    recording.do("input", field, value="Moon")
    assert recording.steps() == ()


def test_the_same_element_recorded_twice_is_one_element(database):
    recording = Recording(database)
    recording.do("click", ask)
    recording.do("click", node("button", "Get a quote", 77))
    first, second = recording.steps()
    assert first.element == second.element


def test_a_pause_becomes_the_wait_for_what_the_recording_saw(database):
    recording = Recording(database)
    ready = Meanwhile("shown", Node(node("p", "Your price", 7, text="Your price")))
    recording.do("click", ask)
    recording.do("click", node("button", "Book it", 6), meanwhile=(ready,))
    recording.do("click", node("button", "Print", 8), meanwhile=(Meanwhile("enabled"),))
    first, book, printed = recording.steps()

    def waiting(after):
        pause = Step("pause", "pause", inputs={"seconds": "3"})
        with database.session() as session:
            document = Document(recording.steps())
            place = document.steps.index(document.step(after.id)) + 1
            document = Document((*document.steps[:place], pause, *document.steps[place:]))
            edit = waits.informed(session, document, ToWait("pause"))
            return edits.apply(document, edit, tests.new_id).step("pause")

    wait = waiting(first)
    with database.session() as session:
        seen = elements.load(session, [wait.element])[wait.element]
    assert (wait.action, wait.inputs["property"], seen.name) == (
        "wait until",
        "shown",
        "Your price",
    )
    assert waiting(first).element == wait.element, "the element is made once"
    wait = waiting(book)
    assert (wait.element, wait.inputs["property"]) == (printed.element, "enabled")
    assert waiting(printed).action == "quiet"
