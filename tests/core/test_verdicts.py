"""Whose fault a failure is: what speaks for each kind, and what is put together by cause."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.elements.facts import Facts
from lantern.core.review.case import Case, Changes, Green, Line, Others
from lantern.core.review.causes import Member, fingerprint, together
from lantern.core.review.signs import READERS
from lantern.core.review.verdicts import KINDS, Sign, judge, shares_of
from lantern.core.review.words import saying, status_of
from lantern.core.searching.looked import Looked
from tests.core.samples import element

PRICE = Line(
    "q8",
    "check",
    "Check that the text of Price is “€ 5.40”",
    "failed",
    given={"property": "text", "comparison": "is", "expected": "${row.price}"},
    title="Quote",
    found="€ 5.45",
    expected="€ 5.40",
    element="price",
)
TYPED = Line("q1", "type", "Type “Moon jar” into Piece", given={"text": "${row.piece}"})
VALUES = {"piece": "Moon jar", "price": "€ 5.40"}
THEN = replace(PRICE, outcome="passed", found="€ 5.40")
GREEN = Green(7, True, VALUES, {"q8": THEN, "q1": TYPED})
DIFFERS = Case(PRICE, "check differed", "It was “€ 5.45”.", 2.0, VALUES, (TYPED,), green=GREEN)


def verdict(case):
    return judge(case, READERS)


def says(*texts, role="alert"):
    return tuple(Facts("p", role=role, text=text, own=text) for text in texts)


def test_another_price_for_the_same_values_is_the_product():
    judged = verdict(DIFFERS)
    assert judged.verdict == "product"
    assert judged.act == "raise defect"
    assert "“€ 5.40” when it passed" in judged.signs[0].told
    assert sum(judged.shares.values()) == pytest.approx(1, abs=0.001)


def test_a_row_that_expects_something_else_than_it_did_is_data():
    line = replace(PRICE, expected="€ 5.50", found="€ 5.40")
    changes = Changes(data={"price": ("€ 5.40", "€ 5.50")})
    judged = verdict(replace(DIFFERS, line=line, changes=changes))
    assert (judged.verdict, judged.act) == ("data", "edit value")
    assert judged.given == {"column": "price"}


def test_a_sentence_that_expects_something_else_than_it_did_is_the_test():
    line = replace(
        PRICE, expected="€ 9.00", found="€ 5.40", given={**PRICE.given, "expected": "€ 9.00"}
    )
    judged = verdict(replace(DIFFERS, line=line, changes=Changes(test=("x",), sentence=True)))
    assert (judged.verdict, judged.act) == ("test", "edit sentence")


def test_a_refusal_is_data_for_a_changed_row_and_the_product_for_the_same_one():
    case = replace(DIFFERS, reason="not found", nodes=says("A shelf holds 1 to 24 pieces."))
    assert verdict(case).verdict == "product"
    changed = replace(case, changes=Changes(data={"piece": ("Moon jar", "25")}))
    assert verdict(changed).verdict == "data"


@pytest.mark.parametrize(
    ("words", "kind"),
    [
        ("Your session has expired.", "environment"),
        ("OSError: [Errno 28] No space left on device", "environment"),
        ("Down for maintenance", "environment"),
        ("Internal Server Error", "product"),
    ],
)
def test_what_the_page_says_counts(words, kind):
    assert verdict(replace(DIFFERS, reason="not found", nodes=says(words))).verdict == kind


def test_an_alert_is_a_refusal_in_whatever_language_and_another_text_is_none():
    changed = Changes(data={"piece": ("Moon jar", "25")})
    case = replace(DIFFERS, reason="not found", changes=changed)
    alert = replace(case, nodes=says("Zu viele Stücke für ein Regal."))
    assert verdict(alert).verdict == "data"
    plain = replace(case, nodes=says("Zu viele Stücke für ein Regal.", role=""))
    assert "refuses" not in " ".join(one.told for one in verdict(plain).signs)


def test_words_that_were_there_when_it_passed_say_nothing():
    case = replace(DIFFERS, nodes=says("Try again later."), nodes_then=says("Try again later."))
    assert verdict(case).verdict == "product"


def test_what_came_after_the_limit_is_timing_and_an_error_that_came_is_not():
    late = {"waited": 1.5, "pending": ["POST /quote"], "busy": False, "came": True}
    case = replace(DIFFERS, late=late)
    assert (verdict(case).verdict, verdict(case).act) == ("timing", "raise limit")
    line = replace(PRICE, found="", requests=("500 http://desk/quote",))
    error = replace(case, line=line, late=late | {"came": False})
    assert verdict(error).verdict == "product"


@pytest.mark.parametrize(
    ("message", "kind"),
    [
        ("http://desk/ could not be opened: connection refused", "environment"),
        ("http://desk/ answered with the error 503.", "environment"),
        ("http://desk/ answered with the error 500.", "product"),
        ("http://desk/board answered with the error 404.", "product"),
    ],
)
def test_an_address_that_does_not_open(message, kind):
    line = Line("s1", "open", "Open “/”", "failed", given={"address": "/"})
    green = Green(7, True, {}, {"s1": replace(line, outcome="passed")})
    assert verdict(Case(line, "page error", message, green=green)).verdict == kind


TITLE = Facts("h1", role="heading", name="Quote", text="Quote")
BEFORE = (Facts("button", role="button", name="Save", text="Save"), TITLE)


def not_there(*nodes):
    """The button Save was there when it passed, and is not among what is there now."""
    save = element("Save")
    looked = Looked(save, nodes, title="Quote", wanted_title="Quote", green=BEFORE)
    line = Line("s2", "press", "Press Save", "failed", title="Quote", element=save.id)
    return Case(
        line, "not found", "The button “Save” was not on the page.", looked=looked,
        nodes=nodes, nodes_then=BEFORE, title="Quote", green=Green(7, True),
    )  # fmt: skip


def test_an_element_with_another_name_is_the_test_and_one_that_is_gone_the_product():
    now = verdict(not_there(Facts("button", role="button", name="Keep it", text="Keep it"), TITLE))
    assert (now.verdict, now.act) == ("test", "accept repair")
    assert verdict(not_there(TITLE)).verdict == "product"


def test_what_a_sentence_that_was_changed_does_not_find_is_the_test():
    """It may look too early now, or in the wrong place."""
    assert verdict(replace(not_there(TITLE), changes=Changes(sentence=True))).verdict == "test"


@pytest.mark.parametrize("names", ["abcdefgh", "12345678"])
def test_a_page_that_is_nearly_empty_was_not_made_anew(names):
    """It was not drawn, or not yet; things that differ in a number alone are many as well."""
    things = tuple(Facts("p", name=f"Shelf {name}", text=name) for name in names)
    bare = replace(not_there(TITLE), nodes_then=(*BEFORE, *things))
    assert verdict(bare).verdict == "product"
    broken = replace(bare.line, console=("Uncaught TypeError: kilns is null",))
    assert verdict(replace(bare, line=broken)).verdict == "product"
    opened = Line("s1", "open", "Open “/quote”", "passed", used=14.0)
    assert verdict(replace(bare, before=(opened,), usual={"s1": (0.7, 0.8)})).verdict == "timing"


def test_what_people_said_of_failures_like_it_weighs_most():
    assert verdict(replace(DIFFERS, corrected={"environment": 3})).verdict == "environment"


def test_without_enough_to_go_on_it_is_not_clear_and_says_what_would_help():
    line = Line("s2", "press", "Press Save", "failed")
    judged = verdict(Case(line, "not found", "It was not there."))
    assert judged.verdict == "not clear"
    assert "never passed before" in judged.wants


@given(st.lists(st.tuples(st.sampled_from(KINDS), st.floats(-8, 8)), max_size=12))
def test_shares_sum_up_and_more_for_a_kind_never_makes_it_less_likely(weights):
    signs = [Sign(kind, weight, "") for kind, weight in weights]
    shares = shares_of(signs)
    assert sum(shares.values()) == pytest.approx(1, abs=0.001)
    for kind in KINDS:
        assert shares_of([*signs, Sign(kind, 1.0, "")])[kind] >= shares[kind]


def test_words_of_pages_have_a_kind_and_statuses_are_found():
    assert saying("Porcelain is fired at cone 6 or hotter.") == "refused"
    assert saying("Moon jar") is None
    assert status_of("503 http://desk/kilns") == 503
    assert status_of("http://desk/ answered with the error 404.") == 404


# -- causes ------------------------------------------------------------------------------------


def test_rows_with_other_values_have_the_same_fingerprint_and_other_elements_do_not():
    other = replace(DIFFERS, line=replace(PRICE, found="€ 7.00", expected="€ 6.00"), message="x")
    assert fingerprint(other) == fingerprint(DIFFERS)
    elsewhere = replace(DIFFERS, line=replace(PRICE, element="total"))
    assert fingerprint(elsewhere) != fingerprint(DIFFERS)


def test_a_page_that_is_down_is_one_cause_whatever_was_looked_for():
    down = says("Service Unavailable")
    one = replace(DIFFERS, nodes=down)
    other = replace(DIFFERS, nodes=down, reason="not found", line=replace(TYPED, outcome="failed"))
    assert fingerprint(one) == fingerprint(other)


def member(number, verdict, key="a", corrected=None, share=0.8):
    shares = dict.fromkeys(KINDS, 0.05) | {"product": share}
    return Member(number, key, verdict, shares, corrected)


def test_what_is_not_clear_goes_with_its_like_and_what_people_said_holds():
    found = together(
        [member(1, "product"), member(2, "not clear", share=0.3), member(3, "data", "b")]
    )
    assert [(one.kind, [m.failure for m in one.members]) for one in found] == [
        ("product", [1, 2]),
        ("data", [3]),
    ]
    said = together([member(1, "product", corrected="timing"), member(2, "timing")])
    assert [(one.kind, len(one.members)) for one in said] == [("timing", 2)]


def test_the_data_of_one_row_stands_apart_from_what_fails_them_all():
    found = together([*(member(n, "product") for n in range(13)), member(14, "data")])
    assert [(one.kind, len(one.members)) for one in found] == [("product", 13), ("data", 1)]


def test_all_rows_that_fail_alike_speak_against_data():
    alone = replace(DIFFERS, green=None, others=Others(passed=4))
    many = replace(DIFFERS, green=None, others=Others(alike=4))
    assert verdict(alone).verdict == "data"
    assert verdict(many).verdict == "product"
