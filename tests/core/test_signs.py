"""The signs of a verdict, one by one: what each looks at, and for which kind it speaks."""

from dataclasses import replace
from datetime import date

import pytest

from lantern.core.elements.facts import Facts
from lantern.core.review.case import Case, Changes, Green, Line, Others, uses
from lantern.core.review.signs import READERS, comparing, looking, network, timing, values
from lantern.core.searching.looked import Looked
from tests.core.samples import element, node

SAVE = element("Save")
LINE = Line("s2", "press", "Press Save", "failed", title="Quote", element=SAVE.id)
TITLE = Facts("h1", role="heading", name="Quote", text="Quote")
BUTTON = Facts("button", role="button", name="Save", text="Save")
CASE = Case(LINE, "not found", "It was not there.", 2.0, green=Green(7, True))
CHECK = replace(
    LINE,
    action="check",
    given={"property": "text", "comparison": "is", "expected": "${row.price}"},
    expected="€ 5.40",
    found="€ 5.45",
)


def told(reader, case):
    return [(one.kind, one.told) for one in reader(case) if one.told]


def kinds(reader, case):
    return [one.kind for one in reader(case)]


def lookup(nodes, *, title="Quote", wanted="Quote", then=(BUTTON, TITLE), **more):
    found = Looked(SAVE, nodes, title=title, wanted_title=wanted, green=then, **more)
    return replace(CASE, looked=found, nodes=nodes, nodes_then=then, title=title)


def test_every_sign_is_listed_once_and_says_nothing_of_a_case_that_it_is_not_about():
    assert len(set(READERS)) == len(READERS)
    plain = Case(Line("x", "press", "Press it"), "", "")
    assert [sign for reader in READERS for sign in reader(plain)] == []


def test_names_that_a_value_is_made_of_are_read_by_their_kind():
    assert uses("${row.piece} of ${env.member}: ${row.clay}", "row") == ["piece", "clay"]
    assert uses("${env.member}", "secret") == []


# -- network -------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("request_", "kind"),
    [
        ("503 http://desk/kilns", "environment"),
        ("429 http://desk/kilns", "environment"),
        ("401 http://desk/kilns", "environment"),
        ("403 http://desk/kilns", "environment"),
        ("net::ERR_CONNECTION_REFUSED http://desk/kilns", "environment"),
        ("500 http://desk/kilns", "product"),
        ("404 http://desk/kilns", "product"),
        ("422 http://desk/kilns", "product"),
    ],
)
def test_requests_that_failed_and_did_not_when_it_passed(request_, kind):
    case = replace(CASE, line=replace(LINE, requests=(request_,)))
    assert kinds(network.requests_failed, case) == [kind]
    then = {"s2": replace(LINE, requests=(request_,))}
    known = replace(case, green=Green(7, True, lines=then))
    assert kinds(network.requests_failed, known) == []


def test_an_error_of_the_application_that_tells_of_a_full_disk_is_the_environment():
    full = (Facts("p", text="No space left on device", own="No space left on device"),)
    case = replace(CASE, line=replace(LINE, requests=("500 http://desk/book",)), nodes=full)
    assert kinds(network.requests_failed, case) == ["environment"]
    opened = replace(CASE, reason="page error", message="It answered with the error 500.")
    assert kinds(network.opened, opened) == ["product"]
    assert kinds(network.opened, replace(opened, nodes=full)) == ["environment"]


@pytest.mark.parametrize(
    ("given", "changes", "kind"),
    [
        ("/bord", Changes(sentence=True), "test"),
        ("/${row.page}", Changes(), "data"),
        ("${env.start}", Changes(), "environment"),
        ("/board", Changes(), "product"),
    ],
)
def test_a_page_that_is_not_there_is_the_fault_of_who_names_it(given, changes, kind):
    line = replace(LINE, action="open", given={"address": given})
    case = Case(line, "page error", "It answered with the error 404.", changes=changes)
    assert kinds(network.opened, case)[0] == kind


def test_an_address_that_was_moved_speaks_for_the_environment():
    moved = Changes(address=("http://a", "http://b"))
    case = Case(LINE, "page error", "It could not be opened: refused", changes=moved)
    assert kinds(network.opened, case) == ["environment", "environment"]
    slow = Case(LINE, "page error", "It could not be opened: no answer within 2 s")
    assert kinds(network.opened, slow)[0] == "timing"
    no = Case(LINE, "page error", "It answered with the error 403.")
    assert kinds(network.opened, no) == ["environment", "data"]


def test_a_script_that_fails_is_the_product_unless_it_could_not_be_loaded():
    case = replace(CASE, line=replace(LINE, console=("Uncaught TypeError: x is not a function",)))
    assert kinds(network.complaints, case) == ["product"]
    cut = replace(case.line, requests=("net::ERR_FAILED http://desk/desk.js",))
    assert kinds(network.complaints, replace(case, line=cut)) == []


