"""Stories for rehearsing through the pages: their tests, and the bar of a rehearsal."""

from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.store import tests
from lantern.store.models import Account, Environment
from tests.ui.pages import until

QUOTE = "Quote - Kiln Desk"
SIGN_IN = (
    Step("s1", "open", inputs={"address": "/sign-in"}),
    Step("s2", "type", "demo-member", {"text": "mara"}),
    Step("s3", "type", "demo-password", {"text": "${secret.mara_password}"}),
    Step("s4", "press", "demo-enter"),
)


def step(key, action, element="", depth=0, title="", **inputs):
    named = f"demo-{element}" if element else ""
    return Step(key, action, named, inputs, page=QUOTE, depth=depth, title=title)


def make(stack, name, *steps, rows=(), kind="test", takes=(), limit=4, **settings):
    """A test or a flow of the Kiln Desk; `rows` are dictionaries of one shape."""
    columns = tuple(rows[0]) if rows else ()
    table = tuple(Row(f"r{n}", dict(values), True) for n, values in enumerate(rows, 1))
    document = Document(
        tuple(steps), columns, table, Settings(limit=limit, **settings), takes=tuple(takes)
    )
    with stack.database.session() as session:
        environment = session.query(Environment).filter_by(name="Kiln Desk").one().id
        author = session.query(Account).filter_by(username="odo").one().id
        return tests.create(session, name, environment, author, document, kind=kind).id


class Rehearsal:
    """The bar of a rehearsal on a test's page."""

    BAR = "[data-role=rehearsal]"

    def __init__(self, lantern, test):
        self.lantern = lantern
        lantern.go(f"/tests/{test}")
        lantern.one("[aria-label=Stage][data-phase=open]", 40)
        lantern.one("li[data-step]")

    def begin(self, how=""):
        if how:
            self.lantern.press("How to rehearse")
            self.lantern.press(how)
        else:
            self.lantern.one("[data-role=rehearse]").click()
        self.lantern.one(self.BAR)

    def state(self, of="state"):
        return self.lantern.one(self.BAR).get_attribute(f"data-{of}")

    def held(self, words, limit=30.0):
        """Wait until it is held at a sentence with these words."""

        def there():
            bar = self.lantern.one(self.BAR)
            return bar.get_attribute("data-state") == "held" and words in bar.text

        until(there, lambda: f"held at {words}: {self.lantern.one(self.BAR).text}", limit)

    def over(self, words="", limit=60.0):
        until(lambda: self.state() == "over", "its end", limit)
        assert words in self.lantern.one("[data-role=ended]").text

    def do(self, what):
        """Press a control, and wait until it is held anew or over."""
        before = self.state("moment")
        until(lambda: self._press(what), f"{what} to press")
        until(lambda: self.state("moment") != before, f"gone on by {what}")

    def _press(self, what):
        button = self.lantern.one(f"{self.BAR} [data-do='{what}']")
        return button.is_enabled() and button.click() is None

    def part(self, title):
        """Show a part of its panel."""
        self.lantern.press_one("button[role=tab]", title)

    @property
    def trouble(self):
        return self.lantern.one("[data-role=trouble]").text

    def within(self):
        return [one.text for one in self.lantern.all("[data-role=within]")]


def break_at(lantern, number):
    lantern.choose(number)
    lantern.one(f"li[data-step] [aria-label='Breakpoint at sentence {number}']").click()
    until(lambda: lantern.all("[data-role=breakpoint]"), "the breakpoint")


def held_at_a_pause(lantern, name):
    """A test whose rehearsal is held in the middle."""
    pause = Step("p", "pause", inputs={"seconds": "1"}, page=QUOTE)
    test = make(lantern.stack, name, *SIGN_IN, pause, step("a", "type", "piece", text="Bowl"))
    lantern.sign_in()
    rehearsal = Rehearsal(lantern, test)
    break_at(lantern, 5)
    rehearsal.begin()
    rehearsal.held("5 ·")
    return test, rehearsal
