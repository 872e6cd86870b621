"""Two plays side by side over the API."""

import io

from PIL import Image

from lantern.store.models import Cast, Result
from tests.api.test_verdicts import right, run


def shot(colour):
    kept = io.BytesIO()
    Image.new("RGB", (160, 100), colour).save(kept, "PNG")
    return kept.getvalue()


def casts_of(database, number):
    with database.session() as session:
        return [one.id for one in session.query(Cast).filter_by(run_id=number).order_by(Cast.id)]


def two_runs(client, quotes, database):
    green = run(client, database, quotes, right, rows="1-2", picture=shot("white"))
    bad = run(
        client, database, quotes, lambda v: v["price"] + "5", rows="1-2", picture=shot("black")
    )
    return casts_of(database, green), casts_of(database, bad)


def test_a_row_is_held_against_the_time_when_it_passed(client, quotes, database):
    green, bad = two_runs(client, quotes, database)
    offered = client.get(f"/casts/{bad[0]}/beside").json
    assert offered["plays"][0]["cast"] == green[0]
    assert offered["plays"][0]["outcome"] == "passed"
    assert bad[0] not in [one["cast"] for one in offered["plays"]]

    found = client.get(f"/casts/{bad[0]}/beside/{green[0]}").json
    assert found["first"] == 0
    [pair] = found["pairs"]
    assert [one["what"] for one in pair["differs"]] == ["outcome", "found", "time"]
    assert pair["differs"][1]["one"] == [pair["other"]["found"] + "5"]
    same = client.get(f"/casts/{green[0]}/beside/{green[0]}").json
    assert same["first"] is None


def results_of(database, casts):
    with database.session() as session:
        return [session.query(Result).filter_by(cast_id=cast).one().id for cast in casts]


def test_a_part_of_a_picture_that_may_differ_is_kept_and_taken_back(client, quotes, database):
    green, bad = two_runs(client, quotes, database)
    [one], [other] = results_of(database, green[:1]), results_of(database, bad[:1])
    found = client.get(f"/results/{one}/beside/{other}").json
    assert (found["share"], len(found["places"]), found["masks"]) == (1.0, 1, [])
    mask = client.post(f"/results/{other}/masks", box=[0, 0, 1, 1]).json
    again = client.get(f"/results/{one}/beside/{other}").json
    assert (again["share"], again["places"]) == (0.0, [])
    assert [part["id"] for part in again["masks"]] == [mask["id"]]
    assert client.delete(f"/masks/{mask['id']}").status_code == 200
    assert client.delete(f"/masks/{mask['id']}").status_code == 200
    assert client.get(f"/results/{one}/beside/{other}").json["share"] == 1.0


def test_what_differs_between_plays_that_passed_is_learned(client, quotes, database):
    green, bad = two_runs(client, quotes, database)
    run(client, database, quotes, right, rows="1-2", picture=shot("red"))
    run(client, database, quotes, right, rows="1-2", picture=shot("blue"))
    [one], [other] = results_of(database, green[:1]), results_of(database, bad[:1])
    found = client.get(f"/results/{one}/beside/{other}").json
    assert (found["learned"], found["share"]) == (True, 0.0)


def test_what_is_gone_or_no_part_is_told(client, quotes, database):
    green, _ = two_runs(client, quotes, database)
    assert client.get("/casts/99999/beside").status_code == 404
    assert client.get(f"/casts/{green[0]}/beside/99999").status_code == 404
    [one] = results_of(database, green[:1])
    assert client.get(f"/results/{one}/beside/99999").status_code == 404
    assert client.post(f"/results/{one}/masks", box=[0, 0, 2, 1]).status_code == 422
    assert client.post("/results/99999/masks", box=[0, 0, 1, 1]).status_code == 404
