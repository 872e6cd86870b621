"""A part of the yard: what a person does on pages of widely used libraries plays as it was done."""

import pytest
from bench.yard.__main__ import load_stories
from bench.yard.building import build
from bench.yard.course import STORIES, Ground, go_through
from bench.yard.hand import PACES
from bench.yard.server import Yard

from lantern.browser.chromium import Chromium
from lantern.store import accounts
from lantern.store.database import Database

load_stories()
NORMAL = next(pace for pace in PACES if pace.name == "normal")
SMOKE = [one for one in STORIES if one.smoke]


READ = {
    "mui-fields: clay and glaze": ["Choose “Porcelain” in Clay", "Choose “Shino” in Glaze"],
    "virtual: a piece of ten thousand": [
        "Press Take in the row of “Piece 2”",
        "Scroll to Take in the row of “Piece 202” about 7000 pixels down",
        "Press Take in the row of “Piece 202”",
    ],
    "frames: all four frames": [
        "Choose “Grog” in Clay", "Press Take clay", "Press Count and reload",
        "Press Count and reload", "Type “Ines” into Card holder", "Press Pay now",
        "Type “Kiln lane 3” into Street", "Press Send there",
    ],
    "turbo: a piece finds its shelf": [
        "Press Help", "Press Back to the piece", "Type “Bowl” into Piece", "Press Go on",
        "Tick Low", "Press Go on",
    ],
    "windows: windows by three ways": [
        "Press Ticket in a tab", "Go to the window “Ticket no. #”", "Press Stamp ticket",
        "Go to the window “Windows”", "Press Plan in a window",
        "Go to the window “Kiln plan”", "Press Use this plan", "Go to the window “Windows”",
        "Press Form in a tab", "Go to the window “Short form”", "Type “Ines” into Name",
        "Press Give",
    ],
    "native: a plain form": [
        "Choose “Porcelain” in Clay", "Choose “Wire” in Tools", "Type “Ember” into Town",
        "Tick Large", "Tick Gift", "Type “Handle with care” into Remarks", "Press Send form",
    ],
}  # fmt: skip
"""Stories of the yard as they read: nothing left out, nothing that nobody did."""


@pytest.fixture(scope="session")
def ground(make_database):
    build()
    yard, chromium, database = Yard(), Chromium(), Database(make_database())
    with database.session() as session:
        accounts.create(session, "ines", "Ines Kiln", "tester", "kiln-and-wheel")
    yield Ground(yard.address, chromium, database)
    database.close()
    chromium.close()
    yard.stop()


@pytest.mark.parametrize("one", SMOKE, ids=lambda one: one.title)
def test_what_was_done_is_what_is_recorded_and_played(ground, one):
    result = go_through(ground, one, NORMAL)
    assert result.same, result.told()
    assert not result.lost, result.told()
    assert not result.nameless, result.told()
    assert not result.false_idle, result.told()
    if one.title in READ:
        assert result.sentences == READ[one.title]


def test_the_stories_that_are_read_are_among_those_gone_through():
    assert {one.title for one in SMOKE} >= READ.keys()
