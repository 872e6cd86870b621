"""Stations and access tokens, through the pages."""

import urllib.request

from selenium.webdriver.common.keys import Keys

from lantern.core.steps.model import Step
from lantern.store import stations
from tests.ui.pages import until
from tests.ui.rehearsals import make


def station_of(stack):
    with stack.database.session() as session:
        return stations.alive(session)[0].id


def mode(stack, key):
    with stack.database.session() as session:
        return stations.get(session, key).mode


def test_a_station_is_paused_labelled_and_drained_and_what_needs_it_waits(lantern, other):
    stack = lantern.stack
    key = station_of(stack)
    test = make(stack, "Played in the lab", Step("o", "open", inputs={"address": "/sign-in"}))
    lantern.sign_in()
    other.go("/stations")
    other.press_one(f"[data-station='{key}'] a")
    other.press("Pause")
    try:
        until(lambda: other.one("[data-role=station-state]").text == "paused", "it is paused")
        lantern.go(f"/tests/{test}")
        lantern.press("Limits")
        needs = lantern.fill("[aria-label='Labels that a station must have']", "near the lab")
        needs.send_keys(Keys.TAB)
        lantern.one("[data-role=stage], [aria-label=Stage]")
        until(lambda: lantern.one("[data-role=run]").is_enabled(), "it can be run")
        lantern.press("Run")
        run = until(
            lambda: next((a for a in lantern.all("a") if a.text.startswith("Open run ")), None),
            "its run",
        )
        run.click()
        until(
            lambda: "labelled near the lab" in lantern.one("[data-role=waits-for]").text,
            "what it waits for",
        )
        other.press("Work")
        until(lambda: other.one("[data-role=station-state]").text == "up", "it works again")
        assert lantern.one("[data-role=run-state]").text == "queued"
        labels = other.fill("[aria-label='Labels of the station']", "Near the lab, with VPN")
        labels.send_keys(Keys.TAB)
        until(lambda: lantern.one("[data-role=run-state]").text == "passed", "it was played", 60)

        # Drained: it opens no stage any more, and says when there is nothing left to end.
        other.press("Drain")
        until(lambda: other.one("[data-role=station-state]").text == "drained", "it is drained")
    finally:
        with stack.database.session() as session:
            stations.change(session, key, mode="works", labels=[])
    assert mode(stack, key) == "works"


def test_a_token_is_made_used_and_taken_back(lantern):
    lantern.sign_in()
    lantern.go("/")
    lantern.one("header button[aria-haspopup=menu]").click()
    lantern.press("Access tokens")
    lantern.fill("[name=token-name]", "Pipeline")
    lantern.press("Make one")
    token = lantern.one("[data-role=made-token] code").text

    def asked():
        request = urllib.request.Request(f"{lantern.stack.address}/api/plans")
        request.add_header("Authorization", f"Bearer {token}")
        try:
            with urllib.request.urlopen(request, timeout=10) as answer:
                return answer.status
        except urllib.error.HTTPError as error:
            return error.code

    assert asked() == 200
    lantern.press("Take back Pipeline")
    until(lambda: not lantern.all("[data-role=token]"), "none is left")
    assert asked() == 401
