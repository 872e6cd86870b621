"""Telling people and programs of runs, through the pages: mails, webhooks, who owns what."""

import json
import urllib.parse
import urllib.request

import pytest
from selenium.webdriver.common.keys import Keys

from tests.ui.pages import until
from tests.ui.rehearsals import SIGN_IN, make, step


def mails(stack):
    """What the demo's mail server has taken, newest first."""
    with urllib.request.urlopen(f"{stack.mails_address}/mails.json", timeout=5) as answer:
        return json.load(answer)["mails"]


@pytest.fixture
def refuse(stack):
    """Let the demo's mail server refuse mails; it takes them again afterwards."""

    def put(answer):
        data = urllib.parse.urlencode({"answer": answer}).encode()
        urllib.request.urlopen(f"{stack.mails_address}/refusal", data=data, timeout=5).close()

    yield put
    put("")


def a_plan(lantern, name, test):
    lantern.go("/plans")
    lantern.press("New plan")
    lantern.fill("[name=name]", name)
    lantern.press("Make it")
    lantern.one("[data-role=outlook]")
    choose(lantern, "Test to add", test)
    until(lambda: "1 cast" in lantern.one("[data-role=outlook]").text, "what it comes to")


def choose(lantern, label, name):
    """Choose one of a list by letters of its name."""
    lantern.fill(f"[aria-label='{label}']", name)
    lantern.press_one("[role=option]", name)


def tick(lantern, who, when):
    box = f"[aria-label='{who}: {when}']"
    lantern.one(box).click()
    until(lambda: lantern.one(box).is_selected(), f"{who} is told {when}")


def test_a_failure_is_mailed_to_whom_it_concerns_and_shown_in_the_post_room(lantern, refuse):
    stack = lantern.stack
    wrong = step("c", "check", "piece", property="value", comparison="is", expected="Vase")
    test = make(stack, "Wrong on purpose", *SIGN_IN, step("q", "type", "piece", text="Bowl"), wrong)
    lantern.sign_in("wren")
    # The test is given to somebody, and the plan says who is told.
    lantern.go(f"/tests/{test}")
    lantern.press("Limits")
    choose(lantern, "Owner of the test", "Odo Fennick")
    until(
        lambda: (
            lantern.one("[aria-label='Owner of the test']").get_attribute("value") == "Odo Fennick"
        ),
        "its owner",
    )
    a_plan(lantern, "Told by mail", "Wrong on purpose")
    tick(lantern, "Owners of its tests", "when it fails")
    choose(lantern, "Add a person", "Pia Marlow")
    until(
        lambda: lantern.one("[aria-label='Pia Marlow: when it fails']").is_selected(), "she is on"
    )
    lantern.one("[aria-label='Pia Marlow: when it fails']").click()
    tick(lantern, "Pia Marlow", "in one mail a day")
    refuse("451 Try it later")
    lantern.one("[data-role=start]").click()
    until(lambda: lantern.one("[data-role=plan-state]").text == "failed", "its verdict", 120)
    until(lambda: "not taken yet" in lantern.one("[data-role=mails]").text, "it is tried again", 20)
    assert "You own “Wrong on purpose”." in lantern.one("[data-role=mails]").text
    # What was not taken is sent once more by hand.
    refuse("")
    lantern.go("/settings")
    log = "[data-role=mail] [data-role=sent-log]"
    until(lambda: "451 Try it later" in lantern.one(log).text, "why it was not taken")
    assert "the mail of the day" in lantern.one(log).text
    message = next(one for one in lantern.all(f"{log} li") if "Odo Fennick" in one.text)
    message.find_element("tag name", "button").click()
    until(lambda: any("Told by mail" in one["subject"] for one in mails(stack)), "the mail", 20)
    mail = next(one for one in mails(stack) if "Told by mail" in one["subject"])
    assert mail["to"] == ["odo@emberhall.example"]
    assert mail["pictures"] == 1
    assert f"{stack.address}/plan-runs/" in mail["text"]
    assert "Vase" in mail["html"]
    until(lambda: "sent" in lantern.one(log).text, "the log says so")


def test_a_mail_server_is_set_tried_out_and_its_password_stays_hidden(lantern):
    stack = lantern.stack
    lantern.sign_in("wren")
    lantern.go("/settings")
    lantern.press("Send me a mail on trial")
    until(
        lambda: any(one["to"] == ["wren@emberhall.example"] for one in mails(stack)), "it came", 20
    )
    lantern.fill("[name=mail-sender]", "nobody at all")
    lantern.press_one("[data-role=mail] button", "Save")
    assert not lantern.one("[name=mail-sender]").get_property("validity")["valid"]
    lantern.press("Leave as it was")
    assert lantern.one("[name=mail-sender]").get_attribute("value") == "lantern@emberhall.example"


def test_a_webhook_is_made_changed_switched_off_and_its_log_read(lantern):
    stack = lantern.stack
    make(stack, "Told to programs", *SIGN_IN)
    lantern.sign_in("wren")
    lantern.go("/settings")
    lantern.press("Add a webhook")
    lantern.fill("[name=hook-name]", "Release pipeline")
    lantern.fill("[name=hook-address]", f"{stack.mails_address}/nobody-takes-it")
    lantern.fill("[name=hook-secret]", "short")
    lantern.press_one("[data-role=hooks] button", "Save")
    until(lambda: "8 to 200 characters" in lantern.one("[data-role=hooks]").text, "why not")
    lantern.fill("[name=hook-secret]", "a secret between us")
    lantern.press_one("[data-role=hooks] button", "Save")
    until(lambda: "Release pipeline" in lantern.one("[data-role=hooks] ul").text, "it is there")
    a_plan(lantern, "Told to programs", "Told to programs")
    lantern.one("[data-role=start]").click()
    until(lambda: lantern.one("[data-role=plan-state]").text == "passed", "its verdict", 120)
    lantern.go("/settings")
    until(lambda: "was not taken" in lantern.one("[data-role=hooks]").text, "it is refused", 20)
    lantern.press_one("[data-role=hooks] button", "Log")
    until(lambda: "404" in lantern.one("[data-role=hooks] [data-role=sent-log]").text, "the answer")
    lantern.one("[aria-label='Switch on Release pipeline']").click()
    until(
        lambda: not lantern.one("[aria-label='Switch on Release pipeline']").is_selected(),
        "it is off",
    )
    lantern.one("[aria-label='Delete Release pipeline']").click()
    until(lambda: "None yet" in lantern.one("[data-role=hooks]").text, "it is gone")


def test_people_say_their_own_address_and_leads_that_of_all(lantern):
    lantern.sign_in("odo")
    lantern.press("Odo Fennick")
    lantern.press("Mail address")
    lantern.fill("[name=email]", "odo@kilns.example")
    lantern.press("Save")
    lantern.sees("Mails go to odo@kilns.example")
    lantern.sign_in("wren")
    lantern.go("/settings")
    field = "[aria-label='Mail address of Odo Fennick']"
    assert lantern.one(field).get_attribute("value") == "odo@kilns.example"
    lantern.fill(field, "odo@emberhall.example").send_keys(Keys.ENTER)
    lantern.sees("Mails to Odo Fennick go there")
