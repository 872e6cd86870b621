"""Blind spots over the API: told on kept pages, a check added from one, figures of all tests."""

from lantern.core.elements.facts import Box, Facts
from lantern.core.engine.outcomes import StepResult
from lantern.core.runs.life import Ended
from lantern.demo.data import QUOTE
from lantern.store import casts, pages, stations
from tests.api.casting import taken

NODES = [
    Facts("output", role="status", name="Price", text="", attributes={"data-part": "price"}),
    Facts("p", text="Firings leave on Monday"),
    Facts("p", text="For {piece}"),
]


def shown(values, price):
    said = {"": price, NODES[2].text: f"For {values['piece']}"}
    return [
        Facts(
            one.tag, one.role, one.name, said.get(one.text, one.text), order=place,
            attributes=one.attributes, path=f"main > {one.tag}:nth-of-type({place + 1})",
            box=Box(10, 30 * place, 200, 24),
        )
        for place, one in enumerate(NODES)
    ]  # fmt: skip


def play(client, database, test, rows="1-2"):
    """Let two rows pass, with what their check saw kept; returns the run."""
    run = client.post(f"/tests/{test}/runs", rows=rows).json["run"]["id"]
    with database.session() as session:
        stations.beat(session, "st1", name="kiln", address="ws://x", engines=["chromium"])
        while cast := taken(session, run):
            price = cast.values["price"]
            pages.save(
                session, QUOTE, shown(cast.values, price),
                test_id=test, run_id=run, cast_id=cast.id, step_id="demo11",
            )  # fmt: skip
            result = StepResult("demo11", 11, "Check the price", "passed", found=price)
            casts.keep_result(session, cast.id, cast.token, 1, result, [], [], {})
            casts.happen(session, run, Ended(cast.id, cast.token, "passed"))
    return run


def spots(client, test):
    told = client.get(f"/tests/{test}/blind-spots").json
    return told, [spot for page in told["pages"] for spot in page["spots"]]


def test_a_test_that_never_passed_tells_nothing_and_says_so(client, quotes):
    told, found = spots(client, quotes["id"])
    assert (told["run"], told["share"], found) == (0, None, [])


def test_what_no_check_looks_at_is_blind_until_its_check_is_added(client, quotes, database):
    run = play(client, database, quotes["id"])
    told, found = spots(client, quotes["id"])
    assert told["run"] == run
    blind = {spot["before"]: spot for spot in found if not spot["by"] and spot["kind"] == "text"}
    monday = blind["Firings leave on Monday"]
    assert not monday["depends"]
    assert monday["offer"]["sentence"].endswith("is “Firings leave on Monday”")
    assert monday["box"][1] > 0
    piece = next(one for before, one in blind.items() if before.startswith("For "))
    assert piece["depends"]
    assert piece["weight"] > monday["weight"]

    offer = monday["offer"]
    inputs = {"property": offer["property"], "comparison": "is", "expected": offer["expected"]}
    step = {"node": offer["node"], "action": "check", "inputs": inputs}
    answer = client.post(
        f"/saved-pages/{offer['page']}/steps",
        test=quotes["id"],
        after=offer["after"],
        steps=[step],
    )
    assert answer.status_code == 200, answer.json
    after = client.get(f"/tests/{quotes['id']}").json["steps"]
    assert [one["sentence"] for one in after].index(offer["sentence"]) == [
        one["id"] for one in after
    ].index(offer["after"]) + 1
    now, found = spots(client, quotes["id"])
    assert now["share"] > told["share"]
    assert all(one["by"] for one in found if one["before"] == monday["before"])


def test_the_figures_of_all_tests_are_made_bit_by_bit_and_kept(client, quotes, database, ids):
    play(client, database, quotes["id"])
    told = client.get("/blind-spots").json
    figures = {one["name"]: one for one in told["tests"]}
    assert figures["Book a firing"]["share"] is None
    assert 0 <= figures["Quotes by clay and cone"]["share"] < 1
    assert told["share"] == figures["Quotes by clay and cone"]["share"]
    assert told["left"] == 0
    assert client.get("/blind-spots").json == told


def test_a_check_goes_behind_what_is_there_and_a_gone_test_is_told(client):
    assert client.get("/tests/9999/blind-spots").status_code == 404
