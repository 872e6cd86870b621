"""Python of people, really run apart: what it can do and what it can not reach."""

import re
import shutil
import socket
import threading
import time

import pytest

from lantern.core.engine.requests import RunCode
from lantern.core.steps.model import Step
from lantern.station import sandbox
from lantern.station.coding import run_code


def run(body, limit=10.0, types=None, **inputs):
    names = ", ".join(inputs)
    source = f"def step({names}):\n    {body}\n"
    types = types or dict.fromkeys(inputs, "str")
    return run_code(RunCode(source, "step", types, inputs, limit))


def test_it_is_given_typed_inputs_and_gives_texts():
    types = {"price": "float", "count": "int", "gift": "bool", "day": "date"}
    body = "return {'sum': price * count, 'gift': not gift, 'year': day.year, 'none': None}"
    ran = run(body, types=types, price="1.5", count="2", gift="yes", day="2026-11-25")
    assert ran.gave == {"sum": "3.0", "gift": "no", "year": "2026", "none": ""}
    assert run("print('noise'); return 5").gave == {"result": "5"}


@pytest.mark.parametrize(
    ("body", "words", "line"),
    [
        ("return 1 / 0", "ZeroDivisionError", 2),
        ("import sys; sys.exit(3)", "SystemExit", 2),
        ("return bytearray(10**10)", "MemoryError", 2),
        ("import os; os._exit(1)", "without an answer", 0),
    ],
)
def test_what_goes_wrong_is_said_with_its_line(body, words, line):
    ran = run(body)
    assert words in ran.error
    assert ran.line == line


def test_an_input_of_another_type_is_named():
    ran = run("return n", types={"n": "int"}, n="many")
    assert "n is 'many', which is no int" in ran.error


def test_code_that_never_ends_is_ended():
    assert "not done after 1 s" in run("while True: pass", limit=1.0).error


def test_nothing_of_lantern_can_be_reached(monkeypatch, tmp_path):
    """Neither its key, nor its database, nor what its processes know."""
    key = tmp_path / "state" / "secret.key"
    key.parent.mkdir()
    key.write_text("very secret")
    monkeypatch.setenv("LANTERN_KEY_FILE", str(key))
    monkeypatch.setenv("LANTERN_DATABASE", "postgresql://somewhere")
    assert "FileNotFoundError" in run(f"return open({str(key)!r}).read()").error
    assert run("import os; return 'LANTERN_DATABASE' in os.environ").gave == {"result": "no"}
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = server.getsockname()[1]
        ran = run(f"import socket; socket.create_connection(('127.0.0.1', {port}), 2)")
    assert "Error" in ran.error
    assert "ModuleNotFoundError" in run("import psycopg").error
    back = f"import subprocess as s; return s.run(['umount', {str(key.parent)!r}]).returncode"
    assert run(back).gave["result"] != "0", "what is hidden stays hidden"
    assert "Error" in run("open('/etc/lantern-was-here', 'w')").error
    assert run("open('own.txt', 'w').write('x'); return open('own.txt').read()").gave
    others = "import os; return len([one for one in os.listdir('/proc') if one.isdigit()])"
    assert int(run(others).gave["result"]) < 5, "only its own processes"


def test_the_manuals_promises_of_where_code_runs(monkeypatch):
    """Each line of it is what code finds when it looks."""

    def finds(expression):
        return run(f"import os, socket; return {expression}").gave.get("result", "")

    assert finds("sorted(os.listdir(os.path.expanduser('~')))") == "[]", "an empty home"
    assert finds("sorted(os.listdir('/tmp'))") == "[]", "a /tmp of its own"
    assert finds("os.listdir('/dev/shm')") == "[]", "a /dev/shm of its own"
    assert finds("sorted(socket.if_nameindex())") == "[(1, 'lo')]", "no network"
    status = "open('/proc/self/status').read().split('NoNewPrivs:')[1].split()[0]"
    assert finds(status) == "1", "no new privileges"
    effective = "int(open('/proc/self/status').read().split('CapEff:')[1].split()[0], 16)"
    assert finds(effective) == "0", "no privileges at all"
    assert finds("os.getuid()") == "65534"
    assert (
        finds("sorted(os.environ)") == "['HOME', 'LANG', 'LC_CTYPE', 'PATH', 'PWD']"
        or finds("'LANTERN' in str(os.environ)") == "no"
    )
    for place in ("/usr/lantern", "/etc", "/dev/lantern", "/lantern"):
        assert "Error" in run(f"open({place!r}, 'w')").error, place
    assert "Error" in run("import os; os.unshare(0x10000000)").error or finds(
        "__import__('subprocess').run(['unshare', '-r', 'true']).returncode"
    ) not in ("0", "")


def test_a_socket_of_the_machine_is_out_of_reach():
    with socket.socket(socket.AF_UNIX) as server:
        server.bind("\0lantern-abstract")
        server.listen()
        tried = "import socket; socket.socket(socket.AF_UNIX).connect('\\0lantern-abstract')"
        assert "Error" in run(tried).error


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ("import os\n    while True: os.write(2, b'x' * 65536)", "wrote more than 1 MB"),
        ("import os\n    while True: os.write(1, b'x' * 65536)", "wrote more than 1 MB"),
        (
            "import os, time\n    for _ in range(4):\n        if not os.fork(): break\n"
            "    held = bytearray(200 << 20)\n    time.sleep(9)",
            "more than 512 MB of memory",
        ),
        ("import os, time\n    while os.fork(): time.sleep(0.01)\n    time.sleep(9)", "processes"),
        ("f = open('/tmp/x', 'wb')\n    while True: f.write(b'x' * 65536)", "Error"),
    ],
)  # fmt: skip
def test_code_that_takes_too_much_is_ended(body, words):
    began = time.monotonic()
    assert words in run(body, limit=20).error
    assert time.monotonic() - began < 19, "by its own limit, not by that of time"


def test_without_bubblewrap_code_is_refused_with_what_mends_it(monkeypatch):
    monkeypatch.setattr(shutil, "which", lambda name: None)
    assert "apt-get install bubblewrap" in run("return 1").error


def test_where_bubblewrap_does_not_work_its_own_words_are_told(monkeypatch):
    def complains(command):
        script = "echo 'bwrap: No permissions to create new namespace' >&2; exit 1"
        return ["sh", "-c", script]

    monkeypatch.setattr(sandbox, "confined", complains)
    monkeypatch.setattr(sandbox, "_worked", threading.Event())
    told = run("return 1").error
    assert "No permissions to create new namespace" in told
    assert "sysctl" in told
    monkeypatch.undo()
    assert run("return 1").gave == {"result": "1"}, "it is tried again the next time"


def test_a_page_script_runs_in_the_page(play, site):
    site.put("/", "<h1 id=title>Kiln</h1><script>window.rate = 3</script>")
    script = "const t = document.getElementById('title').textContent\nreturn {t, rate: window.rate}"
    notes = play(Step("s", "page script", inputs={"script": script, "name": "found"}))
    assert notes.outcome == "passed"
    assert notes.results[-1].kept == {"found": '{"t": "Kiln", "rate": 3}'}
    notes = play(Step("s", "page script", inputs={"script": "\nnope()"}))
    wanted = r"\(line 2\): ReferenceError: nope is not defined|ReferenceError: .*nope"
    assert re.search(wanted if play.engine == "webkit" else wanted.partition("|")[0],
                     notes.results[-1].message)  # fmt: skip
