"""Sources of values: each is one entry, and a new one needs no other."""

import pytest

from lantern.core.problems import BadInput, UnknownName
from lantern.core.steps.edits import ReplaceConstants
from lantern.core.values.sources import SOURCES, Names, Source
from lantern.core.values.templates import places, resolve, shown
from lantern.exchange.script.values import expression


@pytest.fixture
def kiln(monkeypatch):
    """A source that tells what a kiln is at, and keeps it to itself."""
    made = Source(
        "dial", lambda names: {"heat": "1240"}, "KILN[{}]", "Read.", "a dial", hidden=True
    )
    monkeypatch.setitem(SOURCES, "kiln", made)


def test_a_new_source_is_one_entry(kiln):
    assert places("at ${kiln.heat}") == [("kiln", "heat")]
    assert resolve("at ${kiln.heat}", Names()) == "at 1240"
    assert shown("at ${kiln.heat}", Names()) == "at ••••••"
    assert expression("at ${kiln.heat}") == "'at ' + KILN['heat']"
    edit = {"places": [{"step": "s", "input": "text"}], "source": "kiln", "name": "heat"}
    assert ReplaceConstants.read(edit).template == "${kiln.heat}"
    with pytest.raises(UnknownName, match="dial"):
        resolve("${kiln.cone}", Names())


def test_without_its_entry_nothing_knows_it():
    with pytest.raises(BadInput, match="is not a value that Lantern knows"):
        places("${kiln.heat}")


@pytest.mark.parametrize("name", SOURCES)
def test_every_source_reads_as_python_and_says_where_it_is_from(name):
    compile(SOURCES[name].python.format("'a'"), name, "eval")
    assert SOURCES[name].tells.endswith((".", "it."))
