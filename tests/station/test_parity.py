"""Every action, block, wait, property and made-up value: Lantern and its exported script alike.

Both play the same sentences on the same pages. What passes in one passes in the other, and what
fails in one, because it has to, fails in the other.
"""

import os
import re
import subprocess
import sys

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Facts
from lantern.core.engine.attempt import Flow
from lantern.core.engine.interpreter import Script
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import Document, Settings, Step, Taken
from lantern.core.steps.properties import COMPARISONS, ON_DEMAND, PROPERTIES
from lantern.core.steps.tables import ASPECTS
from lantern.core.values.made import FUNCTIONS
from lantern.core.values.sources import Names
from lantern.exchange.script.writing import Source, write
from lantern.station.player import Player
from tests.station.conftest import Notes

PAGE = """<title>Kiln room</title>
<style>
 body { margin: 0; min-height: 2600px } .box { width: 120px; height: 30px }
 #tip { display: none } #hot:hover + #tip { display: block }
 #far { margin-top: 2000px } ul.list { display: none } ul.list.open { display: block }
 #cover { position: absolute; left: 0; top: 0; width: 300px; height: 40px; background: #fff }
</style>
<div style="position:relative"><button id=under onclick="say('under')">Under</button>
<div id=cover></div></div>
<p id=out>-</p>
<button id=plain onclick="say(`plain ${event.isTrusted}`)">Fire</button>
<p>Fire</p>
<button id=twice ondblclick="say('twice')">Twice</button>
<button id=second oncontextmenu="say('second'); event.preventDefault()">Second</button>
<button id=hot>Hot</button><p id=tip>Mind the kiln</p>
<button id=keyed onclick="say('clicked')" onkeydown="event.key === 'Enter' &&
 (event.preventDefault(), say('keyed ' + event.ctrlKey))">Keyed</button>
<label>Piece <input id=piece value=old oninput="say('piece ' + value)"></label>
<label>Opened <input id=day type=date onchange="say('day ' + value)"></label>
<label>Notes <textarea id=notes>one
two</textarea></label>
<label>Log <span id=log contenteditable style="display:block">begun</span></label>
<label>Clay <select id=clay onchange="say('clay ' + value)"><option>Raku<option>Stoneware
 <option disabled>Bone</select></label>
<label>Glazes <select id=glazes multiple onchange="say([...selectedOptions].map((o) => o.text))">
 <option>Ash<option>Celadon<option>Tenmoku</select></label>
<div id=shelf role=combobox tabindex=0 aria-label=Shelf aria-haspopup=listbox
 onclick="shelves.classList.toggle('open')">Pick a shelf</div>
<ul id=shelves class=list role=listbox><li role=option onclick="take(this)">Top<li role=option
 onclick="take(this)">Middle</ul>
<label>Lid <input type=checkbox id=lid></label>
<div id=vent role=checkbox tabindex=0 aria-checked=true aria-label=Vent
 onclick="ariaChecked = String(ariaChecked !== 'true'); say('vent ' + ariaChecked)">Vent</div>
<label>Cone <input type=range id=cone min=0 max=40 value=6 oninput="say('cone ' + value)"></label>
<div id=heat role=slider tabindex=0 aria-label=Heat aria-valuemin=0 aria-valuemax=9
 aria-valuenow=2 class=box onkeydown="turn(event)">Heat</div>
<label>Papers <input type=file id=papers multiple
 onchange="say([...files].map((file) => file.name))"></label>
<a id=take download="firing-7.csv" href="data:text/csv,piece,cone%0AMoon jar,6">Take it</a>
<div id=from draggable=true class=box
 ondragstart="event.dataTransfer.setData('text', 'jar')">Jar</div>
<div id=onto class=box ondragover="event.preventDefault()"
 ondrop="event.preventDefault(); say('dropped ' + event.dataTransfer.getData('text'))">Rack</div>
<div id=knob class=box onmousedown="start = event" onmouseup="say(`by ${event.x - start.x}`)"
 onmousemove="this.setPointerCapture">Knob</div>
<button id=asks onclick="say('said ' + prompt('Name?'))">Ask</button>
<button id=opens onclick="window.open('/second')">Window</button>
<button id=slow onclick="slowly()">Slow</button>
<button id=lazy disabled>Lazy</button>
<p id=price>€ 1,234.50</p><p id=word></p>
<table id=rack><thead><tr><th>Piece<th>Price €</thead><tbody>
<tr><td>Moon jar<td>€ 1,200.00</tr><tr><td>Vase<td>€ 34.50</tr></tbody></table>
<ul id=jobs><li>Wedge<li>Throw</ul>
<iframe name=inner srcdoc="<button onclick=&quot;parent.say('inner')&quot;>In the frame</button>">
</iframe><div id=host></div>
<p id=far>Far away</p>
<script>
 function say(text) { out.textContent = String(text) }
 function take(one) { shelf.textContent = one.textContent; shelves.classList.remove('open')
   say('shelf ' + one.textContent.trim()) }
 function turn(event) { const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
   if (by) heat.ariaValueNow = Number(heat.ariaValueNow) + by; say('heat ' + heat.ariaValueNow) }
 function slowly() { say('waiting'); fetch('/slow').then(() => { say('answered') }) }
 host.attachShadow({ mode: 'open' }).innerHTML = '<button>In the shade</button>'
 host.shadowRoot.querySelector('button').onclick = () => say('shade')
 setTimeout(() => { cover.remove(); lazy.disabled = false }, 700)
 lazy.onclick = () => say('lazy')
 knob.onmousemove = (event) => event.buttons && event.preventDefault()
</script>"""

