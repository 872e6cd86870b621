"""The exported script of the demo's test, run by pytest outside Lantern."""

import os
import subprocess
import sys
from dataclasses import replace

import pytest

from lantern.core.steps.model import Step
from lantern.demo.data import ELEMENTS, booking_test, quote_test
from lantern.demo.desk.state import ACCOUNTS
from lantern.exchange.script.writing import Source, write
from tests.station.desk import DeskServer


@pytest.fixture
def desk():
    server = DeskServer()
    yield server
    server.stop()


def run(folder, name, document, base):
    """Write a script into a folder, run it by pytest there; returns the process."""
    used = {key: ELEMENTS[key] for key in document.element_ids()}
    (folder / "test_script.py").write_text(write(Source(name, document, used, {}, base)))
    passwords = {f"{key.upper()}_PASSWORD": one.password for key, one in ACCOUNTS.items()}
    env = {"PATH": os.environ["PATH"], "HOME": str(folder), "BASE_URL": base, **passwords}
    command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "test_script.py"]
    return subprocess.run(command, cwd=folder, env=env, capture_output=True, text=True)


def test_the_scripts_of_the_demo_pass_and_fail_as_its_tests_do(desk, tmp_path):
    """Six rows are right; the seventh expects a price that is wrong, and says so."""
    done = run(tmp_path, "Quotes by clay and cone", quote_test(), desk.address)
    assert "1 failed, 6 passed" in done.stdout, done.stdout
    assert "the text of Price is “€ 7.25”, but it is “€ 7.30”" in done.stdout
    done = run(tmp_path, "Book a firing", booking_test(), desk.address)
    assert "1 passed" in done.stdout, done.stdout


def test_what_a_failure_leads_to_and_retries_hold_in_the_script_as_well(desk, tmp_path):
    """The sentence that fails in the seventh row is tried again, and the row goes on."""
    quotes = quote_test()
    price = next(step for step in quotes.steps if step.action == "check")
    wrong = next(row for row in quotes.rows if row.values["price"] == "€ 7.25")
    right = [row for row in quotes.rows if row != wrong]
    last = replace(quotes, rows=(wrong, *right[:2]))

    def failing(**fields):
        return last.with_step(replace(price, limit=0.5, **fields))

    def written(document, *more):
        return write(
            Source(
                "Quotes",
                replace(document, steps=(*document.steps, *more)),
                {key: ELEMENTS[key] for key in document.element_ids()},
                {},
                "http://x",
            )
        )

    again = Step("again", "pause", inputs={"seconds": "0"})
    goes_on = failing(on_failure="go on", retries=1)
    assert "    with page.go_on():\n        page.within(0.5).trying(1 + 1).check(PRICE" in written(
        goes_on
    )
    done = run(tmp_path, "Quotes", replace(goes_on, steps=(*goes_on.steps, again)), desk.address)
    assert "1 failed, 2 passed" in done.stdout, done.stdout
    assert "Went on after: " in done.stdout
    assert "SEED=" in done.stdout
    done = run(tmp_path, "Quotes", failing(on_failure="stop everything"), desk.address)
    assert "1 failed" in done.stdout, done.stdout
    assert "passed" not in done.stdout, done.stdout