def refused(**more):
    text = "The drop-off date has passed."
    return replace(CASE, nodes=(Facts("p", role="alert", text=text, own=text),), **more)


def test_a_refusal_speaks_for_what_was_changed_since_the_page_took_it():
    typed = Line("s1", "type", "Type it", given={"text": "${row.day}"})
    row = {"day": ("2026-12-01", "2026-01-01")}
    assert kinds(network.page_says, refused(before=(typed,), changes=Changes(data=row))) == ["data"]
    variables = Changes(variables=("The environment's member was “a” and is “b”.",))
    assert kinds(network.page_says, refused(changes=variables)) == ["data"]
    assert kinds(network.page_says, refused(changes=Changes(before=True))) == ["test"]
    assert kinds(network.page_says, refused()) == ["product"]
    over = refused(values={"day": "2026-01-01"}, today=date(2026, 11, 28))
    ((kind, words),) = told(network.page_says, over)
    assert kind == "data"
    assert "A date of the row has passed since." in words


def test_a_machine_that_broke_is_the_environment():
    case = replace(CASE, reason="browser died", message="The browser stopped working: crash")
    assert kinds(network.broken_machine, case) == ["environment"]


# -- looking -------------------------------------------------------------------------------------


def test_another_page_is_told_by_what_leads_there():
    other = lookup((TITLE,), title="Welcome")
    assert kinds(looking.not_found, other) == ["product"]
    assert kinds(looking.not_found, replace(other, changes=Changes(before=True))) == ["test"]
    waits = replace(other, late={"pending": ["GET /quote"]})
    assert kinds(looking.not_found, waits) == ["timing"]
    same = lookup(
        (TITLE,),
        title="Welcome",
        address="http://desk/quote/2",
        wanted_address="http://desk/quote/1",
    )
    assert kinds(looking.not_found, same) == ["test"]


def sign_in(*before, **more):
    field = node("input", "Password", attributes={"type": "password"})
    return replace(lookup((field,), title="Sign in"), before=before, **more)


def test_a_sign_in_page_is_told_by_what_was_played_before():
    password = Line("p", "type", "Type it", given={"text": "${secret.pin}"}, title="Sign in")
    inside = Line("q", "type", "Type it", title="Quote")
    assert kinds(looking.not_found, sign_in()) == ["test"]
    assert kinds(looking.not_found, sign_in(password, inside)) == ["environment"]
    assert kinds(looking.not_found, sign_in(password)) == ["data", "environment"]
    waits = sign_in(password, late={"pending": ["POST /sign-in"]})
    assert kinds(looking.not_found, waits) == []


def test_a_dialog_speaks_for_the_test_and_clues_that_were_changed_as_well():
    asks = lookup((TITLE,), dialog="Delete it?")
    assert kinds(looking.not_found, asks) == ["test"]
    edited = replace(lookup((TITLE,)), changes=Changes(element=True))
    assert kinds(looking.not_found, edited) == ["test"]
    assert kinds(looking.page_changed, edited) == []


def test_a_page_that_was_made_anew_speaks_for_the_test():
    then = (BUTTON, *(Facts("a", role="link", name=f"Old {n}", text="x") for n in "abcd"))
    now = tuple(Facts("a", role="link", name=f"New {n}", text="x") for n in "abcd")
    ((kind, words),) = told(looking.page_changed, lookup(now, then=then))
    assert kind == "test"
    assert "The page was made anew." in words


def test_the_same_thing_twice_may_be_the_product_and_wide_clues_are_the_test():
    twins = (node("button", "Save", 1), node("button", "Save", 2))
    twice = replace(lookup(twins, then=(node("button", "Save", 1),)), reason="found several")
    assert kinds(looking.several, twice) == ["product", "test"]
    wider = replace(twice, changes=Changes(element=True))
    assert kinds(looking.several, wider) == ["test"]
    assert kinds(looking.several, replace(twice, looked=None)) == ["test"]


@pytest.mark.parametrize(
    ("message", "kind"),
    [
        ("The button “Save” does not stop moving; it did not get ready in 2 s.", "timing"),
        ("The press on “Save” went to p: the page moved at the last moment.", "timing"),
        ("The button “Save” is covered by div “Opening hours”; …", "test"),
        ("The button “Save” is covered by div “Loading…”", "timing"),
        ("The button “Save” is shown but disabled; it did not get ready in 2 s.", "product"),
        ("The button “Save” is on the page but not shown; it did not …", "product"),
        ("The page asks “Sure?” and waits for an answer.", "test"),
        ("The page went away while this sentence was carried out.", "timing"),
    ],
)
def test_what_keeps_input_away_has_a_kind(message, kind):
    case = replace(CASE, reason="not ready", message=message)
    assert kinds(looking.not_ready, case)[0] == kind


