"""Reports: of a run, mailed with what was commented, or printed; of trends, on order."""

import base64
import json
import urllib.request

import pytest
from selenium.webdriver.common.keys import Keys
from sqlalchemy import delete, select, text

from lantern.store import commenting, models
from tests.past import past
from tests.ui.pages import until

READ = """
const done = arguments[arguments.length - 1]
fetch(arguments[0]).then((answer) => answer.arrayBuffer()).then((content) => {
  done(btoa(String.fromCharCode(...new Uint8Array(content).slice(0, 8))))
})
"""


@pytest.fixture
def run(lantern):
    """A run that failed in its first row, and what Wren said of it."""
    stack = lantern.stack
    with stack.database.session() as session:
        test = session.scalar(select(models.Test.id).filter_by(name="Book a firing"))
    keys = past(stack.database, test, "pf")
    with stack.database.session() as session:
        wren = session.scalar(select(models.Account.id).filter_by(username="wren"))
        commenting.add(session, "run", keys[-1], "The till was of last year", wren, looked=True)
    yield keys[-1]
    with stack.database.session() as session:
        session.execute(delete(models.Run).filter(models.Run.id.in_(keys)))


def mails(stack):
    with urllib.request.urlopen(f"{stack.mails_address}/mails.json", timeout=5) as answer:
        return json.load(answer)["mails"]


def add_somebody(lantern, name):
    lantern.fill("[data-role=chosen-people] input", name)
    until(lambda: len(lantern.all("[role=option]")) == 1, "nobody else on the list")
    lantern.one("[data-role=chosen-people] input").send_keys(Keys.ENTER)
    until(lambda: lantern.all(f"[aria-label^='Not to {name}']"), "the person added")


def test_a_report_is_mailed_with_what_was_commented_and_printed(lantern, run):
    lantern.sign_in()
    lantern.go(f"/runs/{run}")
    lantern.press("Report…")
    lantern.press_one("fieldset label", "Short")
    lantern.select("select[name=form]", "Word processor (DOCX)")
    lantern.select("select[name=form]", "HTML, one file")
    add_somebody(lantern, "Pia Marlow")
    lantern.fill("textarea[name=word]", "Before noon, please")
    lantern.press("Mail it")
    lantern.sees("The report goes out to one person.")

    def arrived():
        return [one for one in mails(lantern.stack) if "Book a firing: failed" in one["subject"]]

    mail = until(arrived, "the mail")[0]
    assert mail["to"] == ["pia@emberhall.example"]
    assert "Before noon, please" in mail["text"]
    assert f"run-{run}.html" in mail["text"]

    # The same as a PDF, by the station that is there.
    path = f"/api/runs/{run}/report.pdf?template=full"
    lantern.driver.set_script_timeout(100)
    begin = base64.b64decode(lantern.driver.execute_async_script(READ, path))
    assert begin.startswith(b"%PDF-")


def test_a_lead_orders_a_report_of_trends(lantern):
    lantern.sign_in("wren")
    lantern.go("/settings")
    lantern.press("Order a report")
    lantern.fill("input[name=order-name]", "Monday's figures")
    lantern.select("select[name=order-what]", "trends")
    add_somebody(lantern, "Odo Fennick")
    lantern.select("[aria-label='How often']", "every day")
    lantern.press_one("[data-role=schedule-form] button.button-main")
    line = until(lambda: lantern.all("[data-order]"), "the order")[0]
    assert "trends of 7 days, For managers, as HTML, one file, to Odo Fennick" in line.text
    with lantern.stack.database.session() as session:
        session.execute(text("UPDATE report_orders SET next_at = now()"))

    def arrived():
        return [one for one in mails(lantern.stack) if "on order for you" in one["text"]]

    assert until(arrived, "the mail")[0]["to"] == ["odo@emberhall.example"]
    lantern.press_one("[data-order] button", "Delete")
    until(lambda: not lantern.all("[data-order]"), "no order any more")
