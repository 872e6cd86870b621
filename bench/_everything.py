"""A page with all kinds of things, and a story of all actions and blocks on it.

Tests hold Lantern and its exported script against each other by it, and `engines` the browsers.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Facts
from lantern.core.engine.attempt import Flow
from lantern.core.steps.model import Document, Settings, Step, Taken

PAGE = """<title>Kiln room</title>
<style>
 body { margin: 0; min-height: 2600px } .box { width: 120px; height: 30px }
 #tip { display: none; position: absolute; left: 500px; top: 9px }
 #hot:hover + #tip { display: block }
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


class Story:
    """Sentences, numbered as they are added."""

    def __init__(self) -> None:
        self.steps = [Step("open", "open", inputs={"address": "/"}, limit=20.0)]

    def do(self, action: str, on: str = "", onto: str = "", flow: str = "", **inputs: Any) -> Story:  # noqa: ANN401 - texts and numbers
        """Add a sentence; `limit`, `on_failure` and `depth` are its own, the rest its inputs."""
        more = {name: inputs.pop(name) for name in ("limit", "on_failure") if name in inputs}
        depth = inputs.pop("depth", 0)
        key = f"s{len(self.steps)}"
        self.steps.append(Step(key, action, on, inputs, depth=depth, onto=onto, flow=flow, **more))
        return self

    def says(
        self,
        expected: str,
        on: str = "out",
        prop: str = "text",
        comparison: str = "is",
        **more: Any,  # noqa: ANN401 - texts and numbers
    ) -> Story:
        """Add a check of what a thing shows."""
        given = {"property": prop, "comparison": comparison, "expected": expected}
        return self.do("check", on, **given, **more)


def everything() -> list[Step]:
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


SECOND = "<!doctype html><title>Second 4 of 9</title><p id=word>here"
SLOW = 1.2
"""Seconds after which `/slow` is answered."""
FILES = {"glaze.txt": b"glaze"}
"""What is given to pages."""
INSIDE_A_TRY = "“tip” is on the page but not shown"
"""What the one sentence says that fails because it has to."""


def whole(settings: Settings) -> tuple[Document, Mapping[str, Flow]]:
    """Return the story of everything, and the flows that it calls."""
    inner = Story()
    inner.steps = []
    inner.do("type", "piece", text="6 ${input.piece} ${input.glaze}")
    inner.do("page script", script="return 6", name="cone")
    takes = (Taken("piece"), Taken("glaze", default="plain"))
    called = Document(tuple(inner.steps), takes=takes, gives=("cone",))
    return Document(tuple(everything()), settings=settings), {"f": Flow("Throw", called)}
