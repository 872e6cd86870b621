"""Secrets in texts: hidden in every usual form, and by their names where a test needs them."""

import base64
import html
import json
from urllib.parse import quote, quote_plus, urlencode

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.values.redaction import MASK, everywhere, forms_of, redacted
from lantern.core.values.templates import named

ODD = """kiln "9" & é's/+?"""
VALUES = st.text(st.characters(min_codepoint=32, max_codepoint=0x2FFF), min_size=4, max_size=30)


@pytest.mark.parametrize("form", sorted(forms_of(ODD)))
@pytest.mark.parametrize("case", [str, str.lower, str.upper])
def test_every_usual_form_is_hidden_in_any_case(form, case):
    text = redacted(f"before {case(form)} after", [ODD])
    assert text == f"before {MASK} after"


@given(VALUES, st.text(max_size=9), st.text(max_size=9))
def test_what_programs_make_of_a_value_shows_nothing_of_it(value, before, after):
    whole = before + value + after
    for said in (
        whole,
        quote(whole),
        quote_plus(whole),
        urlencode({"tok": whole}),
        html.escape(whole),
        json.dumps(whole),
        json.dumps({"note": whole}, ensure_ascii=False),
    ):
        assert MASK in redacted(said, [value]), said


@given(st.binary(max_size=5), st.binary(max_size=5))
def test_a_value_inside_something_in_base64_is_hidden(before, after):
    """As a password in the header of basic authentication (RFC 7617)."""
    for encode in (base64.b64encode, base64.urlsafe_b64encode):
        said = encode(before + b"wheel-and-kiln" + after).decode()
        hidden = redacted(f"Basic {said}", ["wheel-and-kiln"])
        left = hidden.replace(MASK, "").removeprefix("Basic ")
        assert MASK in hidden
        assert len(left) <= len(said) - 16


def test_short_values_are_left_since_they_are_everywhere():
    assert redacted("a 12 b", ["12"]) == "a 12 b"
    assert redacted("nothing to hide", []) == "nothing to hide"


def test_all_texts_of_a_result_are_looked_at():
    result = {"found": "kiln-9", "lookups": [{"clue": "id is kiln-9"}], "used": 1.5, "kiln-9": None}
    assert everywhere(result, lambda text: redacted(text, ["kiln-9"])) == {
        "found": MASK, "lookups": [{"clue": f"id is {MASK}"}], "used": 1.5, MASK: None,
    }  # fmt: skip


def test_what_was_typed_or_opened_stands_by_its_name():
    secrets = {"token": "a/b c", "pin": "kiln-4711"}
    assert named("/board?tok=a%2Fb%20c", secrets) == "/board?tok=${secret.token}"
    assert named("kiln-4711", secrets) == "${secret.pin}"
    assert named(base64.b64encode(b"kiln-4711").decode(), secrets) == MASK
