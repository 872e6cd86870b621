"""One secret, used in every way, is then looked for wherever anybody could find it."""

import http.server
import json
import subprocess
import threading
import urllib.error
import urllib.request
from pathlib import Path

import psutil
import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.runs.life import RUN_OVER
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.values.redaction import forms_of
from lantern.host.setup import postgres_programs
from lantern.store import elements, runs, tests
from lantern.store.models import Environment
from lantern.store.vault import Vault
from tests.ui.pages import until

CANARY = 'canary "7f3" & é/wheel'
PAGE = """<!doctype html><meta charset=utf-8><title>Glaze test</title>
<input id=field placeholder=""><p id=echo></p><p id=loud></p><p id=coded></p>
<select id=list><option>none</option></select><button id=ask>Ask</button>
<script>
const show = (text) => {
  document.title = `Glaze ${text}`
  echo.textContent = text
  loud.textContent = text.toUpperCase()
  coded.textContent = btoa(unescape(encodeURIComponent(`user:${text}`)))
  echo.dataset.id = text; echo.setAttribute('aria-label', text)
  list.options[0].label = text
  field.placeholder = text
  console.error('plain', text); console.error(JSON.stringify({ text }))
  console.error(encodeURIComponent(text)); console.error(btoa(unescape(encodeURIComponent(text))))
  history.replaceState(null, '', '/?tok=' + encodeURIComponent(text))
  fetch('/missing?tok=' + encodeURIComponent(text))
  setTimeout(() => { throw new Error(text) }, 0)
}
const given = new URLSearchParams(location.search).get('tok')
if (given) show(given)
field.oninput = () => show(field.value)
ask.onclick = () => alert(field.value)
</script>"""


@pytest.fixture
def glaze():
    """The address of a page that tells what it is given in every way that it can."""

    class Handler(http.server.BaseHTTPRequestHandler):
        def do_GET(self):
            self.send_response(404 if "missing" in self.path else 200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.end_headers()
            self.wfile.write(PAGE.encode())

        def log_message(self, *_):
            pass

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()


def known_by(key, kind):
    return Element(f"canary-{key}", key, kind, (Clue("id", "is", key),), page="Glaze test")


PARTS = {"field": "text box", "echo": "text", "loud": "text", "coded": "text", "ask": "button"}


def check(key, number, prop="text"):
    given = {"property": prop, "comparison": "is", "expected": "something else"}
    return Step(f"c{number}", "check", f"canary-{key}" if key else "", given, limit=1.0)


STEPS = (
    Step("a", "open", inputs={"address": "/?tok=${secret.canary}"}),
    Step("b", "type", "canary-field", {"text": "${secret.canary}"}),
    check("echo", 1),
    check("loud", 2),
    check("coded", 3),
    check("field", 4, "value"),
    Step("k", "keep", "canary-echo", {"property": "text", "name": "echo"}),
    Step("l", "keep", "canary-coded", {"property": "text", "name": "coded"}),
    Step("p", "press", "canary-ask"),
    Step("d", "dialog", inputs={"answer": "OK"}),
    Step("s", "script", inputs={"script": "throw new Error(document.title)"}, limit=2.0),
    Step("g", "open", inputs={"address": "http://127.0.0.1:1/${secret.canary}"}, limit=2.0),
    Step("m", "press", "canary-gone", limit=1.0),
)


def a_run(stack, address):
    with stack.database.session() as session:
        where = Environment(name="Glaze test", address=address)
        session.add(where)
        session.flush()
        Vault().put(session, where.id, "canary", CANARY)
        for key, kind in PARTS.items():
            elements.save(session, known_by(key, kind))
        by_secret = (Clue("name", "is", "${secret.canary}"),)
        elements.save(session, Element("canary-gone", "gone", "button", by_secret))
        settings = Settings(limit=5.0, on_failure="go on", pictures="each step")
        document = Document(STEPS, settings=settings)
        test = tests.create(session, "Canary", where.id, None, document)
        run = runs.create(session, test, "run", "all", None)
        return test.id, run.id


class Found:
    """Looks for the secret in whatever it is given."""

    def __init__(self):
        self.forms = {form.lower() for form in forms_of(CANARY) if len(form) > 7}
        self.places = []

    def look(self, where, text):
        lower = text.lower()
        for form in self.forms:
            if form in lower:
                at = lower.index(form)
                self.places.append((where, text[max(0, at - 60) : at + 60]))
                return


def api(stack, cookie, path):
    request = urllib.request.Request(f"{stack.address}{path}", headers={"Cookie": cookie})
    try:
        with urllib.request.urlopen(request, timeout=20) as answer:
            return answer.read().decode("utf-8", "replace")
    except urllib.error.HTTPError as error:
        return error.read().decode("utf-8", "replace")


def signed_in(stack, name, password):
    body = json.dumps({"username": name, "password": password}).encode()
    headers = {"Content-Type": "application/json"}
    request = urllib.request.Request(f"{stack.address}/api/sign-in", body, headers)
    with urllib.request.urlopen(request) as answer:
        return answer.headers["Set-Cookie"].split(";")[0]


def test_a_secret_is_found_nowhere(stack, glaze, cluster):
    test, run = a_run(stack, glaze)

    def over():
        with stack.database.session() as session:
            return runs.get(session, run).state in RUN_OVER

    until(over, "the run's end", 120)
    with stack.database.session() as session:
        cast = runs.get(session, run).casts[0].id
    found = Found()

    cookie = signed_in(stack, "pia", "lantern-viewer")
    with urllib.request.urlopen(f"{stack.address}/api/openapi.json") as answer:
        document = json.load(answer)
    paths = [path for path, methods in document["paths"].items() if "get" in methods]
    results = json.loads(api(stack, cookie, f"/api/casts/{cast}/results"))["results"]
    assert len(results) == len(STEPS)
    assert {one["outcome"] for one in results} == {"passed", "failed"}
    assert "••••••" in json.dumps(results, ensure_ascii=False)
    numbers = {test, run, cast, *(one["id"] for one in results), *range(1, 40)}
    for path in paths:
        for number in sorted(numbers) if "{id}" in path else [0]:
            whole = path.replace("{id}", str(number)).replace("{key}", "canary-echo")
            for ending in ("csv", "json") if "{ending}" in whole else ("",):
                found.look(whole, api(stack, cookie, whole.replace("{ending}", ending)))

    dump = subprocess.run(
        [str(postgres_programs() / "pg_dump"), "--inserts", stack.url],
        capture_output=True, check=True,
    )  # fmt: skip
    found.look("dump", dump.stdout.decode("utf-8", "replace"))
    for folder in (cluster.folder.resolve(), stack.logs):
        for file in Path(folder).rglob("*"):
            if file.is_file() and not file.is_socket():
                found.look(str(file), file.read_bytes().decode("utf-8", "replace"))
    for process in psutil.process_iter(["cmdline"]):
        found.look(f"process {process.pid}", " ".join(process.info["cmdline"] or []))
    assert found.places == []
