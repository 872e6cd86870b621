"""A real browser on small pages of our own."""

import http.server
import threading

import pytest

from lantern.browser.chromium import Chromium
from lantern.browser.engines import ENGINES
from lantern.core.elements.facts import Facts
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.core.engine.interpreter import Script
from lantern.core.recording.proposals import propose
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.values.sources import Names
from lantern.station.guides import Watcher
from lantern.station.player import Player
from tests.station.rehearser import Rehearser


@pytest.fixture(scope="package")
def chromium():
    browser = Chromium()
    yield browser
    browser.close()


class Site:
    """Pages by path; a value may be (status, html), `late` says after how many seconds it comes."""

    def __init__(self):
        site = self
        self.pages, self.asked, self.late = {}, [], {}

        class Handler(http.server.BaseHTTPRequestHandler):
            def do_GET(self):
                site.asked.append(self.path)
                threading.Event().wait(site.late.get(self.path, 0))
                status, page = site.pages.get(self.path.split("?")[0], (404, "<h1>nothing here"))
                self.send_response(status)
                kind = "css" if self.path.endswith(".css") else "html"
                self.send_header("Content-Type", f"text/{kind}; charset=utf-8")
                self.end_headers()
                self.wfile.write(page.encode())

            do_POST = do_GET  # noqa: N815 - the name that the server calls

            def log_message(self, *_):
                pass

        self.server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        self.address = f"http://127.0.0.1:{self.server.server_port}"
        threading.Thread(target=self.server.serve_forever, daemon=True).start()

    def count(self, path):
        return self.asked.count(path)

    def put(self, path, html, status=200):
        self.pages[path] = (status, f"<!doctype html><title>Test page</title>{html}")


@pytest.fixture
def site():
    site = Site()
    yield site
    site.server.shutdown()


class Notes(Watcher):
    """Remembers results and pictures."""

    def __init__(self):
        self.results, self.pictures, self.noise = [], [], []

    def keep_picture(self, content):
        self.pictures.append(content)
        return f"picture {len(self.pictures)}"

    def step_ends(self, result, console, requests):
        self.results.append(result)
        self.noise.append((console, requests))


@pytest.fixture(scope="package")
def running():
    """The browsers that run, by their engines; started when a test wants them."""
    browsers = {}
    yield browsers
    for browser in browsers.values():
        browser.close()


def browser_of(engine, running):
    """Return the running browser of an engine."""
    found = running.get(engine)
    if found is None or not found.alive:
        found = running[engine] = ENGINES[engine].start()
    return found


@pytest.fixture(params=sorted(ENGINES))
def browser(request, running):
    """A running browser of each engine in turn."""
    return browser_of(request.param, running)


@pytest.fixture
def play(browser, site):
    """Returns a function that opens "/" and plays steps; gives the notes of what happened."""
    contexts = []

    def run(*steps, elements=(), limit=2.0, secrets=None, **settings):
        context = browser.new_session(BROWSERS[USUAL])
        contexts.append(context)
        context.open_page()
        # The limit is for the sentences that are tried: a busy machine may take longer to open.
        all_steps = [Step("open", "open", inputs={"address": "/"}, limit=30.0), *steps]
        document = Document(tuple(all_steps), settings=Settings(limit, **settings))
        names = Names(secret=secrets or {})
        known = {one.id: one for one in elements}
        notes = Notes()
        notes.player = Player(context, notes)
        notes.outcome = notes.player.play(Script(document, known, names, site.address))
        notes.context = context
        return notes

    run.engine = browser.version.split()[0].lower()
    yield run
    for context in contexts:
        context.close()


@pytest.fixture
def window(browser, site):
    """Returns a function that shows a page in a window of each engine in turn."""
    context = browser.new_session(BROWSERS[USUAL])
    page = context.open_page()

    def show(html):
        site.put("/", html)
        page.navigate(site.address + "/", 30)
        return page

    yield show
    context.close()


@pytest.fixture
def page(chromium, site):
    """A window showing "/"; `page.show(html)` puts a page there first."""
    context = chromium.new_session()
    page = context.open_page()

    def show(html):
        site.put("/", html)
        page.navigate(site.address + "/", 10)
        return page

    page.show = show
    yield page
    context.close()


@pytest.fixture
def clues_for(page):
    """Returns a function that proposes the element for the n-th node of a selector."""

    def clues(selector, place=0):
        raw = page.probe("describe", page.probe("handleAt", selector, place))
        rivals = tuple(map(Facts.read, raw["rivals"]))
        return propose(Facts.read(raw["facts"]), rivals, "Test page")

    return clues


@pytest.fixture
def rehearser(chromium, site, database):
    made = Rehearser(chromium, site, database)
    yield made
    if made.stage:
        made.stage.close()
