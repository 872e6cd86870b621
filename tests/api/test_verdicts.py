"""Verdicts over the API: made once, put together by cause, corrected by people."""

import io
from dataclasses import replace
from types import SimpleNamespace

from PIL import Image

from lantern.core.engine.outcomes import StepResult
from lantern.core.runs.life import Ended
from lantern.core.steps.model import Document, Step
from lantern.store import casts, documents, judging, pictures, plan_runs, stations
from lantern.store.evidence import Story
from lantern.store.models import Cast, Environment, Judgement, Run
from lantern.store.pictures import digest_of
from lantern.store.rows import unpacked
from tests.api.casting import taken
from tests.api.conftest import Client
from tests.api.planning import QUOTES

CHECK = "Check that the text of Price is “€ 5.40”"


def play(database, run_id, found, late=None, picture=b"", most=99):
    """Carry `most` rows of a run of quotes out: each shows what `found` says of it."""
    with database.session() as session:
        stations.beat(session, "st1", name="kiln", address="ws://x", engines=["chromium"])
        shot = pictures.keep(session, picture) if picture else ""
        while most and (cast := taken(session, run_id)):
            most -= 1
            wanted, shown = cast.values["price"], found(cast.values)
            bad = shown != wanted
            result = StepResult(
                "demo11", 11, f"Check that the text of Price is “{wanted}”",
                "failed" if bad else "passed", "check differed" if bad else "",
                f"The text of “Price” was “{shown}” for 4 s" if bad else "",
                expected=wanted, found=shown, used=4.0 if bad else 0.1, limit=4.0,
                late=late or {}, picture=shot,
            )  # fmt: skip
            casts.keep_result(session, cast.id, cast.token, 1, result, [], [], {})
            casts.happen(session, run_id, Ended(cast.id, cast.token, "failed" if bad else "passed"))


def run(client, database, test, found, rows="all", **more):
    answer = client.post(f"/tests/{test['id']}/runs", rows=rows)
    assert answer.status_code == 200, answer.json
    number = answer.json["run"]["id"]
    play(database, number, found, **more)
    return number


def right(values):
    return values["price"]


def test_rows_that_fail_for_one_reason_are_one_cause_and_one_defect(client, quotes, database):
    run(client, database, quotes, right)
    bad = run(client, database, quotes, lambda values: values["price"] + "5")
    found = client.get(f"/runs/{bad}/causes").json
    assert (found["failed"], found["left"], len(found["causes"])) == (7, 0, 1)
    (cause,) = found["causes"]
    assert (cause["kind"], len(cause["failures"]), cause["defect"]) == ("product", 7, None)
    assert cause["verdict"]["act"] == "raise defect"
    assert cause["verdict"]["green"] == bad - 1
    assert cause["failures"][0]["place"] == 11

    first, *others = (one["result"] for one in cause["failures"])
    fields = {"title": "Prices are off", "severity": "major", "steps": "", "expected": "",
              "found": ""}  # fmt: skip
    raised = client.post("/defects", result_id=first, also=others, **fields).json
    assert len(raised["sightings"]) == 7
    (again,) = client.get(f"/runs/{bad}/causes").json["causes"]
    assert again["defect"] == raised["defect"]["id"]


def test_a_row_with_a_wrong_value_stands_apart(client, quotes, database):
    run(client, database, quotes, right)
    rows = quotes["rows"]
    cells = [{"row": rows[0]["id"], "column": "price", "value": "€ 9.99"}]
    client.edit(quotes, do="set cells", cells=cells)
    shows = {one["values"]["piece"] + one["values"]["clay"]: one["values"]["price"] for one in rows}

    def shown(values):
        price = shows[values["piece"] + values["clay"]]
        return price if values["price"] == "€ 9.99" else price + "5"

    bad = run(client, database, quotes, shown)
    causes = client.get(f"/runs/{bad}/causes").json["causes"]
    assert [(one["kind"], len(one["failures"])) for one in causes] == [("product", 6), ("data", 1)]
    assert causes[1]["verdict"]["given"] == {"column": "price"}


