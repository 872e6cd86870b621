"""A browser elsewhere: behind a driver that lets in who has a password, over W3C WebDriver."""

import base64
import http.server
import io
import json
import socket
import subprocess
import threading
import time
import urllib.request

import pytest
from PIL import Image

from lantern.browser.engines import Remote, Setup
from lantern.browser.errors import BrowserError
from lantern.browser.remote.ahead import Ahead
from lantern.core.engine.browsers import engine_called
from lantern.core.engine.interpreter import Script
from lantern.core.steps.model import Settings
from lantern.core.values.sources import Names
from lantern.host.ports import free_port
from lantern.station.player import Player
from lantern.station.redaction import safe_picture
from tests.station.desk import until
from tests.station.test_parity import INSIDE_A_TRY, THINGS, Told, everything, whole

ASKED = {"goog:chromeOptions": {"args": ["--headless=new", "--no-sandbox", "--disable-gpu"]}}
USER, PASSWORD = "kiln", "moon jar"


class Grid:
    """The stand-in for a grid: a driver on loopback, and who lets in to it under a path."""

    def __init__(self, log):
        self.port = free_port()
        command = ["chromedriver", f"--port={self.port}", f"--log-path={log}", "--silent"]
        self.driver = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        until(self._is_up, "the driver", 30)
        grid = self

        class Door(http.server.BaseHTTPRequestHandler):
            protocol_version = "HTTP/1.1"
            wbufsize = -1  # an answer goes out as one
            disable_nagle_algorithm = True

            def _pass_on(self):
                content = self.rfile.read(int(self.headers.get("Content-Length") or 0))
                code, said = grid.answer(self, content)
                if grid.cuts and self.path.endswith(grid.cuts):
                    self.close_connection = True
                    return
                self.send_response(code)
                self.send_header("Content-Type", "application/json")
                self.send_header("Content-Length", str(len(said)))
                self.end_headers()
                self.wfile.write(said)

            def log_message(self, *_):
                pass

        for method in ("GET", "POST", "DELETE"):
            setattr(Door, f"do_{method}", Door._pass_on)
        self.door = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Door)
        threading.Thread(target=self.door.serve_forever, daemon=True).start()
        self.address = f"http://127.0.0.1:{self.door.server_port}/wd"
        self.broken, self.cuts, self.echoes = False, "", False
        self.plain = False

    def _is_up(self):
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/status", timeout=2) as told:
                return told.status == 200
        except OSError:
            return False

    def answer(self, asked, content):
        known = base64.b64encode(f"{USER}:{PASSWORD}".encode()).decode()
        if asked.headers.get("Authorization") != f"Basic {known}":
            return 401, b'{"value": {"error": "unknown error", "message": "Who are you?"}}'
        if self.echoes:
            told = {"error": "session not created", "message": content.decode()}
            return 500, json.dumps({"value": told}).encode()
        if self.plain and asked.path.endswith("/session"):  # it takes the first that it knows
            told = json.loads(content)
            del told["capabilities"]["firstMatch"][0]
            content = json.dumps(told).encode()
        if self.broken:
            return 502, b"<html>Bad gateway</html>"
        request = urllib.request.Request(
            f"http://127.0.0.1:{self.port}{asked.path.removeprefix('/wd')}",
            content or None,
            {"Content-Type": "application/json"},
            method=asked.command,
        )
        try:
            with urllib.request.urlopen(request, timeout=60) as answer:
                return answer.status, answer.read()
        except urllib.error.HTTPError as error:
            return error.code, error.read()

    def sessions(self):
        with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/sessions", timeout=5) as answer:
            return answer.read().decode().count('"capabilities"')

    def setup(self, **more):
        return Setup(**{"address": self.address, "user": USER, "password": PASSWORD,
                        "capabilities": ASKED, **more})  # fmt: skip

    def close(self):
        self.door.shutdown()
        self.driver.terminate()
        self.driver.wait(20)


@pytest.fixture(scope="module")
def grid(tmp_path_factory):
    made = Grid(tmp_path_factory.mktemp("grid") / "driver.log")
    yield made
    made.close()


@pytest.fixture
def remote(grid):
    learned = []
    made = Remote(grid.setup, learned.append)
    made.learned = learned
    yield made
    made.close()
    grid.broken, grid.cuts = False, ""


def test_every_action_and_block_plays_there_but_for_what_is_declared(remote, site):
    everything(site)
    notes = Told()
    session = remote.new_session()
    session.open_page()
    story, flows = whole(Settings(3, on_failure="go on"))
    Player(session, notes).play(Script(story, THINGS, Names(seed="1"), site.address, flows))
    failed = [
        one.sentence
        for one in notes.results
        if one.outcome == "failed" and INSIDE_A_TRY not in one.message
    ]
    assert failed, "it is given files and downloads some"
    assert all("download" in one for one in failed), failed
    (told,) = remote.learned
    assert told["ahead"], "BiDi is used where it is offered"
    assert told["status"]
    lacks = " ".join(engine_called("remote kiln grid", status=True, ahead=True).lacks)
    assert "Files that it downloads" in lacks
    assert "status" not in lacks


def test_requests_are_seen_before_the_scripts_of_a_page_run(remote, site):
    """The page asks while it is read, and puts its own in the place of what asks."""
    site.put("/", "<script>fetch('/gone'); window.fetch = null; console.error('cracked')</script>")
    session = remote.new_session()
    session.open_page()
    page = session.current
    assert page.navigate(site.address + "/", 20) == (200, "")
    assert page.navigate(site.address + "/nowhere", 20)[0] == 404
    page.navigate(site.address + "/", 20)

    def seen():
        page.drain()
        return "cracked" in " ".join(page.traffic.noise.console)

    until(seen, "what it complained about while it was read", 10)


