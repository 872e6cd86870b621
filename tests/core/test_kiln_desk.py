"""The rules of the sample application, and its releases."""

from dataclasses import replace
from datetime import date
from decimal import Decimal

import pytest

from lantern.demo.desk.app import create_app
from lantern.demo.desk.rules import Ask, price, refusals

TUESDAY = date(2026, 11, 24)
MONDAY = date(2026, 11, 30)
SHELF = "Medium (9 litres)"
bowl = Ask("Bowl", "Stoneware", "6", "Clear", 12, SHELF, TUESDAY, rush=False)


@pytest.mark.parametrize(
    ("ask", "tier", "euros"),
    [
        (bowl, "guest", "23.75"),
        (bowl, "member", "21.40"),
        (bowl, "resident", "19.00"),
        (replace(bowl, count=1), "guest", "6.00"),
        (replace(bowl, count=1, rush=True), "guest", "7.80"),
        (replace(bowl, clay="Porcelain"), "guest", "29.70"),
        (replace(bowl, shelf="Large (16 litres)", cone="10"), "guest", "57.60"),
    ],
)
def test_prices(ask, tier, euros):
    assert price(ask, tier) == Decimal(euros)


def test_prices_are_multiples_of_five_cents():
    for count in range(1, 25):
        assert price(replace(bowl, count=count), "member") % Decimal("0.05") == 0


@pytest.mark.parametrize(
    ("change", "reason"),
    [
        ({"clay": "Porcelain", "cone": "04"}, "Porcelain is fired at cone 6"),
        ({"clay": "Raku", "rush": True}, "Raku can not be rushed"),
        ({"count": 25}, "A shelf holds 1 to 24"),
        ({"count": 0}, "A shelf holds 1 to 24"),
        ({"drop_off": date(2026, 11, 1)}, "has passed"),
        ({"drop_off": MONDAY}, "closed on Mondays"),
        ({"piece": " "}, "no name"),
    ],
)
def test_refusals_give_their_reason(change, reason):
    assert reason in " ".join(refusals(replace(bowl, **change), TUESDAY))
    assert refusals(bowl, TUESDAY) == []


def signed_in(release):
    client = create_app(release).test_client()
    client.post("/sign-in", data={"member": "mara", "password": "wheel-and-kiln"})
    return client


def quote(client, **more):
    form = {
        "piece": "Bowl", "clay": "Stoneware", "cone": "6", "glaze": "Clear", "count": "15",
        "shelf": SHELF, "drop_off": "2999-01-01", "rush": "on",
    }  # fmt: skip
    return client.post(more.pop("to", "/quote"), data=form | more, follow_redirects=True).text


def test_the_releases_differ_as_they_should():
    spring, summer, autumn = (quote(signed_in(name)) for name in ("spring", "summer", "autumn"))
    assert 'id="price"' in spring
    assert 'id="price"' not in summer
    assert "€ 34.75" in spring
    assert "€ 34.75" in summer  # the same behaviour under another markup
    assert "€ 34.75" not in autumn  # the rush supplement is forgotten


def test_autumn_loses_a_row_and_a_message():
    for release, there in (("spring", True), ("autumn", False)):
        client = signed_in(release)
        assert ("<td>Bowl</td>" in quote(client, to="/book")) is there
        page = client.post("/board/1/delete", follow_redirects=True).text
        assert ("was deleted" in page) is there


def test_one_call_puts_everything_back():
    client = signed_in("spring")
    client.post("/board/1/delete")
    assert client.post("/reset", data={"release": "summer"}).json["firings"] == 4
    assert client.get("/health").json["release"] == "summer"
    assert client.post("/reset", data={"release": "winter"}).status_code == 422


def test_who_is_not_signed_in_sees_only_the_sign_in():
    client = create_app().test_client()
    assert client.get("/board").headers["Location"] == "/sign-in"
    for data, words in [
        ({}, "enter your member name"),
        ({"member": "nobody"}, "We know no member"),
        ({"member": "mara", "password": "x"}, "not right"),
    ]:
        assert words in client.post("/sign-in", data=data).text


def test_single_faults_can_be_switched():
    client = signed_in("spring")
    client.post("/releases", data={"fault": "price"})
    assert "€ 34.75" not in quote(client)