def test_of_many_that_fail_alike_a_few_are_looked_at_and_all_are_counted(
    client, quotes, database, monkeypatch
):
    monkeypatch.setattr(judging, "EACH", 3)
    run(client, database, quotes, right)
    bad = run(client, database, quotes, lambda values: values["price"] + "5")
    found = client.get(f"/runs/{bad}/causes").json
    (cause,) = found["causes"]
    assert (found["failed"], found["left"], cause["count"]) == (7, 0, 7)
    with database.session() as session:
        assert session.query(Judgement).count() == 3


def test_what_came_late_is_timing(client, quotes, database):
    run(client, database, quotes, right)
    late = {"waited": 1.2, "pending": ["POST http://desk/quote"], "busy": False, "came": True}
    bad = run(client, database, quotes, lambda _: "", rows="1", late=late)
    (cause,) = client.get(f"/runs/{bad}/causes").json["causes"]
    assert (cause["kind"], cause["verdict"]["act"]) == ("timing", "raise limit")
    assert "1.2 s after the limit" in cause["verdict"]["signs"][0]["told"]


def test_what_a_person_says_holds_for_the_cause_is_counted_and_learned(client, quotes, database):
    run(client, database, quotes, right)
    bad = run(client, database, quotes, lambda values: values["price"] + "5")
    (cause,) = client.get(f"/runs/{bad}/causes").json["causes"]
    result = cause["failures"][3]["result"]
    said = client.post(f"/results/{result}/verdict", kind="environment", word="The till was old.")
    assert said.json["verdict"] == "product"
    assert said.json["said"]["kind"] == "environment"
    assert said.json["said"]["author"] == "Odo Fennick"
    found = client.get(f"/runs/{bad}/causes").json
    assert [one["kind"] for one in found["causes"]] == ["environment"]
    assert found["corrected"] == 1

    report = client.get(f"/runs/{bad}/report.html").text
    assert "<strong>environment</strong> says Odo Fennick: “The till was old.”" in report
    assert "7 failures" in report

    # It is looked at when such a failure comes again; and it can be taken back.
    later = run(client, database, quotes, lambda values: values["price"] + "9")
    (next_time,) = client.get(f"/runs/{later}/causes").json["causes"]
    told = [one["told"] for one in next_time["verdict"]["signs"]]
    assert "People called failures like it environment once." in told
    assert client.delete(f"/corrections/{said.json['said']['id']}").status_code == 200
    assert [one["kind"] for one in client.get(f"/runs/{bad}/causes").json["causes"]] == ["product"]
    gone = client.delete(f"/corrections/{said.json['said']['id']}")
    assert gone.status_code == 404
    assert "taken back already" in gone.json["message"]


def test_a_secret_in_what_a_person_says_is_masked(client, quotes, database):
    bad = run(client, database, quotes, lambda values: values["price"] + "5")
    (cause,) = client.get(f"/runs/{bad}/causes").json["causes"]
    result = cause["failures"][0]["result"]
    said = client.post(f"/results/{result}/verdict", kind="data", word="wheel-and-kiln is old.")
    assert said.json["said"]["word"] == "•••••• is old."
    assert "wheel-and-kiln" not in client.get(f"/runs/{bad}/report.html").text


def test_only_what_failed_is_judged_and_only_known_kinds_are_said(client, quotes, database):
    green = run(client, database, quotes, right, rows="1")
    with database.session() as session:
        cast = session.query(Cast).filter_by(run_id=green).one()
        passed = casts.results(session, cast.id)[0].id
    assert client.get(f"/results/{passed}/verdict").status_code == 422
    assert client.get("/results/999999/verdict").status_code == 404
    assert client.get(f"/runs/{green}/causes").json["causes"] == []
    bad = run(client, database, quotes, lambda _: "€ 1.00", rows="1")
    result = client.get(f"/runs/{bad}/causes").json["causes"][0]["failures"][0]["result"]
    assert client.post(f"/results/{result}/verdict", kind="gremlins").status_code == 422


