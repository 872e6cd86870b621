"""The exported script of the demo's test, run by pytest outside Lantern."""

import os
import re
import subprocess
import sys
from dataclasses import replace

import pytest

from lantern.core.elements.clues import OPERATORS, Clue, Element
from lantern.core.elements.facts import OWN_FACTS
from lantern.core.elements.kinds import kind_of
from lantern.core.steps.model import Document, Settings, Step
from lantern.demo.data import ELEMENTS, booking_test, quote_test
from lantern.demo.desk.state import ACCOUNTS
from lantern.exchange.script.writing import Source, write
from lantern.station.lookup import survey
from tests.station.desk import DeskServer


@pytest.fixture
def desk():
    server = DeskServer()
    yield server
    server.stop()


def run(folder, name, document, base, known=ELEMENTS):
    """Write a script into a folder, run it by pytest there; returns the process."""
    used = {key: known[key] for key in document.element_ids()}
    (folder / "test_script.py").write_text(write(Source(name, document, used, {}, base)))
    passwords = {f"{key.upper()}_PASSWORD": one.password for key, one in ACCOUNTS.items()}
    env = {"PATH": os.environ["PATH"], "HOME": str(folder), "BASE_URL": base, **passwords}
    command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "test_script.py"]
    return subprocess.run(command, cwd=folder, env=env, capture_output=True, text=True)


def test_the_scripts_of_the_demo_pass_and_fail_as_its_tests_do(desk, tmp_path):
    """Six rows are right; the seventh expects a price that is wrong, and says so."""
    done = run(tmp_path, "Quotes by clay and cone", quote_test(), desk.address)
    assert "1 failed, 6 passed" in done.stdout, done.stdout
    assert "the text of Price is “€ 7.25”, but it is “€ 7.30”" in done.stdout
    done = run(tmp_path, "Book a firing", booking_test(), desk.address)
    assert "1 passed" in done.stdout, done.stdout


def test_what_a_failure_leads_to_and_retries_hold_in_the_script_as_well(desk, tmp_path):
    """The sentence that fails in the seventh row is tried again, and the row goes on."""
    quotes = quote_test()
    price = next(step for step in quotes.steps if step.action == "check")
    wrong = next(row for row in quotes.rows if row.values["price"] == "€ 7.25")
    right = [row for row in quotes.rows if row != wrong]
    last = replace(quotes, rows=(wrong, *right[:2]))

    def failing(**fields):
        return last.with_step(replace(price, limit=0.5, **fields))

    def written(document, *more):
        return write(
            Source(
                "Quotes",
                replace(document, steps=(*document.steps, *more)),
                {key: ELEMENTS[key] for key in document.element_ids()},
                {},
                "http://x",
            )
        )

    again = Step("again", "pause", inputs={"seconds": "0"})
    goes_on = failing(on_failure="go on", retries=1)
    assert "    with page.go_on():\n        page.within(0.5).trying(1 + 1).check(PRICE" in written(
        goes_on
    )
    done = run(tmp_path, "Quotes", replace(goes_on, steps=(*goes_on.steps, again)), desk.address)
    assert "1 failed, 2 passed" in done.stdout, done.stdout
    assert "Went on after: " in done.stdout
    assert "SEED=" in done.stdout
    done = run(tmp_path, "Quotes", failing(on_failure="stop everything"), desk.address)
    assert "1 failed" in done.stdout, done.stdout
    assert "passed" not in done.stdout, done.stdout


PLACES = """<style>body{margin:0;min-height:1500px}</style><p id=out>nowhere</p>
<div id=plan style="position:fixed;left:0;top:300px;width:400px;height:200px"></div>
<script>
onclick = (e) => { const where = e.target.id === 'plan' ? 'plan' : 'page'
  const share = e.clientX / innerWidth
  out.textContent = where === 'plan' ? `plan ${e.clientX}` : `page ${share.toFixed(1)}` }
</script>"""


