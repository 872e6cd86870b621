"""`element learn` and `element find`, as they are called."""

import json
import os
from contextlib import suppress
from pathlib import Path

import pytest
import yaml

from lantern.cli import main
from lantern.station import terminal

FORM = "<form><label>Piece name <input id=piece></label><button id=b1>Get a quote</button></form>"
AFTER = "<main><button id=x9>Get your quote</button><div><label>Piece name <input></label></div>"


@pytest.fixture
def run(capsys):
    def run(*arguments):
        code = main(["element", *map(str, arguments)])
        said = capsys.readouterr()
        return code, said.out, said.err

    return run


def children():
    """How many processes that this one started are still there."""
    found = 0
    for file in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):  # it ended meanwhile
            _state, parent = file.read_text().rpartition(") ")[2].split()[:2]
            found += int(parent) == os.getpid()
    return found


@pytest.mark.parametrize("path", ["//input", "//table", "//["])
def test_no_browser_is_left_behind_whatever_came_of_it(site, run, path):
    site.put("/", FORM)
    before = children()
    run("learn", site.address, "--at", path)
    assert children() == before


def test_learned_here_found_there_and_repaired(site, run, tmp_path):
    site.put("/", FORM)
    file, button = tmp_path / "piece.yaml", tmp_path / "ask.yaml"
    code, out, _ = run("learn", site.address, "--at", "//input", "--out", file)
    assert code == 0
    assert "Piece name" in out
    kept = yaml.safe_load(file.read_text())
    assert kept["format"] == "lantern element 1"
    assert 0 < kept["strength"] <= 1
    run("learn", site.address, "--at", "//button", "--out", button)

    site.put("/", AFTER)
    code, out, _ = run("find", site.address, file, "--json")
    assert code == 0
    assert json.loads(out)["matches"] == ["/html/body/main/div/label/input"]
    code, out, _ = run("find", site.address, button, "--repair", "--json")
    answer = json.loads(out)
    assert code == 1
    assert answer["verdict"] == "finds nothing"
    assert answer["proposals"][0]["xpath"] == "/html/body/main/button"
    assert 0 < answer["proposals"][0]["score"] < 1
    _, out, _ = run("find", site.address, button, "--repair")
    assert "finds nothing" in out
    assert "perhaps" in out


def test_a_batch_answers_line_by_line_and_goes_on_after_an_error(site, run, tmp_path):
    site.put("/", FORM)
    lines = [
        {"id": "a", "address": site.address, "at": "//input"},
        {"id": "b", "address": site.address, "at": "//table"},
        {"id": "c", "address": site.address, "at": "//["},
        {"id": "d", "address": site.address},
        {"id": "e", "address": site.address, "at": "//button"},
    ]
    batch = tmp_path / "learn.jsonl"
    batch.write_text("\n".join([*map(json.dumps, lines), "not json", ""]))
    code, out, _ = run("learn", "--batch", batch)
    answers = [json.loads(line) for line in out.splitlines()]
    assert code == 1
    assert [one["id"] for one in answers] == ["a", "b", "c", "d", "e", None]
    assert ["error" in one for one in answers] == [False, True, True, True, False, True]
    assert "Nothing is at //table" in answers[1]["error"]
    assert "is not an XPath" in answers[2]["error"]

    found = tmp_path / "find.jsonl"
    asks = [{"id": one["id"], "address": site.address, "element": one["element"]}
            for one in (answers[0], answers[4])]  # fmt: skip
    found.write_text("\n".join(map(json.dumps, asks)))
    code, out, _ = run("find", "--batch", found, "--repair")
    assert code == 0
    assert [json.loads(line)["verdict"] for line in out.splitlines()] == ["finds it"] * 2


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["learn"], "An address and --at"),
        (["learn", "about:config", "--at", "//a"], "is not an address"),
        (["learn", "http://127.0.0.1:9/", "--at", "//a"], "could not be opened"),
        (["find", "http://127.0.0.1:9/", "missing.yaml"], "missing.yaml"),
        (["learn", "http://x", "--at", "//a", "--cookie", "x"], "is not a cookie"),
        (["learn", "http://x", "--at", "//a", "--header", "x"], "is not a header"),
    ],
)
def test_what_can_not_be_done_says_why_and_exits_with_two(run, arguments, words):
    try:
        code, _, err = run(*arguments)
    except terminal.BadInput as error:
        code, err = 2, str(error)
    assert code == 2
    assert words in err


def test_cookies_and_headers_lead_behind_a_sign_in(run, tmp_path):
    import http.server
    import threading

    class Guarded(http.server.BaseHTTPRequestHandler):
        def do_GET(self):
            good = "pass=yes" in self.headers.get("Cookie", "")
            good = good and self.headers.get("X-Desk") == "1"
            self.send_response(200 if good else 403)
            self.send_header("Content-Type", "text/html")
            self.end_headers()
            self.wfile.write(FORM.encode())

        def log_message(self, *_):
            pass

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Guarded)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    address = f"http://127.0.0.1:{server.server_port}/"
    code, _, err = run("learn", address, "--at", "//input")
    assert (code, "403" in err) == (2, True)
    more = ("--cookie", "pass=yes", "--header", "X-Desk: 1")
    code, out, _ = run("learn", address, "--at", "//input", *more)
    assert code == 0
    assert "Piece name" in out
    server.shutdown()


STEPS = """
lantern: 1
test: To the rules
steps:
- do: press
  element: Open the rules
elements:
- id: Open the rules
  name: Open the rules
  kind: button
  clues:
  - {fact: name, is: Open the rules}
"""
CLOSED = """
<button onclick="box.hidden = false">Open the rules</button>
<div id=box hidden><button>I agree</button></div>
"""


def test_steps_are_taken_before_looking(site, run, tmp_path):
    site.put("/", CLOSED)
    steps, file = tmp_path / "steps.yaml", tmp_path / "agree.yaml"
    steps.write_text(STEPS)
    code, out, _ = run("learn", site.address, "--at", "//div/button", "--do", steps, "--json")
    assert code == 0
    file.write_text(out)
    assert json.loads(out)["element"]["name"] == "I agree"
    code, out, _ = run("find", site.address, file, "--do", steps, "--json")
    assert (code, json.loads(out)["verdict"]) == (0, "finds it")
    code, out, _ = run("find", site.address, file, "--wait", "0.2", "--json")
    assert (code, json.loads(out)["verdict"]) == (1, "is there, but not shown")


def test_a_step_that_fails_before_looking_is_told(site, run, tmp_path):
    site.put("/", "<p>Nothing to press here</p>")
    steps = tmp_path / "steps.yaml"
    steps.write_text(STEPS.replace("steps:", "limits: {seconds: 0.3}\nsteps:", 1))
    code, out, _ = run("learn", site.address, "--at", "//p", "--do", steps, "--json")
    assert code == 2
    assert "Press Open the rules" in json.loads(out)["error"]
    steps.write_text("lantern: 1\ntest: x\nsteps:\n- do: jump\n")
    code, _, err = run("learn", site.address, "--at", "//p", "--do", steps)
    assert (code, "jump" in err) == (2, True)