KIND = {
    "piece": "text box", "day": "text box", "notes": "text box", "log": "text box",
    "clay": "choice list", "glazes": "choice list", "shelf": "choice list", "lid": "tick box",
    "vent": "tick box", "cone": "slider", "heat": "slider", "papers": "file box", "take": "link",
    "rack": "table", "jobs": "list",
}  # fmt: skip
TEXTS = "out tip from onto knob price word far".split()
BUTTONS = "under plain twice second hot keyed asks opens slow lazy".split()
THINGS = {
    name: Element(name, name, KIND.get(name, "button"), (Clue("id", "is", name),))
    for name in [*KIND, *BUTTONS]
} | {name: Element(name, name, "text", (Clue("id", "is", name),)) for name in TEXTS}
THINGS |= {
    "several": Element("several", "several", "button", (Clue("name", "contains", "o"),)),
    "fire": Element("fire", "Fire", "text", (Clue("text", "is", "Fire"),)),
    "framed": Element(
        "framed", "framed", "button",
        (Clue("name", "is", "In the frame"), Clue("frames", "is", "inner")),
    ),
    "shade": Element("shade", "shade", "button", (Clue("name", "is", "In the shade"),)),
    "named": Element("named", "named", "button", (Clue("name", "is", "${kept.name}"),)),
    "number": Element(
        "number", "number", "text box", (Clue("id", "is", "piece"),),
        seen=Facts("input", "textbox", attributes={"type": "number", "min": "20", "max": "30"}),
    ),
    "coded": Element(
        "coded", "coded", "text box", (Clue("id", "is", "piece"),),
        seen=Facts("input", "textbox", attributes={"pattern": "[A-C]{3}-[0-9]"}),
    ),
}  # fmt: skip


class Told(Notes):
    """Gives one file to pages."""

    def file(self, name):
        return b"glaze" if name.startswith("glaze") else None


class Story:
    """Sentences, numbered as they are added."""

    def __init__(self):
        self.steps = [Step("open", "open", inputs={"address": "/"}, limit=20.0)]

    def do(self, action, on="", inside=(), onto="", flow="", **inputs):
        more = {name: inputs.pop(name) for name in ("limit", "on_failure") if name in inputs}
        depth = inputs.pop("depth", 0)
        key = f"s{len(self.steps)}"
        self.steps.append(Step(key, action, on, inputs, depth=depth, onto=onto, flow=flow, **more))
        return self

    def says(self, expected, on="out", prop="text", comparison="is", **more):
        given = {"property": prop, "comparison": comparison, "expected": expected}
        return self.do("check", on, **given, **more)


