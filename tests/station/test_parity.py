"""Every action, block, wait, property and made-up value: Lantern and its exported script alike.

Both play the same sentences on the same pages. What passes in one passes in the other, and what
fails in one, because it has to, fails in the other.
"""

import os
import re
import subprocess
import sys

import pytest
from bench._everything import (
    FILES,
    INSIDE_A_TRY,
    PAGE,
    SECOND,
    SLOW,
    THINGS,
    Story,
    whole,
)

from lantern.core.engine.interpreter import Script
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import Document, Settings
from lantern.core.steps.properties import COMPARISONS, ON_DEMAND, PROPERTIES
from lantern.core.steps.tables import ASPECTS
from lantern.core.values.made import FUNCTIONS
from lantern.core.values.sources import Names
from lantern.exchange.script.writing import Source, write
from lantern.station.player import Player
from tests.station.conftest import Notes


class Told(Notes):
    """Gives one file to pages."""

    def file(self, name):
        return FILES.get(name)


@pytest.fixture
def both(chromium, site, tmp_path):
    """Plays sentences in Lantern and as a script; returns what failed in each, in words."""

    def play(document, flows=None, *, lantern=True):
        notes = Told()
        session = chromium.new_session()
        try:
            session.open_page()
            script = Script(document, THINGS, Names(seed="1"), site.address, flows or {})
            if lantern:
                Player(session, notes).play(script)
        finally:
            session.close()
        failed = [one.message for one in notes.results if one.outcome == "failed"]
        used = {key: THINGS[key] for key in document.element_ids()}
        for flow in (flows or {}).values():
            used |= {key: THINGS[key] for key in flow.document.element_ids()}
        text = write(Source("Parity", document, used, flows or {}, site.address))
        (tmp_path / "test_script.py").write_text(text)
        (tmp_path / "files").mkdir(exist_ok=True)
        (tmp_path / "files" / "glaze.txt").write_text("glaze")
        ran = subprocess.run(
            [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "test_script.py"],
            cwd=tmp_path, env={"PATH": os.environ["PATH"], "HOME": str(tmp_path)},
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        lines = ran.stdout.splitlines()
        told = [line for line in lines if line.startswith("Went on after: ")]
        why = [line.strip("E ") for line in lines if line.startswith(("E  ", ">   "))][:8]
        if "1 passed" not in ran.stdout and not told:
            pytest.fail("\n".join(["The script:", *why, "Lantern:", *failed]))
        return failed, told, notes.results

    return play


def everything(site):
    """Put the page of everything in place, with where it leads."""
    site.put("/", PAGE)
    site.pages["/second"] = (200, SECOND)
    site.put("/slow", "slow")
    site.late["/slow"] = SLOW


def test_every_action_and_block_plays_alike(both, site):
    everything(site)
    document, flows = whole(Settings(4.0))
    assert {step.action for step in document.steps} == set(ACTIONS)
    failed, told, _ = both(document, flows)
    assert [one for one in failed if INSIDE_A_TRY not in one] == []  # that one is inside a try
    assert told == []


def test_what_a_block_asks_and_is_not_told_leaves_it_out_in_both(both, site):
    """Neither it nor its alternatives are played, and the row goes on as far as that is wanted."""
    site.put("/", PAGE)
    unclear = {"property": "shown", "comparison": "is", "expected": "yes", "limit": 0.3}
    leads = {"on_failure": "go on"}

    def asking(**leads):
        s = Story()
        s.do("if", "several", **unclear, **leads).do("type", "piece", text="if", depth=1)
        s.do("else").do("type", "piece", text="else", depth=1)
        s.says("old", "piece", "value")
        return s

    s = asking(**leads)
    s.do("if value", value="1", comparison="is", expected="2")
    s.do("type", "piece", text="one", depth=1)
    s.do("else if", "several", **unclear, **leads).do("type", "piece", text="two", depth=1)
    s.do("else").do("type", "piece", text="three", depth=1).says("old", "piece", "value")
    s.do("while", "several", most="2", **unclear, **leads).do("press", "plain", depth=1).says("-")
    s.do("repeat rows", "plain", limit=0.3, **leads).do("press", "plain", depth=1).says("-")
    s.do("repeat", times="many", **leads).do("press", "plain", depth=1).says("-")
    s.do("press", "plain").says("plain true")
    failed, told, results = both(Document(tuple(s.steps), settings=Settings(limit=3.0)))
    assert (len(failed), len(told)) == (5, 5), (failed, told)
    assert [one.outcome for one in results[-2:]] == ["passed", "passed"]

    stops = Document(tuple(asking().steps), settings=Settings(limit=3.0))
    with pytest.raises(pytest.fail.Exception, match="several was found"):
        both(stops)


def test_every_property_is_read_alike(both, site):
    """Each property of each thing, as Lantern reads it, is what the script finds."""
    site.put("/", re.sub("<iframe.*?</iframe>", "", PAGE, flags=re.DOTALL))
    site.late["/slow"] = 0
    read = Story()
    more = "attribute id", "attribute value", "property tabIndex", "property disabled"
    things = "plain piece notes log clay glazes vent cone heat rack jobs".split()
    asked = [(name, thing) for thing in things for name in PROPERTIES]
    asked += [(more[n % len(more)], thing) for n, thing in enumerate(things)]
    of_tables = (
        "cells of Piece", "sum of Price €", "order of Piece", "rows with Piece is Vase",
        "cell Price € where Piece is Vase", "cell Price € where Piece is Lost",
    )  # fmt: skip
    assert all(any(one.startswith(name) for one in of_tables) for name in ASPECTS)
    assert {name.split()[0] for name in ON_DEMAND} == {"attribute", "property"}
    asked += [(name, "rack") for name in of_tables]
    for number, (name, thing) in enumerate(asked):
        read.do("keep", thing, property=name, name=f"k{number}", on_failure="go on", limit=0.3)
    read.says("yes", "lazy", "enabled")
    failed, told, results = both(Document(tuple(read.steps), settings=Settings(0.5)))
    assert len(told) == len(failed) > 5, (failed, told)
    kept = {name: value for one in results for name, value in one.kept.items()}
    assert len(kept) + len(failed) == len(asked)
    check = Story()
    for number, (name, thing) in enumerate(asked):
        if f"k{number}" in kept:
            check.says(kept[f"k{number}"].replace("${", "$${"), thing, name, on_failure="go on")
    _, told, _ = both(Document(tuple(check.steps), settings=Settings(0.3)), lantern=False)
    assert told == []


SAID = {
    "is": "€ 1,234.50", "is not": "€ 1", "contains": "234", "does not contain": "99",
    "starts with": "€", "ends with": ".50", "matches": r"\d,\d{3}", "is at least": "1,234.5",
    "is at most": "1234.6",
}  # fmt: skip
WRONG = {
    "is": "€ 1", "is not": "€ 1,234.50", "contains": "99", "does not contain": "234",
    "starts with": "$", "ends with": ".5", "matches": r"^\d", "is at least": "1,234.6",
    "is at most": "1.3",
}  # fmt: skip


def test_comparisons_hold_and_fail_alike(both, site):
    site.put("/", PAGE)
    s = Story()
    assert set(SAID) == set(WRONG) == set(COMPARISONS)
    for name in COMPARISONS:
        s.says(SAID[name], "price", comparison=name, on_failure="go on")
        s.says(WRONG[name], "price", comparison=name, on_failure="go on")
    s.do("open", address="/nothing", on_failure="go on").do("open", address="/")
    s.do("press", "plain", at="110% 5%", on_failure="go on")
    s.do("choose", "clay", option="Bone", on_failure="go on")
    s.do("slide", "cone", value="41", on_failure="go on")
    s.do("window", window="Nowhere", on_failure="go on")
    s.do("check download", detail="name", comparison="is", expected="x", on_failure="go on")
    s.do("dialog", answer="OK", on_failure="go on").do("press", "named", on_failure="go on")
    failed, told, _ = both(Document(tuple(s.steps), settings=Settings(0.4)))
    assert len(failed) == len(COMPARISONS) + 8, failed
    assert len(told) == len(failed), (failed, told)


MADE = {
    "integer": "${integer(3, 9)}", "number": "${number(1, 2)}", "pick": '${pick("a", "b")}',
    "text": '${text("??-##")}', "date": '${date("+1m")}', "uuid": "${uuid()}",
    "fitting": "${fitting()}",
}  # fmt: skip
LOOKS = {
    "integer": r"^[3-9]$", "number": r"^[12]\.\d\d$", "pick": "^[ab]$", "text": r"^[a-z]{2}-\d\d$",
    "date": r"^\d{4}-\d\d-\d\d$", "uuid": r"^[0-9a-f]{8}-[0-9a-f-]{27}$", "fitting": "^[A-Z]",
}  # fmt: skip


def test_made_up_values_are_of_one_form_and_fit_the_field(both, site):
    site.put("/", PAGE)
    s = Story()
    assert set(MADE) == set(LOOKS) == set(FUNCTIONS)
    for name, template in MADE.items():
        s.do("type", "piece", text=template)
        s.says(LOOKS[name], "piece", "value", "matches")
    s.do("type", "number", text="${integer(1, 30)}").says("20", "piece", "value", "is at least")
    s.do("type", "coded", text="${fitting()}")
    s.says("^[A-C]{3}-[0-9]$", "piece", "value", "matches")
    failed, told, _ = both(Document(tuple(s.steps), settings=Settings(2.0)))
    assert (failed, told) == ([], [])