def test_a_viewer_sees_verdicts_and_says_nothing(app, client, quotes, database):
    bad = run(client, database, quotes, lambda _: "€ 1.00", rows="1")
    viewer = Client(app, "pia")
    (cause,) = viewer.get(f"/runs/{bad}/causes").json["causes"]
    result = cause["failures"][0]["result"]
    assert viewer.post(f"/results/{result}/verdict", kind="data").status_code == 403


def test_causes_go_across_the_tests_of_a_plan_and_a_long_run_is_judged_bit_by_bit(
    client, quotes, database, make
):
    plan = make(tests=(QUOTES,))["id"]
    number = client.post(f"/plans/{plan}/runs").json["run"]["id"]
    with database.session() as session:
        run_id = session.query(Run.id).filter_by(plan_run_id=number).scalar()
    for _ in range(7):  # a plan has a few of its rows offered at a time
        play(database, run_id, lambda values: values["price"] + "5")
        with database.session() as session:
            plan_runs.go_on(session, number)
    with database.session() as session:
        assert judging.review(session, [run_id], number, most=3).left == 4
    found = client.get(f"/plan-runs/{number}/causes").json
    assert found["left"] == 0
    assert "Whose fault" in client.get(f"/plan-runs/{number}/report.html").text
    assert found["failed"] == 7
    assert {one["run"] for one in found["causes"][0]["failures"]} == {run_id}


def detail(client, run_id):
    run = client.get(f"/runs/{run_id}").json
    return client.get(f"/casts/{run['casts'][0]['id']}/results").json["results"][0]


def test_a_failed_check_says_in_what_it_differs_and_what_came_later(client, quotes, database):
    late = {"waited": 1.2, "pending": ["POST http://desk/quote"], "busy": False, "came": False}
    bad = run(client, database, quotes, lambda _: "€ 5.45", rows="1", late=late)
    shown = detail(client, bad)
    assert shown["difference"]["told"] == "€ 5.45 is € 0.05 more."
    assert [one["text"] for one in shown["difference"]["found"] if not one["same"]] == ["5"]
    assert shown["late"] == "The page was still waiting for POST http://desk/quote."
    green = run(client, database, quotes, right, rows="1")
    assert detail(client, green)["difference"] is None


def test_pictures_from_before_are_those_of_the_last_time_that_it_passed(client, quotes, database):
    run(client, database, quotes, right, rows="1", picture=b"\xff\xd8 first")
    green = run(client, database, quotes, right, rows="1-2", picture=b"\xff\xd8 second")
    bad = run(client, database, quotes, lambda _: "", rows="1", picture=b"\xff\xd8 third")
    found = client.get(f"/results/{detail(client, bad)['id']}/then").json["pictures"]
    assert [(one["run"], one["picture"]) for one in found] == [
        (green, digest_of(b"\xff\xd8 second"))
    ]
    assert client.get("/results/999999/then").status_code == 404


def test_a_cause_tells_all_that_was_changed_since_it_passed(client, quotes, database):
    green = run(client, database, quotes, right, rows="1")
    cells = [{"row": quotes["rows"][0]["id"], "column": "price", "value": "€ 9.99"}]
    client.edit(quotes, do="set cells", cells=cells)
    bad = run(client, database, quotes, lambda _: "€ 5.40", rows="1")
    (cause,) = client.get(f"/runs/{bad}/causes").json["causes"]
    assert cause["verdict"]["green"] == green
    assert cause["verdict"]["changed"] == ["The row's price was “€ 5.40” and is “€ 9.99”."]


def test_a_row_that_never_passed_is_not_held_against_the_values_of_another(
    client, quotes, database
):
    run(client, database, quotes, right, rows="1")
    bad = run(client, database, quotes, lambda _: "€ 1.00", rows="5")
    (cause,) = client.get(f"/runs/{bad}/causes").json["causes"]
    assert cause["kind"] == "not clear"
    assert cause["verdict"]["changed"] == []


