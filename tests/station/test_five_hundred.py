"""Hundreds of fast actions over every widget of the desk: each is a sentence, none is lost."""
# ruff: noqa: F811 - fixtures are imported, and asked for by their names

from tests.station.test_round_trip import (
    CASES,
    desk,  # noqa: F401 - a fixture
    recording,  # noqa: F401 - a fixture
    until,
)

BENCH = (
    ("wax", "left", 1, "Wax the foot"),
    ("oxidation", "left", 1, "Tick Oxidation"),
    ("litres", "left", 1, ""),
    ("text", "7", 1, "Litres"),
    ("reduction", "left", 1, "Tick Reduction"),
    ("vent", "left", 1, "Press Vent"),
    ("stir", "left", 2, "Press Stir twice"),
    ("finish", "left", 1, ""),
    ("finish Matt", "left", 1, "Choose “Matt” in Finish"),
    ("bucket", "right", 1, "Press Bucket with the right button"),
    ("(#tools option:nth-child(2))", "left", 1, "Choose “Tongs” in Tools"),
    ("(#tools option:nth-child(1))", "left", 1, "Choose “Brush” in Tools"),
)
"""What is done, how, how often, and what the sentence says; "" for what leaves none."""

SHOW = "for (const one of document.querySelectorAll('.context, #finish-list')) one.hidden = {}"

CONES = [(f"use {cone}", "left", 1, f"Use cone {cone}") for cone in ("10", "6", "1", "04")]
MIX = "Press Mix in the row where Recipe is “{}”"
MIXES = [
    (f"mix {name}", "left", 1, MIX.format(name))
    for name in ("Snow shino", "Iron tenmoku", "Pine ash", "Copper oribe")
]
MENUS = [
    (f"menu of {name}", "left", 1, f"Press Menu in the row where Piece is “{name}”")
    for name in ("Moon jar", "Tea caddy", "Tea caddy", "Moon jar")
]
CARRIED = [
    ("witness cone", "Back peephole", 0, "Drag Witness cone to Back peephole"),
    ("witness cone", "Front peephole", 0, "Drag Witness cone to Front peephole"),
]
TAKES = "a row's menu"
PLACES = {
    "/bench": (20, BENCH),
    "/chart": (15, [*CONES, ("curve", "left", 1, "Press Firing curve")]),
    "/recipes": (15, [*MIXES, ("order frit", "left", 1, "Press Order frit")]),
    "/board": (10, MENUS),
    "/shelves": (10, CARRIED),
}
"""By page: how many rounds, and what is done in each; frames and shadow roots among them."""


def test_five_hundred_fast_actions_are_five_hundred_sentences(recording):
    """As fast as the pages take them, with no pause between, over every widget of the desk.

    What a page must first show (dialogs, windows, new pages) is waited for, as anyone has to.
    """
    recording.start()
    wanted = []
    for path, (rounds, acts) in PLACES.items():
        opened(recording, path, wanted)
        many(recording.hand, acts, rounds)
        wanted += [words for *_, words in acts if words] * rounds
        arrived(recording, wanted)
    # The case that takes a firing away comes last: others use that firing.
    for _name, (path, acts, sentences) in sorted(CASES.items(), key=lambda one: TAKES in one[0]):
        opened(recording, path, wanted)
        for act in acts:
            act(recording.hand)
        wanted += sentences
        arrived(recording, wanted)
    assert len(wanted) >= 500
    recording.finish()
    sentences = recording.sentences()
    for number, (told, words) in enumerate(zip(sentences, wanted, strict=False)):
        assert words in told, (number, sentences[number - 3 : number + 3])
    assert len(sentences) == len(wanted), sentences[len(wanted) :]


def opened(recording, path, wanted):
    recording.hand.open(path)
    wanted.append(f"Open “{path}”")
    arrived(recording, wanted)
    recording.hand.page.quiet(0.2, 5)


def arrived(recording, wanted):
    """Wait until as many sentences are there; say which came at the end when they do not."""
    done = 4 + len(wanted)
    until(
        lambda: recording.count() >= done,
        lambda: (done, wanted[-6:], recording.sentences(0)[-8:], recording.errors()),
        60,
    )


def many(hand, acts, rounds):
    """Do everything again and again, without waiting for anything."""
    hand.page.call("Runtime.evaluate", expression=SHOW.format("false"))
    parts = {part for part, *_ in acts if part != "text"}
    places = {part: at_rest(hand, part) for part in parts}
    hand.page.call("Runtime.evaluate", expression=SHOW.format("true"))
    for _ in range(rounds):
        fast(hand, acts, places)


def fast(hand, acts, places):
    """Do everything once: press so often with a button, type, or carry something there."""
    for part, how, count, _words in acts:
        if part == "text":
            hand.stage.take({"type": "text", "text": how})
        elif not count:
            hand.rest()  # it lies elsewhere once the page has answered
            carry(hand, at_rest(hand, part), at_rest(hand, how))
        for number in range(1, count + 1 if part != "text" else 1):
            for kind in ("down", "up"):
                held = {"left": 1, "right": 2}[how] if kind == "down" else 0
                hand.mouse(kind, places[part], button=how, buttons=held, count=number)


def carry(hand, start, end):
    hand.mouse("move", start)
    hand.mouse("down", start, button="left", buttons=1, count=1)
    for share in (0.1, 0.5, 1):
        at = [a + (b - a) * share for a, b in zip(start, end, strict=True)]
        hand.mouse("move", at, button="left", buttons=1)
    hand.mouse("up", end, button="left", count=1)


def at_rest(hand, part):
    """Where the middle of a part is, without scrolling; what covers it does not matter."""
    selector = part[1:-1] if part.startswith("(") else f'[data-part="{part}"]'
    page = hand.page
    for frame in page.frames():
        handle = page.probe("handleAt", selector, 0, frame=frame)
        if handle:
            box = page.probe("describe", handle, frame=frame)["facts"]["box"]
            dx, dy = page.frame_offset(frame)
            return box["x"] + box["width"] / 2 + dx, box["y"] + box["height"] / 2 + dy
    raise AssertionError(f"no {part} on the page")
