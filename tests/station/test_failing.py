"""What fails unforeseen inside one sentence fails that sentence, and nothing else."""

import pytest

from lantern.core.runs.life import TooLate
from lantern.core.steps.model import Step
from lantern.station.player import Player
from tests.core.samples import element, step

SAVE = element("Save")


def broken(monkeypatch, answer, error):
    """Let the answering of one kind of request fail; `answer` is the driver's method."""

    def fails(*_):
        raise error

    monkeypatch.setattr(Player, answer, fails)


def test_a_mistake_of_lantern_fails_the_sentence_with_its_reason(play, site, monkeypatch):
    site.put("/", "<button>Save</button>")
    broken(monkeypatch, "press", KeyError("lost"))
    notes = play(step("press", SAVE), Step("r", "reload"), elements=[SAVE], on_failure="go on")
    assert [one.outcome for one in notes.results] == ["passed", "failed", "passed"]
    failed = notes.results[1]
    assert failed.reason == "lantern failed"
    assert "KeyError" in failed.message


def test_a_picture_that_can_not_be_taken_costs_no_sentence(play, site, monkeypatch):
    site.put("/", "<button>Save</button>")
    monkeypatch.setattr("lantern.station.player.safe_picture", lambda *_: b"" + None)
    notes = play(step("press", SAVE), elements=[SAVE])
    assert notes.outcome == "passed"


@pytest.mark.parametrize("error", [TooLate("taken away")])
def test_a_row_that_was_taken_away_is_not_played_on(play, site, monkeypatch, error):
    site.put("/", "<button>Save</button>")
    broken(monkeypatch, "step_ends", error)
    with pytest.raises(TooLate):
        play(step("press", SAVE), elements=[SAVE])
