"""Who has a test open: what is heard, and for how long it holds."""

import json
from types import SimpleNamespace

import pytest

from lantern.web import presence
from lantern.web.hub import Hub
from lantern.web.presence import LASTS, Present
from lantern.web.watching import Watching


def notice(who, test=1, doing=""):
    return json.dumps({"about": "presence", "id": test, "who": who, "name": who, "doing": doing})


@pytest.fixture
def clock(monkeypatch):
    now = [100.0]
    monkeypatch.setattr(presence.time, "monotonic", lambda: now[0])
    return now


def hear(present, text):
    present.hear(presence.told(text), text)


def test_somebody_of_whom_nothing_is_heard_any_more_is_gone(clock):
    """As when the process died to which their page was connected."""
    present = Present()
    hear(present, notice("odo"))
    clock[0] += LASTS - 1
    hear(present, notice("wren"))
    assert [json.loads(one)["who"] for one in present.of(1)] == ["odo", "wren"]
    clock[0] += 2
    assert [json.loads(one)["who"] for one in present.of(1)] == ["wren"]
    assert present.of(2) == []
    hear(present, notice("wren", doing="gone"))
    assert present.of(1) == []


def test_only_those_who_watch_the_same_test_are_told_and_all_of_other_things():
    hub = Hub(SimpleNamespace(url=""), None)
    here, there = Watching(), Watching()
    here.test, there.test = 1, 2
    hub._streams = {here, there}
    hub._hand_out(notice("odo"))
    assert json.loads(here.next(0.1))["who"] == "odo"
    assert there.next(0.01) is None
    hub._hand_out('{"about": "test", "id": 7}')
    assert here.next(0.1)
    assert there.next(0.1)
