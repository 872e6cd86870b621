"""Blind spots over the API: told on kept pages, a check added from one, figures of all tests."""

from lantern.core.data.table import Row
from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Box, Facts
from lantern.core.engine.outcomes import StepResult
from lantern.core.runs.life import Ended
from lantern.core.steps.model import Document, Step, Taken
from lantern.demo.data import QUOTE
from lantern.store import blindspots, casts, elements, pages, stations, tests
from lantern.store.models import BlindShare, Environment
from lantern.store.models import Test as Kept
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


PRICE = Element("bs-price", "Price", "text", (Clue("role", "is", "status"),))
FOR = Element("bs-for", "For", "text", (Clue("path", "is", "main > p:nth-of-type(3)"),))


def check(key, element, expected):
    inputs = {"property": "text", "comparison": "is", "expected": expected}
    return Step(key, "check", element, inputs, page=QUOTE)


def through_flows(database):
    """A test that hands a column on through two flows, and keeps a value on the way."""
    inner = Document((check("in", "bs-for", "For ${input.what}"),), takes=(Taken("what"),))
    with database.session() as session:
        for one in (PRICE, FOR):
            elements.save(session, one)
        place = session.query(Environment).first().id
        deepest = tests.create(session, "Deep", place, None, inner, kind="flow").id
        call = Step("mid", "flow", flow=str(deepest), inputs={"what": "${input.piece}"})
        outer = Document((call,), takes=(Taken("piece"),))
        middle = tests.create(session, "Middle", place, None, outer, kind="flow").id
        steps = (
            Step("k", "keep", "bs-price", {"property": "text", "name": "price"}, page=QUOTE),
            Step("c", "flow", flow=str(middle), inputs={"piece": "${row.piece}"}),
            check("p", "bs-price", "${kept.price}"),
        )
        rows = tuple(Row(f"r{n}", {"piece": p, "price": "€ 5"}) for n, p in enumerate("ab"))
        made = Document(steps, ("piece", "price"), rows)
        return tests.create(session, "Through flows", place, None, made).id


def play_through(client, database, test):
    run = client.post(f"/tests/{test}/runs", rows="all").json["run"]["id"]
    with database.session() as session:
        stations.beat(session, "st1", name="kiln", address="ws://x", engines=["chromium"])
        while cast := taken(session, run):
            nodes = shown(cast.values, cast.values["price"])
            pages.save(
                session, QUOTE, nodes, test_id=test, run_id=run, cast_id=cast.id, step_id="k"
            )
            for place, (key, found) in enumerate(
                [("k", "€ 5"), ("in", f"For {cast.values['piece']}"), ("p", "€ 5")], 1
            ):
                result = StepResult(key, place, "Look", "passed", found=found)
                kept = {"price": "€ 5"} if key == "k" else {}
                casts.keep_result(session, cast.id, cast.token, place, result, [], [], {})
                if kept:
                    cast.kept = kept
            casts.happen(session, run, Ended(cast.id, cast.token, "passed"))
    return run


def test_what_is_handed_on_through_flows_is_spelled_out(client, database):
    test = through_flows(database)
    play_through(client, database, test)
    told, found = spots(client, test)
    assert told["untried"] == []
    piece = next(one for one in found if one["before"] == "For a")
    assert (piece["step"], piece["depends"]) == ("in", True)
    # The price is held against what was kept of it a moment before: the same again.
    assert not next(one for one in found if one["before"] == "€ 5")["by"]


def test_a_check_for_what_a_flow_shows_goes_behind_its_call(client, database):
    test = through_flows(database)
    play_through(client, database, test)
    _, found = spots(client, test)
    assert {one["offer"]["after"] for one in found if one["offer"]} == {"p"}


def test_two_who_look_at_once_both_get_their_answer(client, quotes, database):
    play(client, database, quotes["id"])
    with database.session() as one, database.session() as other:
        first = blindspots.of_test(one, one.get_one(Kept, quotes["id"]))
        one.commit()
        second = blindspots.of_test(other, other.get_one(Kept, quotes["id"]))
        assert first.look.share == second.look.share
    with database.session() as session:
        assert session.query(BlindShare).count() == 1


def test_a_newer_run_without_pages_is_not_waited_for_for_ever(client, quotes, database):
    """As where pictures are kept of failures only: what is known is of the run before."""
    play(client, database, quotes["id"])
    bare = client.post(f"/tests/{quotes['id']}/runs", rows="1").json["run"]["id"]
    with database.session() as session:
        cast = taken(session, bare)
        casts.happen(session, bare, Ended(cast.id, cast.token, "passed"))
    with database.session() as session:
        _, left = blindspots.shares(session, 1)
        assert left == 0
        looked, left = blindspots.shares(session, 0)
        assert left == 0, "nothing is to be looked at anew"
        assert [share is not None for test, share in looked if test.id == quotes["id"]] == [True]


def test_a_change_of_the_test_is_looked_at_anew_some_at_a_time(client, quotes, database):
    play(client, database, quotes["id"])
    client.get("/blind-spots")
    assert client.edit(quotes, do="set labels", add=["nightly"]).status_code == 200
    with database.session() as session:
        assert blindspots.shares(session, 0)[1] == 1
        assert blindspots.shares(session, 1)[1] == 0
        assert blindspots.shares(session, 0)[1] == 0
