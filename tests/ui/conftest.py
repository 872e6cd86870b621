"""A whole Lantern, driven through its pages by Selenium in headless Chromium."""

import json
import os
import urllib.request
from contextlib import contextmanager

import pytest
from selenium import webdriver

from lantern.demo.data import load_demo
from lantern.host import processes
from lantern.host.ports import free_port
from lantern.host.setup import STATE
from lantern.store.database import Database
from lantern.store.vault import Vault
from tests.ui.pages import Lantern, until

FAILURES = STATE / "failures"
FLAGS = (
    "--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run "
    "--disable-background-networking --disable-component-update --disable-sync"
).split()


class Stack:
    """Web, station and Kiln Desk on a database of their own."""

    def __init__(self, url, logs):
        self.url, self.logs = url, logs
        self.database = Database(url)
        self.address = f"http://127.0.0.1:{free_port()}"
        self.desk_address = f"http://127.0.0.1:{free_port()}"
        with self.database.session() as session:
            load_demo(session, Vault(), self.desk_address)
        env = {
            "LANTERN_DATABASE": url,
            "LANTERN_KEY_FILE": os.environ["LANTERN_KEY_FILE"],
            "LANTERN_SAMPLE": self.desk_address,
        }
        self.web = processes.web(int(self.address.rsplit(":")[-1]), "127.0.0.1", env, logs)
        self.station = processes.station(env, logs)
        self.desk = processes.desk(int(self.desk_address.rsplit(":")[-1]), logs)
        for child in (self.web, self.station, self.desk):
            child.start()
        until(self.healthy, "Lantern answers as healthy", 60)

    def healthy(self):
        try:
            with urllib.request.urlopen(f"{self.address}/api/health", timeout=2) as answer:
                return json.load(answer)["status"] == "ok"
        except OSError:
            return False

    def reset_desk(self, release="spring"):
        """Put the Kiln Desk's data back."""
        data = f"release={release}".encode()
        urllib.request.urlopen(f"{self.desk_address}/reset", data=data, timeout=5).close()

    def stop(self):
        for child in (self.web, self.station, self.desk):
            child.stop()
        self.database.close()


@pytest.fixture(scope="session")
def stack(make_database, tmp_path_factory):
    stack = Stack(make_database(), tmp_path_factory.mktemp("logs"))
    yield stack
    stack.stop()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item, call):
    report = yield
    setattr(item, f"report_{report.when}", report)
    if report.when == "call" and report.failed and "stack" in item.fixturenames:
        _tell_more(item, report)
    return report


def _tell_more(item, report):
    """Add what the page said and what the processes logged: elsewhere only this is seen."""
    driver, stack = item.funcargs.get("driver"), item.funcargs["stack"]
    if driver:
        shown = f"{driver.current_url}\n{driver.find_element('tag name', 'body').text}"
        report.sections.append(("The page", shown[:3000]))
    for log in sorted(stack.logs.glob("*.log")):
        tail = log.read_text(errors="replace").splitlines()[-25:]
        report.sections.append((log.name, "\n".join(line[:300] for line in tail)))


@contextmanager
def a_browser(test, name=""):
    """A browser of its own; it leaves a picture when the test failed."""
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS:
        options.add_argument(flag)
    driver = webdriver.Chrome(
        options=options, service=webdriver.ChromeService("/usr/bin/chromedriver")
    )
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
    )
    try:
        yield driver
        if getattr(test, "report_call", None) and test.report_call.failed:
            FAILURES.mkdir(parents=True, exist_ok=True)
            driver.save_screenshot(str(FAILURES / f"{test.name}{name}.png"))
    finally:
        driver.quit()


@pytest.fixture
def driver(request):
    with a_browser(request.node) as driver:
        yield driver


@pytest.fixture
def lantern(driver, stack):
    """Lantern with the Kiln Desk put back, nobody signed in."""
    stack.reset_desk()
    return Lantern(driver, stack)


@pytest.fixture
def other(request, lantern):
    """The same Lantern in the browser of somebody else, who is signed in."""
    with a_browser(request.node, " other") as driver:
        other = Lantern(driver, lantern.stack)
        other.sign_in("wren", "lantern-lead")
        yield other


@pytest.fixture
def quote(request, lantern, other):
    """The number of a test that both have open, one as a tester, the other as a lead."""
    from tests.ui.test_conflicts import have_open
    from tests.ui.test_data import a_quote_that_pauses

    test = a_quote_that_pauses(lantern.stack, request.node.name)
    lantern.sign_in()
    have_open(test, lantern, other)
    return test
