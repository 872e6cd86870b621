"""Stages are shared by the tabs of one author, opened once, and closed by who owns them."""

import threading
from concurrent.futures import ThreadPoolExecutor

import pytest

from lantern.browser.errors import BrowserError
from lantern.station import recording as module
from lantern.station.keeping import Keeper
from lantern.station.stage import Stage
from lantern.station.stages import Stages
from lantern.store.vault import Vault
from tests.station.desk import until


class FakeStage:
    patience, rehearsing = 0.0, False

    def __init__(self, key):
        self.key, self.alive, self.closed = key, True, 0

    def close(self):
        self.closed += 1


@pytest.fixture
def made():
    return []


@pytest.fixture
def stages(made):
    def make(key):
        made.append(FakeStage(key))
        return made[-1]

    return Stages(make)


@pytest.fixture
def stage(chromium, site, database):
    stage = Stage(chromium, Keeper(database, Vault(), 1, 2), site.address)
    yield stage
    stage.close()


def test_tabs_that_come_at_once_share_one_stage_which_outlives_none_of_them(stages, made):
    together = threading.Barrier(8)

    def look(_):
        with stages.looked_at((1, 2)) as stage:
            together.wait(5)
            stages.close_idle(0)
            assert not stage.closed
            together.wait(5)
            return stage

    with ThreadPoolExecutor(8) as pool:
        seen = set(pool.map(look, range(8)))
    assert len(seen) == len(made) == 1
    stages.close_idle(60)
    assert not made[0].closed
    stages.close_idle(0)
    assert made[0].closed == 1
    with stages.looked_at((1, 2)) as anew:
        assert anew is made[1]


def test_only_so_many_are_open_and_those_that_nobody_needs_make_room(made):
    def make(key):
        made.append(FakeStage(key))
        return made[-1]

    stages = Stages(make, lambda: 2)
    with (
        stages.looked_at((1, 1)),
        stages.looked_at((1, 2)),
        pytest.raises(BrowserError, match="All 2 stages"),
        stages.looked_at((1, 3)),
    ):
        pass
    made[0].patience = 1800.0  # it holds a rehearsal
    with stages.looked_at((1, 3)):
        assert [one.closed for one in made] == [0, 1, 0]
    assert not made[0].closed
    assert [stage.key for stage in stages.of(3)] == [(1, 3)]


def test_those_that_come_at_once_do_not_take_more_places_than_there_are(made):
    opening = threading.Barrier(3)

    def make(key):
        made.append(FakeStage(key))
        opening.wait(10)  # slow, as a browser is
        return made[-1]

    stages = Stages(make, lambda: 2)

    def look(number):
        try:
            with stages.looked_at((1, number)):
                together.wait(10)
                return "open"
        except BrowserError:
            return "refused"

    together = threading.Barrier(2)
    with ThreadPoolExecutor(3) as pool:
        coming = [pool.submit(look, number) for number in (1, 2)]
        until(lambda: len(made) == 2, "two being made")
        assert pool.submit(look, 3).result(10) == "refused"
        opening.wait(10)
        assert [one.result(10) for one in coming] == ["open", "open"]


def test_a_stage_that_could_not_be_made_takes_no_place(made):
    def make(key):
        if not made:
            made.append(None)
            raise BrowserError("no window")
        return FakeStage(key)

    stages = Stages(make, lambda: 1)
    with pytest.raises(BrowserError, match="no window"), stages.looked_at((1, 1)):
        pass
    with stages.looked_at((1, 1)) as stage:
        assert stage.key == (1, 1)


def test_another_looks_on_only_while_something_is_rehearsed(stages, made):
    assert not stages.rehearsed((1, 2))
    with stages.looked_at((1, 2)) as stage:
        assert not stages.rehearsed((1, 2)), "a stage alone is its author's"
        stage.rehearsing = True
        assert stages.rehearsed((1, 2))


def test_a_stage_whose_browser_died_is_closed_and_another_opened(stages, made):
    with stages.looked_at((1, 2)) as stage:
        pass
    stage.alive = False
    with stages.looked_at((1, 2)) as another:
        assert another is not stage
    assert (stage.closed, another.closed) == (1, 0)


def test_one_that_can_not_be_closed_keeps_no_other_open(stages, made):
    for key in ((1, 1), (1, 2)):
        with stages.looked_at(key):
            pass

    def fails():
        raise OSError("no")

    made[0].close = fails
    stages.close()
    assert made[1].closed == 1
    with pytest.raises(RuntimeError), stages.looked_at((1, 3)):
        pass
    assert made[2].closed == 1


def test_a_stage_that_does_not_open_leaves_nothing(chromium, site, monkeypatch):
    def fails(_):
        raise BrowserError("no window")

    before = set(chromium._sessions)
    monkeypatch.setattr("lantern.browser.chromium.engine.ChromiumSession.open_page", fails)
    with pytest.raises(BrowserError):
        Stage(chromium, None, site.address)
    assert set(chromium._sessions) == before


def test_what_two_tabs_send_is_carried_out_one_after_the_other(stage):
    meeting, met = threading.Barrier(2), []

    def slow(_):
        try:
            meeting.wait(0.3)
            met.append("two at once")
        except threading.BrokenBarrierError:
            meeting.reset()

    stage._commands["slow"] = slow
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(lambda _: stage.take({"type": "slow"}), range(2)))
    assert met == []


def test_a_page_that_reports_without_end_fills_no_memory_and_blocks_nothing(
    chromium, site, database, monkeypatch
):
    monkeypatch.setattr(module, "MOST_REPORTS", 5)
    stage = Stage(chromium, Keeper(database, Vault(), 1, 2), site.address)
    said, go_on = [], threading.Event()
    stage.live.say = said.append
    stage.recording._report(lambda: go_on.wait(20))
    until(lambda: stage.recording._reports.qsize() == 0, "the recorder busy")
    for _ in range(50):
        stage.recording._report(lambda: None)
    assert stage.recording._reports.qsize() == 5
    assert len([one for one in said if "more than can be recorded" in one.get("message", "")]) == 1
    go_on.set()
    until(lambda: stage.recording._reports.qsize() == 0, "the rest recorded")
    stage.close()
    assert not stage.recording._thread.is_alive()


@pytest.mark.parametrize(
    "message",
    [
        {"type": "burn"},
        {},
        {"type": "mouse", "kind": "mousePressed", "x": 1, "y": 1},
        {"type": "point", "x": "far", "y": 1},
        {"type": "files", "files": "all"},
    ],
)
def test_a_message_that_the_channel_does_not_have_is_refused_and_changes_nothing(
    chromium, site, database, message
):
    stage = Stage(chromium, Keeper(database, Vault(), 1, 2), site.address)
    said = []
    stage.live.say = said.append
    try:
        stage.take(message)
    finally:
        stage.close()
    wanted = {"type": "error", "message": "The stage did not understand what was sent."}
    assert {**wanted, "hint": "Reload this page."} in said