def begun(client, test, **more):
    answer = client.post(f"/tests/{test['id']}/runs", rows="all", **more)
    assert answer.status_code == 200, answer.json
    return answer.json["run"]["id"]


def signs(client, run_id):
    (cause,) = client.get(f"/runs/{run_id}/causes").json["causes"]
    return [one["told"] for one in cause["verdict"]["signs"]]


def test_a_verdict_made_while_others_play_is_made_again_when_all_is_known(client, quotes, database):
    number = begun(client, quotes)
    play(database, number, lambda _: "€ 1.00", most=1)
    assert "6 other rows of this run passed here." not in signs(client, number)
    play(database, number, right)
    assert "6 other rows of this run passed here." in signs(client, number)


def test_what_a_person_said_while_others_played_stays(client, quotes, database):
    number = begun(client, quotes)
    play(database, number, lambda _: "€ 1.00", most=1)
    (cause,) = client.get(f"/runs/{number}/causes").json["causes"]
    client.post(f"/results/{cause['failures'][0]['result']}/verdict", kind="timing")
    play(database, number, right)
    (cause,) = client.get(f"/runs/{number}/causes").json["causes"]
    assert cause["kind"] == "timing"
    assert cause["verdict"]["said"]["kind"] == "timing"


def test_a_failure_is_held_against_what_passed_before_it_in_its_own_environment(
    client, quotes, database
):
    with database.session() as session:
        other = Environment(name="Rehearsal desk", address="http://rehearsal.emberhall.example")
        session.add(other)
        session.flush()
        elsewhere = other.id
    here = run(client, database, quotes, right, rows="1")
    there = begun(client, quotes, environment=elsewhere)
    play(database, there, right)
    bad = run(client, database, quotes, lambda _: "€ 1.00", rows="1")
    run(client, database, quotes, right, rows="1")  # it was mended since
    (cause,) = client.get(f"/runs/{bad}/causes").json["causes"]
    assert cause["verdict"]["green"] == here
    assert cause["verdict"]["changed"] == []
    off = begun(client, quotes, environment=elsewhere)
    play(database, off, lambda _: "€ 1.00", most=1)
    (cause,) = client.get(f"/runs/{off}/causes").json["causes"]
    assert cause["verdict"]["green"] == there


def test_what_sentences_of_a_flow_are_given_is_spelled_out_by_who_calls_it():
    call = Step("c", "flow", inputs={"piece": "${row.piece}"}, flow="7")
    inner = Step("d", "flow", inputs={"word": "${input.piece}!"}, flow="8")
    typed = Step("t", "type", "e", {"text": "${input.word} ${input.none}"})
    body = Document((call,)).as_json()
    flows = {
        "7": {"name": "Fill in", "body": Document((inner,)).as_json()},
        "8": {"name": "Type", "body": Document((typed,)).as_json()},
    }
    story = Story.of(SimpleNamespace(body=body, flows=flows))
    assert story.given["t"]["text"] == "${row.piece}! ${input.none}"
    assert set(story.steps) == {"c", "d", "t"}


def test_the_recorded_picture_is_told_with_the_place_of_the_thing(client, quotes, database):
    image = io.BytesIO()
    Image.new("RGB", (200, 100)).save(image, "JPEG")
    with database.session() as session:
        digest = pictures.keep(session, image.getvalue())
        test = documents.get(session, quotes["id"], lock=True)
        document = unpacked(test)
        steps = tuple(
            replace(one, picture=digest, box=(0.5, 0.2, 0.1, 0.1)) if one.id == "demo11" else one
            for one in document.steps
        )
        documents.put(session, test, replace(document, steps=steps), "recorded", None)
    bad = run(client, database, quotes, lambda _: "", rows="1")
    found = client.get(f"/results/{detail(client, bad)['id']}/then").json["pictures"]
    box = {"x": 100, "y": 20, "width": 20, "height": 10}
    assert found == [{"run": 0, "picture": digest, "box": box}]
