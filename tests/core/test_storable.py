"""Text that can be kept, whatever came in."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.storable import UNREADABLE, read_json, storable

ANY = st.recursive(
    st.text(st.characters(codec=None)) | st.integers() | st.none(),
    lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner),
)


@given(st.text(st.characters(codec=None)))
def test_what_was_made_storable_can_be_written_and_stays_so(text):
    kept = storable(text)
    assert "\x00" not in kept
    kept.encode()
    assert storable(kept) == kept
    assert len(kept) == len(text)


@given(ANY)
def test_json_from_outside_reads_as_it_is_but_for_what_no_database_keeps(value):
    read = read_json(json.dumps(value))
    wanted = json.loads(json.dumps(value))  # pairs of halves become one character there
    assert read == _stored(wanted)
    json.dumps(read, ensure_ascii=False).encode()


def _stored(value):
    if isinstance(value, str):
        return storable(value)
    if isinstance(value, list):
        return [_stored(one) for one in value]
    if isinstance(value, dict):
        return {_stored(name): _stored(one) for name, one in value.items()}
    return value


def test_a_cut_emoji_is_told_from_a_whole_one_and_from_words_about_it():
    assert read_json(r'["\ud83d", "\ud83d\ude00", "\\ud83d", "\u0000"]') == [
        UNREADABLE, "\U0001f600", r"\ud83d", UNREADABLE,
    ]  # fmt: skip


@pytest.mark.parametrize("text", ["", "{", b"\xff\xfe{", "[" * 200_000])
def test_what_is_no_json_is_a_value_error(text):
    with pytest.raises(ValueError):
        read_json(text)