def test_a_session_ends_with_its_owner_and_files_go_there_by_their_content(remote, grid, site):
    html = "<input type=file id=f onchange='this.files[0].text().then((t) => document.title = t)'>"
    site.put("/", html)
    session = remote.new_session()
    session.open_page()
    page = session.current
    page.navigate(site.address + "/", 20)
    path = session.files.put("glaze.csv", b"less iron")
    query = {"selector": "input", "clues": [], "aim": False}
    page.give_files(page.probe("lookup", query)["candidates"][0]["handle"], [path])
    until(lambda: page.script("return document.title") == "less iron", "the content there")
    assert grid.sessions() == 1
    session.close()
    until(lambda: grid.sessions() == 0, "the grid has its place back", 20)


def test_a_picture_of_a_fine_screen_is_in_pixels_of_css_and_hides_what_is_to_be_hidden(grid, site):
    options = {"args": [*ASKED["goog:chromeOptions"]["args"], "--force-device-scale-factor=2"]}
    remote = Remote(lambda: grid.setup(capabilities={"goog:chromeOptions": options}))
    try:
        place = "position:absolute;left:600px;top:300px;font:40px monospace"
        site.put("/", f"<body style='margin:0;background:#fff'><b style='{place}'>less-iron</b>")
        session = remote.new_session()
        page = session.open_page()
        page.navigate(site.address + "/", 20)
        plain = Image.open(io.BytesIO(page.picture())).convert("L")
        hidden = Image.open(io.BytesIO(safe_picture(page, ["less-iron"]))).convert("L")
        assert plain.size == hidden.size == page.viewport
        part = (600, 300, 810, 345)
        assert plain.crop(part).getextrema()[0] < 60, "it could be read"
        assert hidden.crop(part).getextrema()[0] > 100, "and can not any more"
    finally:
        remote.close()


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"password": "guessed"}, "Who are you?"),
        ({"capabilities": {"browserName": "kiln"}}, "matching capabilities"),
        ({"address": "http://127.0.0.1:9"}, "ended"),
    ],
)
def test_what_a_driver_refuses_is_said(grid, more, said):
    remote = Remote(lambda: grid.setup(**more))
    try:
        with pytest.raises(BrowserError, match=said):
            remote.new_session()
        if "capabilities" not in more:
            assert not remote.answers(2)
    finally:
        remote.close()


def test_a_driver_without_bidi_plays_as_well_and_lacks_more(remote, grid, site):
    site.put("/", "<button onclick=\"document.title='pressed'\">Book</button>")
    grid.plain = True
    try:
        session = remote.new_session()
    finally:
        grid.plain = False
    page = session.open_page()
    page.navigate(site.address + "/", 20)
    aimed = page.probe("aim", page.probe("handleAt", "button", 0))
    page.press(aimed["x"], aimed["y"])
    assert page.script("return document.title") == "pressed"
    (told,) = remote.learned
    assert told["ahead"] is False
    assert "once the page has been read" in str(engine_called("remote x", status=True).lacks)


def test_who_is_let_in_is_told_to_no_other_server(grid):
    """The driver says that its BiDi answers somewhere else."""
    asked = []
    with socket.create_server(("127.0.0.2", 0)) as elsewhere:

        def listen():
            caller, _ = elsewhere.accept()
            with caller:
                asked.append(caller.recv(65536))

        listens = threading.Thread(target=listen, daemon=True)
        listens.start()
        told = {"webSocketUrl": f"ws://127.0.0.2:{elsewhere.getsockname()[1]}/session"}
        with pytest.raises(BrowserError):
            Ahead.of(told, grid.setup(address="https://grid.example"), "'k'")
        listens.join(5)
    assert b"upgrade" in asked[0].lower(), "it was asked"
    assert b"authorization" not in asked[0].lower()


def test_a_driver_that_says_again_what_it_was_asked_tells_no_secret(grid):
    asked = {"grid:options": {"key": "less-iron"}}
    remote = Remote(lambda: grid.setup(capabilities=asked, hidden="less-iron"))
    grid.echoes = True
    try:
        with pytest.raises(BrowserError) as refused:
            remote.new_session()
        assert "grid:options" in str(refused.value)
        assert "less-iron" not in str(refused.value)
        assert refused.value.__cause__ is None
    finally:
        grid.echoes = False
        remote.close()


def test_a_grid_that_breaks_in_the_middle_ends_the_row_and_not_the_station(remote, grid, site):
    site.put("/", "<h1>Kilns</h1>")
    session = remote.new_session()
    session.open_page()
    grid.broken = True
    started = time.monotonic()
    with pytest.raises(BrowserError):
        session.current.probe("page")
    session.close()
    assert time.monotonic() - started < 30


def test_what_was_done_when_the_line_broke_is_not_done_twice(remote, grid, site):
    """The driver pressed, and its answer never came: nobody knows, so the row ends."""
    site.put("/", "<button style='position:fixed;left:0;top:0' onclick='n++'>Book</button>"
                  "<script>n = 0</script>")  # fmt: skip
    session = remote.new_session()
    session.open_page()
    page = session.current
    page.navigate(site.address + "/", 20)
    page.press(10, 8)
    grid.cuts = "/actions"
    with pytest.raises(BrowserError):
        page.press(10, 8)
    grid.cuts = ""
    assert page.script("return n") == 2