@pytest.fixture
def both(chromium, site, tmp_path):
    """Plays sentences in Lantern and as a script; returns what failed in each, in words."""

    def play(document, flows=None, *, lantern=True):
        notes = Told()
        session = chromium.new_session()
        try:
            session.open_page()
            script = Script(document, THINGS, Names(seed="1"), site.address, flows or {})
            if lantern:
                Player(session, notes).play(script)
        finally:
            session.close()
        failed = [one.message for one in notes.results if one.outcome == "failed"]
        used = {key: THINGS[key] for key in document.element_ids()}
        for flow in (flows or {}).values():
            used |= {key: THINGS[key] for key in flow.document.element_ids()}
        text = write(Source("Parity", document, used, flows or {}, site.address))
        (tmp_path / "test_script.py").write_text(text)
        (tmp_path / "files").mkdir(exist_ok=True)
        (tmp_path / "files" / "glaze.txt").write_text("glaze")
        ran = subprocess.run(
            [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "test_script.py"],
            cwd=tmp_path, env={"PATH": os.environ["PATH"], "HOME": str(tmp_path)},
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        lines = ran.stdout.splitlines()
        told = [line for line in lines if line.startswith("Went on after: ")]
        why = [line.strip("E ") for line in lines if line.startswith(("E  ", ">   "))][:8]
        if "1 passed" not in ran.stdout and not told:
            pytest.fail("\n".join(["The script:", *why, "Lantern:", *failed]))
        return failed, told, notes.results

    return play


def everything():
    """A story of all actions and blocks; each act is followed by a look at what came of it."""
    s = Story()
    s.do("press", "under").says("under")
    s.do("press", "lazy").says("lazy")
    s.do("press", "plain").says("plain true")
    s.says("Fire", "fire")
    s.do("double press", "twice").says("twice")
    s.do("secondary press", "second").says("second")
    s.do("hover", "hot").says("yes", "tip", "shown")
    s.do("key", "keyed", keys="Control+Enter").says("keyed true")
    s.do("type", "piece", text="Möja").says("piece Möja")
    s.do("add text", "piece", text=" jar").says("Möja jar", "piece", "value")
    s.do("type", "day", text="2027-05-31").says("day 2027-05-31")
    s.do("add text", "notes", text="!").says("one two!", "notes", "value")
    s.do("type", "log", text="Fired").says("Fired", "log")
    s.do("type on", "log", text=" twice").says("Fired twice", "log")
    s.do("choose", "clay", option="Stoneware").says("clay Stoneware")
    s.do("choose", "glazes", option="Ash\nTenmoku").says("Ash,Tenmoku")
    s.do("choose", "shelf", option="Middle").says("shelf Middle")
    s.do("tick", "lid").says("yes", "lid", "ticked").do("untick", "lid").says("no", "lid", "ticked")
    s.do("tick", "vent").says("yes", "vent", "ticked").do("untick", "vent").says("vent false")
    s.do("slide", "cone", value="23").says("cone 23")
    s.do("slide", "heat", value="5").says("5", "heat", "value")
    s.do("upload", "papers", file="glaze.txt").says("glaze.txt")
    s.do("press", "take").do("download", name="firing-#.csv")
    s.do("check download", detail="name", comparison="is", expected="firing-7.csv")
    s.do("check download", detail="text", comparison="contains", expected="Moon jar,6")
    s.do("drag", "from", onto="onto").says("dropped jar")
    s.do("drag by", "knob", right="40", down="0").says("by 40")
    s.do("scroll", "far").do("press", "framed").says("inner").do("press", "shade").says("shade")
    s.do("press", "asks").do("dialog", answer="OK", text="Ines").says("said Ines")
    s.do("press", "opens").do("window", window="Second # of 9").says("here", "word")
    s.do("close window", window="Second # of 9").do("window", window="first").says("said Ines")
    s.do("press", "slow").do("quiet", milliseconds="200", limit=8.0).says("answered", limit=0.2)
    s.do("wait until", "out", property="text", comparison="is", expected="answered")
    s.do("check outcome", "price", onto="tip", expected="€ 1,234.50").do("pause", seconds="0").do(
        "hold"
    )
    s.do("keep", "plain", property="text", name="name").do("press", "named").says("plain true")
    s.do("page script", script="return {cone: await Promise.resolve(6)}", name="made")
    given = {"value": "${kept.made}", "comparison": "is"}
    s.do("if value", expected='{"cone": 6}', **given).do("type", "piece", text="if", depth=1)
    s.do("else").do("type", "piece", text="else", depth=1).says("piece if")
    held = {"property": "text", "comparison": "is at least", "expected": "1000"}
    s.do("if", "word", **held).do("type", "piece", text="a", depth=1)
    s.do("else if", "price", **held).do("type", "piece", text="b", depth=1)
    s.do("else if value", value="1", comparison="is", expected="1")
    s.do("type", "piece", text="c", depth=1).says("piece b")
    s.do("repeat", times="3").do("type", "piece", text="${each.number}", depth=1).says("piece 3")
    s.do("repeat rows", "rack")
    s.do("type", "piece", text="${each.piece} ${each.price} ${each.number}", depth=1)
    s.says("piece Vase € 34.50 2")
    s.do("repeat rows", "jobs").do("add text", "piece", text="${each.number}", depth=1)
    s.says("Vase € 34.50 212", "piece", "value")
    s.do("while", "out", property="text", comparison="is not", expected="plain true", most="2")
    s.do("press", "plain", depth=1).says("plain true")
    s.do("try").do("press", "tip", depth=1, limit=0.3).do("type", "piece", text="no", depth=1)
    s.do("section", name="Round up").do("press", "plain", depth=1).says("plain true")
    s.do("flow", flow="f", piece="bowl").says("${kept.cone} bowl plain", "piece", "value")
    s.do("reload").says("-").do("open", address="/second").says("here", "word")
    s.do("go back").says("-").do("go forward").says("here", "word")
    s.do("always").do("go back", depth=1).says("-", depth=1)
    return s.steps


def test_every_action_and_block_plays_alike(both, site):
    site.put("/", PAGE)
    site.pages["/second"] = (200, "<!doctype html><title>Second 4 of 9</title><p id=word>here")
    site.put("/slow", "slow")
    site.late["/slow"] = 1.2
    inner = Story()
    inner.steps = []
    inner.do("type", "piece", text="6 ${input.piece} ${input.glaze}")
    inner.do("page script", script="return 6", name="cone")
    called = Document(
        tuple(inner.steps), takes=(Taken("piece"), Taken("glaze", default="plain")), gives=("cone",)
    )
    document = Document(tuple(everything()), settings=Settings(4.0))
    assert {step.action for step in document.steps} == set(ACTIONS)
    failed, told, _ = both(document, {"f": Flow("Throw", called)})
    assert [one for one in failed if "“tip”" not in one] == []  # that one is inside a try
    assert told == []


def test_what_a_block_asks_and_is_not_told_leaves_it_out_in_both(both, site):
    """Neither it nor its alternatives are played, and the row goes on as far as that is wanted."""
    site.put("/", PAGE)
    unclear = {"property": "shown", "comparison": "is", "expected": "yes", "limit": 0.3}
    leads = {"on_failure": "go on"}

    def asking(**leads):
        s = Story()
        s.do("if", "several", **unclear, **leads).do("type", "piece", text="if", depth=1)
        s.do("else").do("type", "piece", text="else", depth=1)
        s.says("old", "piece", "value")
        return s

    s = asking(**leads)
    s.do("if value", value="1", comparison="is", expected="2")
    s.do("type", "piece", text="one", depth=1)
    s.do("else if", "several", **unclear, **leads).do("type", "piece", text="two", depth=1)
    s.do("else").do("type", "piece", text="three", depth=1).says("old", "piece", "value")
    s.do("while", "several", most="2", **unclear, **leads).do("press", "plain", depth=1).says("-")
    s.do("repeat rows", "plain", limit=0.3, **leads).do("press", "plain", depth=1).says("-")
    s.do("repeat", times="many", **leads).do("press", "plain", depth=1).says("-")
    s.do("press", "plain").says("plain true")
    failed, told, results = both(Document(tuple(s.steps), settings=Settings(limit=3.0)))
    assert (len(failed), len(told)) == (5, 5), (failed, told)
    assert [one.outcome for one in results[-2:]] == ["passed", "passed"]

    stops = Document(tuple(asking().steps), settings=Settings(limit=3.0))
    with pytest.raises(pytest.fail.Exception, match="several was found"):
        both(stops)


def test_every_property_is_read_alike(both, site):
    """Each property of each thing, as Lantern reads it, is what the script finds."""
    site.put("/", re.sub("<iframe.*?</iframe>", "", PAGE, flags=re.DOTALL))
    site.late["/slow"] = 0
    read = Story()
    more = "attribute id", "attribute value", "property tabIndex", "property disabled"
    things = "plain piece notes log clay glazes vent cone heat rack jobs".split()
    asked = [(name, thing) for thing in things for name in PROPERTIES]
    asked += [(more[n % len(more)], thing) for n, thing in enumerate(things)]
    of_tables = (
        "cells of Piece", "sum of Price €", "order of Piece", "rows with Piece is Vase",
        "cell Price € where Piece is Vase", "cell Price € where Piece is Lost",
    )  # fmt: skip
    assert all(any(one.startswith(name) for one in of_tables) for name in ASPECTS)
    assert {name.split()[0] for name in ON_DEMAND} == {"attribute", "property"}
    asked += [(name, "rack") for name in of_tables]
    for number, (name, thing) in enumerate(asked):
        read.do("keep", thing, property=name, name=f"k{number}", on_failure="go on", limit=0.3)
    read.says("yes", "lazy", "enabled")
    failed, told, results = both(Document(tuple(read.steps), settings=Settings(0.5)))
    assert len(told) == len(failed) > 5, (failed, told)
    kept = {name: value for one in results for name, value in one.kept.items()}
    assert len(kept) + len(failed) == len(asked)
    check = Story()
    for number, (name, thing) in enumerate(asked):
        if f"k{number}" in kept:
            check.says(kept[f"k{number}"].replace("${", "$${"), thing, name, on_failure="go on")
    _, told, _ = both(Document(tuple(check.steps), settings=Settings(0.3)), lantern=False)
    assert told == []


SAID = {
    "is": "€ 1,234.50", "is not": "€ 1", "contains": "234", "does not contain": "99",
    "starts with": "€", "ends with": ".50", "matches": r"\d,\d{3}", "is at least": "1,234.5",
    "is at most": "1234.6",
}  # fmt: skip
WRONG = {
    "is": "€ 1", "is not": "€ 1,234.50", "contains": "99", "does not contain": "234",
    "starts with": "$", "ends with": ".5", "matches": r"^\d", "is at least": "1,234.6",
    "is at most": "1.3",
}  # fmt: skip


def test_comparisons_hold_and_fail_alike(both, site):
    site.put("/", PAGE)
    s = Story()
    assert set(SAID) == set(WRONG) == set(COMPARISONS)
    for name in COMPARISONS:
        s.says(SAID[name], "price", comparison=name, on_failure="go on")
        s.says(WRONG[name], "price", comparison=name, on_failure="go on")
    s.do("open", address="/nothing", on_failure="go on").do("open", address="/")
    s.do("press", "plain", at="110% 5%", on_failure="go on")
    s.do("choose", "clay", option="Bone", on_failure="go on")
    s.do("slide", "cone", value="41", on_failure="go on")
    s.do("window", window="Nowhere", on_failure="go on")
    s.do("check download", detail="name", comparison="is", expected="x", on_failure="go on")
    s.do("dialog", answer="OK", on_failure="go on").do("press", "named", on_failure="go on")
    failed, told, _ = both(Document(tuple(s.steps), settings=Settings(0.4)))
    assert len(failed) == len(COMPARISONS) + 8, failed
    assert len(told) == len(failed), (failed, told)


MADE = {
    "integer": "${integer(3, 9)}", "number": "${number(1, 2)}", "pick": '${pick("a", "b")}',
    "text": '${text("??-##")}', "date": '${date("+1m")}', "uuid": "${uuid()}",
    "fitting": "${fitting()}",
}  # fmt: skip
LOOKS = {
    "integer": r"^[3-9]$", "number": r"^[12]\.\d\d$", "pick": "^[ab]$", "text": r"^[a-z]{2}-\d\d$",
    "date": r"^\d{4}-\d\d-\d\d$", "uuid": r"^[0-9a-f]{8}-[0-9a-f-]{27}$", "fitting": "^[A-Z]",
}  # fmt: skip


def test_made_up_values_are_of_one_form_and_fit_the_field(both, site):
    site.put("/", PAGE)
    s = Story()
    assert set(MADE) == set(LOOKS) == set(FUNCTIONS)
    for name, template in MADE.items():
        s.do("type", "piece", text=template)
        s.says(LOOKS[name], "piece", "value", "matches")
    s.do("type", "number", text="${integer(1, 30)}").says("20", "piece", "value", "is at least")
    s.do("type", "coded", text="${fitting()}")
    s.says("^[A-C]{3}-[0-9]$", "piece", "value", "matches")
    failed, told, _ = both(Document(tuple(s.steps), settings=Settings(2.0)))
    assert (failed, told) == ([], [])