# -- values --------------------------------------------------------------------------------------


def test_a_new_row_is_held_against_the_other_rows():
    case = Case(CHECK, "check differed", "", values={"price": "€ 5.40"}, green=Green(7, False))
    assert kinds(values.differs, replace(case, others=Others(passed=3))) == ["data"]
    assert kinds(values.differs, replace(case, others=Others(alike=3))) == ["product"]
    assert kinds(values.differs, case) == ["data"]


def test_a_check_that_never_held_is_not_clear_and_one_of_another_row_is():
    fixed = replace(CHECK, given={**CHECK.given, "expected": "€ 5.40"})
    assert kinds(values.differs, Case(fixed, "check differed", "")) == ["test", "product"]
    other = Case(fixed, "check differed", "", green=Green(7, False))
    assert kinds(values.differs, other) == ["product"]


def test_what_is_only_written_otherwise_is_said():
    comma = replace(CHECK, found="€ 5,40")
    case = Case(comma, "check differed", "", green=Green(7, False), others=Others(passed=1))
    assert "only written otherwise" in told(values.differs, case)[-1][1]


@pytest.mark.parametrize(
    ("given", "changes", "green", "kind"),
    [
        ("${row.clay}", Changes(data={"clay": ("Raku", "Rakoo")}), True, "data"),
        ("${row.clay}", Changes(), False, "data"),
        ("${env.clay}", Changes(), False, "data"),
        ("Rakoo", Changes(sentence=True), True, "test"),
        ("Raku", Changes(), True, "product"),
        ("Raku", Changes(), False, "test"),
    ],
)
def test_a_value_that_can_not_be_used_has_a_kind(given, changes, green, kind):
    line = replace(LINE, action="choose", given={"option": given})
    then = Green(7, True, lines={"s2": replace(line, outcome="passed")}) if green else None
    case = Case(
        line, "bad value", "“Rakoo” is not among the 4 options.", green=then, changes=changes
    )
    assert kinds(values.no_value, case) == [kind]


def test_code_of_the_test_is_the_test():
    assert kinds(values.code, replace(CASE, reason="code failed")) == ["test"]


# -- timing --------------------------------------------------------------------------------------


def test_usual_times_tell_a_tight_limit_and_a_slow_sentence_before():
    assert kinds(timing.tight, replace(CASE, usual={"s2": [0.2, 1.6]})) == ["timing"]
    assert kinds(timing.tight, replace(CASE, usual={"s2": [0.2, 0.3]})) == []
    slow = Line("s1", "press", "Press Sign in", used=4.0)
    case = replace(CASE, before=(slow,), usual={"s1": [0.5, 0.6, 0.5]})
    assert told(timing.slow_before, case) == [
        ("timing", "“Press Sign in” took 4.0 s, usually 0.5 s.")
    ]
    assert kinds(timing.slow_before, replace(case, usual={"s1": [3.0]})) == []


def test_a_page_that_says_or_shows_that_it_is_busy():
    busy = (Facts("p", text="Loading…", own="Loading…"),)
    assert kinds(timing.says_busy, replace(CASE, nodes=busy)) == ["timing"]
    shows = {"waited": 4.0, "pending": [], "busy": True, "came": False}
    assert kinds(timing.came_later, replace(CASE, late=shows)) == ["timing"]


def test_a_row_that_passed_when_it_was_played_once_more():
    again = replace(CASE, others=Others(again=True))
    assert kinds(timing.passes_again, again) == ["timing", "environment"]


# -- comparing -----------------------------------------------------------------------------------


def test_other_browsers_speak_against_data_and_the_test():
    case = replace(CASE, others=Others(same_row=("firefox",)))
    assert [(one.kind, one.weight < 0) for one in comparing.other_rows(case)] == [
        ("data", True),
        ("test", True),
    ]


def test_what_was_changed_is_under_suspicion():
    changes = Changes(
        before=True,
        test=("changed a sentence",),
        release=("spring", "summer"),
        address=("http://a", "http://b"),
        browser=("Chromium 155", "Chromium 156"),
        station=("one", "two"),
        variables=("The environment's member was “a” and is “b”.",),
    )
    found = kinds(comparing.changed, replace(CASE, changes=changes))
    assert found == ["product", "test", *["environment"] * 3, "data"]
    words = changes.in_words()
    assert "The release was spring and is summer." in words
    assert "The test was changed: changed a sentence." in words
    nothing = replace(CASE, reason="check differed")
    assert [one.weight < 0 for one in comparing.changed(nothing)] == [True, True]
    assert kinds(comparing.changed, replace(CASE, green=None)) == []


def test_what_people_said_is_counted():
    said = replace(CASE, corrected={"timing": 2, "data": 1})
    assert [words for _, words in told(comparing.people_said, said)] == [
        "People called failures like it data once.",
        "People called failures like it timing 2 times.",
    ]
