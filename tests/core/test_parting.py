"""Two plays side by side: where they part, and where their pictures differ."""

from io import BytesIO

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from lantern.core.problems import BadInput
from lantern.core.review.lit import lit
from lantern.core.review.parting import (
    Beat,
    first_parting,
    moving_between,
    side_by_side,
    still,
)


def beat(step, sentence="", outcome="passed", **more):
    return Beat(step, sentence or f"Press {step}", outcome, **more)


PLAY = [beat("s1"), beat("s2", used=0.2), beat("s3", found="€ 5.40")]


def told(one, other, moving=()):
    pairs = side_by_side(one, other, moving)
    return first_parting(pairs), [[d.what for d in pair.differs] for pair in pairs]


def test_the_same_play_parts_nowhere():
    assert told(PLAY, PLAY) == (None, [[], [], []])


def test_they_part_where_something_else_was_found_and_not_where_it_only_took_longer():
    other = [PLAY[0], beat("s2", used=4.0), beat("s3", found="€ 5.45")]
    assert told(PLAY, other) == (2, [[], ["time"], ["found"]])


def test_a_sentence_of_one_alone_is_told_and_the_rest_stays_in_pairs():
    first, what = told(PLAY, [PLAY[0], PLAY[2]])
    assert (first, what) == (1, [[], ["there"], []])
    pairs = side_by_side(PLAY, [PLAY[0], PLAY[2]])
    assert pairs[1].other is None


def test_how_it_ended_is_told_with_what_was_said():
    failed = [PLAY[0], beat("s2", outcome="failed", message="It was not there.")]
    [_, pair] = side_by_side(PLAY[:2], failed)
    assert pair.differs[0].other == ("failed: It was not there.",)


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("Fired 2026-11-28 at 09:15", "Fired 2026-11-29 at 17:02:11"),
        ("Due 28 Nov 2026", "Due 3 December 2026"),
        ("No. 3f2b8c91-0f3a-4c56-9d22-6c1d2e3f4a5b", "No. 00000000-0f3a-4c56-9d22-6c1d2e3f4a5b"),
        ("build 9fceb02d0ae5", "build 1a2b3c4d5e6f"),
    ],
)  # fmt: skip
def test_dates_times_and_long_ids_move_by_themselves(one, other):
    assert still(one) == still(other)
    pairs = side_by_side([beat("s", texts=(one, "Kiln"))], [beat("s", texts=(other, "Kiln"))])
    assert not pairs[0].differs
    assert pairs[0].aside == 2


def test_a_price_does_not_move_by_itself_unless_plays_that_passed_said_so():
    one, other = [beat("s", texts=("€ 5.40",))], [beat("s", texts=("€ 5.45",))]
    assert told(one, other) == (0, [["texts"]])
    learned = moving_between(("€ 1.00", "Kiln"), ("€ 2.00", "Kiln"))
    assert learned == {"€ #.#"}
    assert told(one, other, learned) == (None, [[]])


def test_only_what_the_other_lacks_is_told_of_requests():
    one = [beat("s", requests=("500 GET /kilns", "404 GET /icon"))]
    other = [beat("s", requests=("404 GET /icon",))]
    [pair] = side_by_side(one, other)
    assert (pair.differs[0].one, pair.differs[0].other) == (("500 GET /kilns",), ())


@given(st.lists(st.sampled_from("abcd"), max_size=8), st.lists(st.sampled_from("abcd"), max_size=8))
def test_every_sentence_of_both_is_in_one_pair(one, other):
    pairs = side_by_side([beat(x) for x in one], [beat(x) for x in other])
    assert [pair.one.step for pair in pairs if pair.one] == one
    assert [pair.other.step for pair in pairs if pair.other] == other
    assert (first_parting(pairs) is None) == (one == other)


# -- pictures ------------------------------------------------------------------------------------


def picture(*boxes, size=(320, 200), colour="black"):
    made = Image.new("RGB", size, "white")
    for box in boxes:
        ImageDraw.Draw(made).rectangle(box, fill=colour)
    kept = BytesIO()
    made.save(kept, "PNG")
    return kept.getvalue()


def test_places_that_differ_are_told_largest_first():
    found = lit(picture(), picture((32, 32, 63, 47), (200, 100, 300, 180)))
    assert len(found.places) == 2
    x, y, width, height = found.places[0]
    assert x * 320 <= 200 <= 300 <= (x + width) * 320
    assert y * 200 <= 100 <= 180 <= (y + height) * 200
    assert 0 < found.share < 0.5


def test_what_is_masked_or_moves_in_plays_that_passed_does_not_count():
    one, other = picture(), picture((32, 32, 63, 47))
    assert not lit(one, one).places
    assert not lit(one, other, masks=[(0.05, 0.1, 0.2, 0.2)]).places
    alike = (picture((32, 32, 63, 47), colour="red"), picture((32, 32, 63, 47), colour="blue"))
    assert not lit(one, other, alike=alike).places
    assert lit(one, picture((200, 100, 300, 180)), alike=alike).places


def test_pictures_of_other_sizes_differ_where_only_one_is():
    found = lit(picture(size=(320, 200)), picture(size=(320, 260)))
    [(_, y, _, height)] = found.places
    assert y * 260 >= 190
    assert (y + height) == pytest.approx(1, abs=0.05)


def test_faint_noise_is_no_difference_and_no_picture_is_told():
    assert not lit(picture((0, 0, 319, 199), colour="#f0f0f0"), picture()).places
    with pytest.raises(BadInput, match="can not be read"):
        lit(b"no picture", picture())
