"""The faults that are planted: their kind, the story that they are in, and how they are planted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta

from bench.verdicts.proxy import Answer, Asked, add, cut, page, put
from bench.verdicts.stories import (
    Bench,
    acts_on,
    given,
    limited,
    ordered,
    row,
    without,
)
from lantern.core.elements.clues import Clue
from lantern.host.ports import free_port

ASK, QUOTE, BOOK, BOARD = "POST /quote", "(GET|POST) /quote", "POST /book", "GET /board"


@dataclass(frozen=True)
class Fault:
    """A fault of a `kind`, in a story, planted by `plant`."""

    kind: str
    name: str
    story: str
    plant: Callable[[Bench], object]


def _monday() -> str:
    day = date.today() + timedelta(days=1)
    while day.weekday():
        day += timedelta(days=1)
    return day.isoformat()


def _name(text: str) -> Clue:
    return Clue("name", "is", text)


PRICE = r'(<output id="price"[^>]*>)[^<]*(</output>)'
LATE_PRICE = """<script>for (const one of document.querySelectorAll('#price')) {
    const text = one.textContent; one.textContent = ''; SHOW
    setTimeout(() => { one.textContent = text; HIDE }, 3500) }</script>"""


def _late(show: str, hide: str) -> str:
    return LATE_PRICE.replace("SHOW", show).replace("HIDE", hide)


VEIL = """<div id=veil style="position:fixed;inset:0;background:#fffa">WORDS</div>"""
BEFORE_DESK = '(<script src="/static/desk.js)'


def _fails_later(b: Bench) -> None:
    b.rule(ASK, delay=3.5, instead=page(500, "<h1>Internal Server Error</h1>"))


def _no_cookie(asked: Asked) -> None:
    asked.headers.pop("Cookie", None)


def _no_words(asked: Asked) -> None:
    asked.path = asked.path.partition("?")[0]


def _twice(answer: Answer) -> None:
    rows = answer.text.split("<tr>")
    if len(rows) > 2:
        answer.body = "<tr>".join([*rows[:3], rows[2], *rows[3:]]).encode()


PRODUCT = (
    (
        "price five cents off",
        "quote",
        lambda b: b.rule(ASK, after=put(r"(€ \d+\.\d)\d", r"\g<1>9")),
    ),
    ("rush forgotten", "book", lambda b: b.faults("price")),
    ("large firing lost", "book", lambda b: b.faults("lost row")),
    ("no message after deleting", "delete", lambda b: b.faults("silent delete")),
    (
        "quote answers 500",
        "quote",
        lambda b: b.rule(ASK, instead=page(500, "<h1>Internal Server Error</h1>")),
    ),
    (
        "button gone",
        "quote",
        lambda b: b.rule(QUOTE, after=put(r'<button class="act" id="ask".*?</button>', "")),
    ),
    (
        "price gone",
        "quote",
        lambda b: b.rule(ASK, after=put(r'<section class="price".*?</section>', "")),
    ),
    ("price empty", "quote", lambda b: b.rule(ASK, after=put(PRICE, r"\1\2"))),
    (
        "valid values refused",
        "quote",
        lambda b: b.rule(
            ASK,
            after=put(
                r'<section class="price".*?</section>', '<div role="alert">Choose a clay.</div>'
            ),
        ),
    ),
    (
        "script fails at start",
        "kiln",
        lambda b: b.rule(
            "desk.js", after=lambda a: setattr(a, "body", b"null.kilns.open();" + a.body)
        ),
    ),
    (
        "list of kilns answers 500",
        "kiln",
        lambda b: b.rule("/kilns", instead=page(500, "Internal Server Error")),
    ),
    ("search finds all", "find", lambda b: b.rule(BOARD, before=_no_words)),
    ("price is no number", "quote", lambda b: b.rule(ASK, after=put(PRICE, r"\1€ NaN\2"))),
    (
        "booking leads nowhere",
        "book",
        lambda b: b.rule(BOOK, instead=page(404, "<h1>Not Found</h1>", "404 Not Found")),
    ),
    (
        "delete never shown",
        "delete",
        lambda b: b.rule("desk.js", after=put("list.hidden = !", "list.hidden = true || !")),
    ),
    (
        "button stays disabled",
        "quote",
        lambda b: b.rule(QUOTE, after=put('id="ask"', 'id="ask" disabled')),
    ),
    ("slow answer that is an error", "quote", _fails_later),
    (
        "others renamed and price wrong",
        "quote",
        lambda b: b.rule(
            ASK,
            after=lambda a: (
                put('id="(clay|cone|glaze)"', r'id="\1-x"')(a),
                put(PRICE, r"\1€ 1.00\2")(a),
            ),
        ),
    ),
    ("firing shown twice", "find", lambda b: b.rule(r"GET /board\?", after=_twice)),
    (
        "page gone",
        "delete",
        lambda b: b.rule(BOARD, instead=page(404, "<h1>Not Found</h1>", "404 Not Found")),
    ),
)

TEST = (
    ("clue of the button wrong", "quote", lambda b: b.element("demo-ask", _name("Get quotes"))),
    (
        "clue of a field wrong",
        "quote",
        lambda b: b.element("demo-piece", Clue("label", "is", "Piece")),
    ),
    ("clue too wide", "delete", lambda b: b.element("v-menu", _name("Menu"))),
    (
        "label renamed",
        "quote",
        lambda b: b.rule(QUOTE, after=put(">Piece name<", ">Name of the piece<")),
    ),
    (
        "button renamed",
        "quote",
        lambda b: b.rule(QUOTE, after=put(">Get a quote<", ">Work out the price<")),
    ),
    ("search renamed", "find", lambda b: b.rule(BOARD, after=put(">Search<", ">Look it up<"))),
    ("redesign", "quote", lambda b: b.faults(release="summer")),
    ("redesign of the board", "find", lambda b: b.faults(release="summer")),
    (
        "expected words wrong",
        "delete",
        lambda b: b.edit("delete", given("d4", expected="The firing of Tea caddy is gone.")),
    ),
    ("expected price wrong", "book", lambda b: b.edit("book", given("b5", expected="€ 15.00"))),
    ("sentence taken out", "book", lambda b: b.edit("book", without("b3"))),
    ("order wrong", "quote", lambda b: b.edit("quote", ordered("q8", "q7"))),
    ("address wrong", "delete", lambda b: b.edit("delete", given("s5", address="/bord"))),
    (
        "option misspelled in the test",
        "quote",
        lambda b: b.edit("quote", given("q5", option="Medium (9 liters)")),
    ),
    ("sign-in taken out", "find", lambda b: b.edit("find", without("s1", "s2", "s3", "s4"))),
    (
        "wrong property",
        "quote",
        lambda b: b.edit("quote", given("q8", comparison="starts with", expected="EUR")),
    ),
    ("wrong element", "book", lambda b: b.edit("book", acts_on("b6", "demo-ask"))),
    ("answer taken out", "delete", lambda b: b.edit("delete", without("d3"))),
    (
        "notice in the way",
        "quote",
        lambda b: b.rule(
            QUOTE,
            after=add(VEIL.replace("WORDS", "<h2>Autumn opening hours</h2><button>Close</button>")),
        ),
    ),
    (
        "wrong option in the test",
        "kiln",
        lambda b: b.edit("kiln", given("k1", option="Great Ember")),
    ),
)

DATA = (
    (
        "new row expects a wrong price",
        "quote",
        lambda b: b.edit("quote", row(3, piece="Roof finial", pieces="3", price="€ 9.99")),
    ),
    ("row expects a wrong price", "quote", lambda b: b.edit("quote", row(1, price="€ 24.10"))),
    ("clay misspelled", "quote", lambda b: b.edit("quote", row(0, clay="Stonware"))),
    ("cone that is not offered", "quote", lambda b: b.edit("quote", row(0, cone="7"))),
    ("porcelain too cool", "quote", lambda b: b.edit("quote", row(0, clay="Porcelain", cone="04"))),
    ("too many pieces", "quote", lambda b: b.edit("quote", row(1, pieces="25"))),
    ("pieces in letters", "quote", lambda b: b.edit("quote", row(1, pieces="twelve"))),
    ("piece without a name", "quote", lambda b: b.edit("quote", row(0, piece=" "))),
    ("decimal comma", "quote", lambda b: b.edit("quote", row(0, price="€ 5,40"))),
    ("currency left out", "quote", lambda b: b.edit("quote", row(0, price="5.40"))),
    ("wrong password", "find", lambda b: b.variables(password="wheel-and-klin")),
    ("member that is unknown", "quote", lambda b: b.variables(member="marra")),
    ("date that has passed", "quote", lambda b: b.edit("quote", row(0, drop_off="2026-02-03"))),
    ("closed day", "quote", lambda b: b.edit("quote", row(0, drop_off=_monday()))),
    ("words that are nowhere", "find", lambda b: b.edit("find", row(1, words="Mora"))),
    (
        "new row with words of another",
        "find",
        lambda b: b.edit("find", row(3, words="Tobin", firings="4")),
    ),
    ("another count expected", "find", lambda b: b.edit("find", row(1, firings="3"))),
    (
        "member of another tier",
        "quote",
        lambda b: b.variables(member="tobin", password="slip-and-score"),
    ),
    ("pieces changed, price not", "quote", lambda b: b.edit("quote", row(1, pieces="20"))),
    ("no pieces", "quote", lambda b: b.edit("quote", row(2, pieces="0"))),
)

BY_SCRIPT = """<script>addEventListener('submit', async (event) => {
    if (event.defaultPrevented) return
    event.preventDefault()
    const [form, data] = [event.target, new URLSearchParams(new FormData(event.target))]
    const to = event.submitter?.getAttribute('formaction') || form.getAttribute('action')
    const gets = form.method === 'get'
    const answer = gets
      ? await fetch(`${location.pathname}?${data}`)
      : await fetch(to || location.href, { method: 'POST', body: data })
    const page = new DOMParser().parseFromString(await answer.text(), 'text/html')
    document.title = page.title
    document.querySelector('main').replaceWith(page.querySelector('main'))
})</script>"""
"""Lets a page send its forms by script, as many do, and not wait for a new document."""
ENABLED_LATE = """<progress id=bar></progress><script>ask.disabled = true
    setTimeout(() => { ask.disabled = false; bar.remove() }, 4500)</script>"""
FROM_SERVER = """<script>for (const one of document.querySelectorAll('#price')) {
    const text = one.textContent; one.textContent = ''
    fetch('/health').then(() => { one.textContent = text }) }</script>"""
SLIDES = """<style>#ask { position: relative; animation: go 1.2s 4 linear }
    @keyframes go { from { left: 0 } to { left: 500px } }</style>"""
UNVEILED = "<script>setTimeout(() => veil.remove(), 3500)</script>"
BAR = (
    "one.insertAdjacentHTML('afterend', '<progress></progress>')",
    "document.querySelector('progress').remove()",
)
IS_BUSY = ("one.setAttribute('aria-busy', 'true')", "one.removeAttribute('aria-busy')")


def _slowly(pages: str, asked: str, seconds: float) -> Callable[[Bench], object]:
    """Return what lets some pages send their forms by script, and some requests take long."""

    def plant(b: Bench) -> None:
        b.rule(pages, after=add(BY_SCRIPT))
        b.rule(asked, delay=seconds)

    return plant


def _price_from_server(b: Bench) -> None:
    b.rule("GET /health", delay=3.5)
    b.rule(ASK, after=add(FROM_SERVER))


TIMING = (
    ("quote slow", "quote", _slowly("GET /quote", ASK, 3.5)),
    ("quote very slow", "quote", _slowly("GET /quote", ASK, 6.0)),
    ("booking slow", "book", _slowly("POST /quote", BOOK, 4.0)),
    ("kilns slow", "kiln", lambda b: b.rule("/kilns", delay=5.0)),
    ("search slow", "find", _slowly("GET /board$", r"GET /board\\?", 4.0)),
    ("deleting slow", "delete", _slowly("GET /board", "POST /board", 4.0)),
    ("limit too short for the list", "kiln", lambda b: b.edit("kiln", limited(0.8))),
    ("sign-in slow", "kiln", _slowly("GET /sign-in", "POST /sign-in", 4.5)),
    ("price late behind a bar", "quote", lambda b: b.rule(ASK, after=add(_late(*BAR)))),
    ("price late while busy", "quote", lambda b: b.rule(ASK, after=add(_late(*IS_BUSY)))),
    (
        "veil while loading",
        "quote",
        lambda b: b.rule("GET /quote", after=add(VEIL.replace("WORDS", "Loading…") + UNVEILED)),
    ),
    ("button late", "quote", lambda b: b.rule("GET /quote", after=add(ENABLED_LATE))),
    ("price late from the server", "quote", _price_from_server),
    ("slides for seconds", "quote", lambda b: b.rule("GET /quote", after=add(SLIDES))),
    ("script slow", "kiln", lambda b: b.rule("desk.js", delay=7.0)),
    ("list of kilns late", "kiln", lambda b: b.rule("/kilns", delay=3.6)),
    ("booking and board slow", "book", _slowly("POST /quote", BOARD, 3.0)),
    ("sign-in of the quote slow", "quote", _slowly("GET /sign-in", "POST /sign-in", 3.5)),
)

DISK = "<h1>Internal Server Error</h1><p>OSError: [Errno 28] No space left on device</p>"
ENVIRONMENT = (
    (
        "503",
        "quote",
        lambda b: b.rule(ASK, instead=page(503, "<h1>Service Unavailable</h1>", "503")),
    ),
    (
        "502",
        "book",
        lambda b: b.rule(BOOK, instead=page(502, "<h1>Bad Gateway</h1>", "502 Bad Gateway")),
    ),
    (
        "504",
        "find",
        lambda b: b.rule(r"GET /board\?", instead=page(504, "<h1>Gateway Timeout</h1>", "504")),
    ),
    ("429", "kiln", lambda b: b.rule("/kilns", instead=page(429, "Too Many Requests"))),
    ("cut off", "quote", lambda b: b.rule(ASK, instead=cut)),
    ("nothing listens", "find", lambda b: b.variables(address=f"http://127.0.0.1:{free_port()}")),
    ("name not known", "find", lambda b: b.variables(address="http://desk.emberhall.invalid")),
    ("sign-in ran out", "quote", lambda b: b.rule(ASK, before=_no_cookie)),
    (
        "session words",
        "book",
        lambda b: b.rule(
            BOOK,
            instead=page(
                200, "<h1>Your session has expired</h1><a href=/sign-in>Sign in</a>", "Kiln Desk"
            ),
        ),
    ),
    (
        "disk full",
        "book",
        lambda b: b.rule(BOOK, instead=page(500, DISK, "500 Internal Server Error")),
    ),
    (
        "maintenance",
        "find",
        lambda b: b.rule(
            "GET /sign-in",
            instead=page(
                200, "<h1>Down for maintenance</h1><p>We are back at noon.</p>", "Maintenance"
            ),
        ),
    ),
    ("kilns 503", "kiln", lambda b: b.rule("/kilns", instead=page(503, "Service Unavailable"))),
    ("script cut off", "kiln", lambda b: b.rule("desk.js", instead=cut)),
    ("script 503", "delete", lambda b: b.rule("desk.js", instead=page(503, ""))),
    (
        "open answers 502",
        "delete",
        lambda b: b.rule("GET /sign-in", instead=page(502, "<h1>Bad Gateway</h1>")),
    ),
    (
        "too many connections",
        "quote",
        lambda b: b.rule(
            "POST /sign-in",
            instead=page(
                500,
                "<h1>Internal Server Error</h1><p>FATAL: sorry, too many connections</p>",
            ),
        ),
    ),
    (
        "read-only",
        "book",
        lambda b: b.rule(
            BOOK, instead=page(200, "<p role=alert>The desk is in read-only mode.</p>")
        ),
    ),
    (
        "open answers 503",
        "kiln",
        lambda b: b.rule("GET /bench", instead=page(503, "<h1>Service Unavailable</h1>")),
    ),
    ("sign-in ran out on the board", "find", lambda b: b.rule(r"GET /board\?", before=_no_cookie)),
    (
        "network sign-in page",
        "quote",
        lambda b: b.rule(
            "GET /sign-in",
            instead=page(511, "<h1>Guest network</h1><p>Accept the terms to go on.</p>"),
        ),
    ),
)

FAULTS: tuple[Fault, ...] = tuple(
    Fault(kind, name, story, plant)
    for kind, listed in (
        ("product", PRODUCT),
        ("test", TEST),
        ("data", DATA),
        ("timing", TIMING),
        ("environment", ENVIRONMENT),
    )
    for name, story, plant in listed
)
