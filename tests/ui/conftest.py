"""A whole Lantern, driven through its pages by Selenium in headless Chromium."""

import json
import os
import urllib.request

import pytest
from bench.verdicts.proxy import Proxy
from selenium import webdriver
from selenium.common.exceptions import WebDriverException
from sqlalchemy import delete

from lantern.demo.data import load_demo, send_mails_to
from lantern.host import processes
from lantern.host.ports import free_port
from lantern.host.setup import STATE
from lantern.store import preferences
from lantern.store.database import Database
from lantern.store.models import Breakpoint
from lantern.store.vault import Vault
from tests.ui.pages import Lantern, Quick, until

OFFERED = 1
"""Seconds for which rows that fail are offered, where a story says nothing else."""
FAILURES = STATE / "failures"
FLAGS = (
    "--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run "
    "--disable-background-networking --disable-component-update --disable-sync "
    # The popup of an address bar that nobody sees would be two processes for each window.
    "--disable-features=WebUIOmniboxPopup,WebUIOmniboxAimPopup"
).split()


def web_env(url, address):
    """What a process of Lantern is told: its database, its key, and where people reach it."""
    return {
        "LANTERN_DATABASE": url,
        "LANTERN_KEY_FILE": os.environ["LANTERN_KEY_FILE"],
        "LANTERN_ADDRESS": address,
    }


class Stack:
    """Web, station and Kiln Desk on a database of their own."""

    def __init__(self, url, logs):
        self.url, self.logs = url, logs
        self.database = Database(url)
        self.address = f"http://127.0.0.1:{free_port()}"
        self.desk_address = f"http://127.0.0.1:{free_port()}"
        with self.database.session() as session:
            load_demo(session, Vault(), self.desk_address)
            smtp = free_port()
            send_mails_to(session, Vault(), smtp)
            # A row that fails while its author watches is offered to them: few stories wait for it.
            preferences.put_rehearsing(session, preferences.Rehearsing(offered=OFFERED))
        self.mails_address = f"http://127.0.0.1:{free_port()}"
        env = web_env(url, self.address) | {
            "LANTERN_SAMPLE": self.desk_address,
            "LANTERN_MAILS": self.mails_address,
        }
        self.web = processes.web(int(self.address.rsplit(":")[-1]), "127.0.0.1", env, logs)
        self.station = processes.station(env, logs)
        self.desk = processes.desk(int(self.desk_address.rsplit(":")[-1]), logs)
        self.post = processes.post(int(self.mails_address.rsplit(":")[-1]), smtp, logs)
        self.children = (self.web, self.station, self.desk, self.post)
        for child in self.children:
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

    def forget_breakpoints(self):
        """Take everybody's breakpoints out."""
        with self.database.session() as session:
            session.execute(delete(Breakpoint))

    def stop(self):
        for child in self.children:
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


class Desk:
    """A browser that tests use one after the other, each as if it were new.

    Each test gets a tab of its own and finds nothing of those before; what a browser keeps of
    scripts and styles stays, as it does at any desk. After a failure a new browser is started.
    """

    def __init__(self):
        self.driver = None

    def sit_down(self, origin):
        """Return the browser with one empty tab, signed in nowhere."""
        if self.driver is None:
            self.driver = _start()
        else:
            before = self.driver.window_handles
            self.driver.switch_to.new_window("tab")
            fresh = self.driver.current_window_handle
            for tab in before:
                self.driver.switch_to.window(tab)
                self.driver.close()
            self.driver.switch_to.window(fresh)
            self.driver.execute_cdp_cmd("Network.clearBrowserCookies", {})
            everything = {"origin": origin, "storageTypes": "all"}
            self.driver.execute_cdp_cmd("Storage.clearDataForOrigin", everything)
        self.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
        )
        return self.driver

    def leave(self, test, name=""):
        """Let the next test have it; it leaves a picture when this test failed."""
        try:
            if getattr(test, "report_call", None) and test.report_call.failed:
                FAILURES.mkdir(parents=True, exist_ok=True)
                self.driver.save_screenshot(str(FAILURES / f"{test.name}{name}.png"))
                self.close()
            else:
                self.driver.get("about:blank")
        except WebDriverException:
            self.close()

    def close(self):
        if self.driver is not None:
            self.driver.quit()
            self.driver = None


def _start():
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    options.unhandled_prompt_behavior = "accept"
    for flag in FLAGS:
        options.add_argument(flag)
    driver = webdriver.Chrome(
        options=options, service=webdriver.ChromeService("/usr/bin/chromedriver")
    )
    driver._web_element_cls = Quick
    return driver


@pytest.fixture(scope="session")
def desks():
    """The browsers of two people."""
    desks = Desk(), Desk()
    yield desks
    for desk in desks:
        desk.close()


@pytest.fixture
def driver(request, desks, stack):
    yield desks[0].sit_down(stack.address)
    desks[0].leave(request.node)


@pytest.fixture
def lantern(driver, stack):
    """Lantern with the Kiln Desk put back, no breakpoints left, nobody signed in."""
    stack.reset_desk()
    stack.forget_breakpoints()
    return Lantern(driver, stack)


@pytest.fixture
def proxy(lantern):
    """Stands between browser and desk, which does not know what it alters."""
    proxy = Proxy(lantern.stack.desk_address)
    yield proxy
    proxy.close()


@pytest.fixture
def other(request, lantern, desks):
    """The same Lantern in the browser of somebody else, who is signed in."""
    other = Lantern(desks[1].sit_down(lantern.stack.address), lantern.stack)
    other.sign_in("wren")
    yield other
    desks[1].leave(request.node, " other")


@pytest.fixture
def quote(request, lantern, other):
    """The number of a test that both have open, one as a tester, the other as a lead."""
    from tests.ui.test_conflicts import have_open
    from tests.ui.test_data import a_quote_that_pauses

    test = a_quote_that_pauses(lantern.stack, request.node.name)
    lantern.sign_in()
    have_open(test, lantern, other)
    return test
