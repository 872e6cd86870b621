"""How a story reads: the titles of its scenes."""

from lantern.core.steps.sentences import short_title


def test_the_title_of_a_scene_is_never_a_whole_query():
    assert short_title("Firings - Kiln Desk") == "Firings - Kiln Desk"
    rows = "firings: select * from firings where clay = 'Raku' order by cone limit 101"
    assert short_title(rows) == "firings"
    assert short_title("Board ?clay=Raku&cone=6") == "Board"
    long = "All the pieces that were ever fired in the old studio by the lake and its annex"
    assert short_title(long) == "All the pieces that were ever fired in the old studio by…"
