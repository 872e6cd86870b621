"""What a title says against what was done."""

from dataclasses import replace

import pytest

from lantern.core.review.deeds import contradiction
from tests.core.rehearsed import BOOK
from tests.core.samples import FakeStage, node, step


@pytest.mark.parametrize(
    ("said", "did", "around", "against"),
    [
        ("Close the ticket", "Book this firing", (), True),
        ("Close the ticket", "Close ticket", (), False),
        ("Close the ticket", "Reopen the ticket", (), True),
        ("Sign in as Wren", "Sign in", (), False),
        ("The customer agrees", "Accept", (), False),
        ("Book the firing", "Save", ("Book a firing",), False),
        ("Delete the moon jar", "×", ("Moon jar",), False),
        ("Press Save", "Save", (), False),
        ("Order 12 tiles", "Add to basket", ("Tiles",), False),
        ("Cancel the booking", "Confirm booking", (), True),
    ],
)
def test_a_title_contradicts_only_where_it_says_that_something_else_is_done(
    said, did, around, against
):
    assert bool(contradiction(said, did, around)) is against


def test_results_tell_what_was_acted_on_its_title_and_where_they_contradict():
    stage = FakeStage(node(name="Book this firing", handle=3))
    stage.play(
        replace(step("press", BOOK), title="Close the ticket", comment="At the end"),
        elements=(BOOK,),
    )
    result = stage.results[0]
    assert (result.thing, result.title) == ("Book this firing", "Close the ticket")
    assert "Book this firing" in result.contrary
    assert result.comment == "At the end"