def test_presses_at_places_are_those_of_the_recording_in_the_script_as_well(site, tmp_path):
    """On the page they are shares of the window, in a thing shares of the thing."""
    site.put("/", PLACES)
    known = {
        "page": Element("page", "the page", "page", (Clue("tag", "is", "body"),)),
        "plan": Element("plan", "Plan", "text", (Clue("id", "is", "plan"),)),
        "out": Element("out", "Out", "text", (Clue("id", "is", "out"),)),
    }

    def check(expected):
        inputs = {"property": "text", "comparison": "is", "expected": expected}
        return Step(expected.split()[0], "check", element="out", inputs=inputs)

    steps = (
        Step("1", "open", inputs={"address": "/"}),
        Step("2", "press", element="page", inputs={"at": "70% 90%"}),
        check("page 0.7"),
        Step("3", "press", element="plan", inputs={"at": "25% 50%"}),
        check("plan 100"),
    )
    done = run(tmp_path, "Places", Document(steps), site.address, known)
    assert "1 passed" in done.stdout, done.stdout


CLUED = """<title>Clues</title><h2>Firings</h2><section aria-label="Kiln log">
<table><tr><th>Piece<th>Cone<th>Do<th>Note</tr>
<tr><td>Moon jar<td>06<td><button data-part=a class="plain open" title="Open it">Open</button>
<td><input data-part=f></tr>
<tr><td>Vase<td>10<td><button data-part=b id=go data-testid=go2 name=go>Open</button><td>-</tr>
</table>
<p>Before</p><button data-part=c>Save <b>all</b></button><p>Behind</p>
<label>Piece name <input data-part=d placeholder="as on the tag"></label>
<div><a data-part=e href="/next?x=1">Next page</a></div></section>"""
NOT_CLUES = {"options"}
"""Facts whose value is a list that only the editor shows."""


def forms_of(value):
    """Every operator with a value of which it says what is so."""
    middle = value[len(value) // 3 :] or value
    return {
        "is": value,
        "contains": middle,
        "starts with": value[:3],
        "ends with": value[-3:],
        "matches": f"^{re.escape(value)}$",
    }


def clues_of(facts):
    """A clue for each fact that is known of a node, with every operator, exact and loose."""
    for fact in sorted(OWN_FACTS | set(facts.attributes) | {"class word", "cell Piece"}):
        found = facts.get(fact)
        for value in [found] if isinstance(found, str) else found:
            if not value or fact in NOT_CLUES or fact.startswith("data-part"):
                continue
            for operator, wanted in forms_of(value).items():
                yield Clue(fact, operator, wanted)
                if operator != "matches":
                    yield Clue(fact, operator, wanted.upper(), loose=True)
    for place in (
        "1",
        "2",
        "1 from the end",
        "1 from the top",
        "1 from the left",
        "in the top left",
    ):
        yield Clue("position", "is", place)


def part_at(page, path):
    asked = f"document.querySelector({path!r})?.dataset.part ?? ''"
    answer = page.call("Runtime.evaluate", expression=asked, returnByValue=True)
    return answer["result"]["value"]


def test_every_clue_and_operator_finds_the_same_in_the_script(page, site, tmp_path):
    """What Lantern finds alone, the script finds alone; what Lantern does not, it does not."""
    nodes = survey(page.show(CLUED))
    part_of = {one.handle: part_at(page, one.path) for one in nodes}
    known, steps, parts = {}, [Step("open", "open", inputs={"address": "/"})], {}
    for facts in (one for one in nodes if part_of[one.handle]):
        for clue in clues_of(facts):
            key = f"k{len(known)}"
            element = Element(key, key, kind_of(facts), (clue,), page="Clues")
            found = element.among(nodes)
            if len(found) == 1 and part_of[found[0].handle]:
                known[key] = element
                parts[key] = part_of[found[0].handle]
    for key, part in parts.items():
        inputs = {"property": "attribute data-part", "comparison": "is", "expected": part}
        steps.append(Step(f"c{key}", "check", element=key, inputs=inputs, on_failure="go on"))
    assert len(known) > 100
    facts_tried = {element.clues[0].fact for element in known.values()}
    assert {"path", "column", "cell Piece", "after", "section", "row", "position"} <= facts_tried
    assert {element.clues[0].operator for element in known.values()} == set(OPERATORS)
    document = Document(tuple(steps), settings=Settings(limit=1.0))
    done = run(tmp_path, "Clues", document, site.address, known)
    told = [line for line in done.stdout.splitlines() if "Went on" in line]
    missed = [known[key].clues[0] for key in known if any(f" of {key} " in line for line in told)]
    assert "1 passed" in done.stdout, (missed, told, done.stdout[-3000:])
