"""The sample project as people find it: Trends, Defects and Requirements are filled from it."""

import urllib.error
import urllib.request
from types import SimpleNamespace

import pytest

from lantern.demo.team.loading import load_team
from lantern.host import processes
from lantern.host.ports import free_port
from lantern.store.database import Database
from lantern.store.vault import Vault
from tests.ui.conftest import web_env
from tests.ui.pages import Lantern, until


@pytest.fixture(scope="module")
def team(make_database, tmp_path_factory):
    """A web process over the sample project, with nothing else."""
    url = make_database()
    database = Database(url)
    with database.session() as session:
        load_team(session, Vault(), "http://desk", "http://next", "http://127.0.0.1:9")
    address = f"http://127.0.0.1:{free_port()}"
    logs = tmp_path_factory.mktemp("logs")
    port = int(address.rsplit(":")[-1])
    web = processes.web(port, "127.0.0.1", web_env(url, address), logs)
    web.start()
    until(lambda: answers(address), "the web process", 60)
    yield SimpleNamespace(address=address, logs=logs, database=database)
    web.stop()
    database.close()


def answers(address):
    try:
        with urllib.request.urlopen(f"{address}/api/first", timeout=2):
            return True
    except urllib.error.HTTPError:
        return True
    except OSError:
        return False


@pytest.fixture
def here(desks, request, team):
    yield Lantern(desks[0].sit_down(team.address), team)
    desks[0].leave(request.node)


def test_trends_and_defects_tell_what_the_team_lived_through(here):
    here.sign_in("wren")
    here.go("/trends")
    here.select("[aria-label='How many days']", "60 days")
    here.sees("Known failures 1")
    here.sees("Ticket of a firing")
    here.one("section[aria-label=Outcomes] input[type=checkbox]").click()
    days = "section[aria-label=Outcomes] tbody tr"
    until(lambda: len(here.all(days)) >= 59, "a line for each day")
    here.press("release")
    here.sees("autumn")

    here.go("/defects")
    until(lambda: len(here.all("tbody tr")) == 5, "all defects")
    here.press("As a board")
    for state in ("open", "in work", "fixed", "closed"):
        here.sees(state)
    here.sees("The rush supplement is not in the price")
    here.go("/defects/2")
    here.sees("Passes again on spring.")
    assert "state: fixed → closed" in here.one("[data-role=history]").text
    assert "EMB-2" in here.one("aside").text


def test_a_defect_that_passed_since_asks_to_be_closed(here):
    here.sign_in("wren")
    here.go("/defects/3")
    asks = here.one("[data-role=passed]")
    assert "on release spring" in asks.text


def test_requirements_show_what_no_test_covers(here):
    here.sign_in("odo")
    here.go("/requirements")
    here.sees("EMB-24")
    here.sees("Cone chart in Fahrenheit")


def test_what_is_to_run_elsewhere_is_not_rehearsed_on_the_stage_of_the_test(here):
    """Green on the stage would say nothing of the environment that was chosen."""
    here.sign_in("odo")
    here.go("/tests")
    here.one("a[href^='/tests/']", 20)
    here.driver.get(here.one("a[href^='/tests/']").get_attribute("href"))
    rehearse = "button[data-role=rehearse]"
    until(lambda: here.one(rehearse).is_enabled(), "Rehearse")
    here.select("[aria-label='Environment to run in']", "Next release")
    until(lambda: not here.one(rehearse).is_enabled(), "no rehearsal of another environment")
    assert "The stage is at Kiln Desk" in here.one(rehearse).get_attribute("title")
    here.select("[aria-label='Environment to run in']", "Kiln Desk")
    until(lambda: here.one(rehearse).is_enabled(), "Rehearse again")
