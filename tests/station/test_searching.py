"""Why an element was not found: looked for on a real stage that is held."""

import pytest

from lantern.store import elements
from tests.station.rehearser import BOOK, OPEN, PAGE, press


def broken(rehearser, script, element=BOOK, limit=0.5):
    """Hold at a press of an element that the page, changed by a script, does not give; search."""
    rehearser.test(OPEN, press("p", element), limit=limit)
    with rehearser.database.session() as session:
        elements.save(session, rehearser.learned(element))
    rehearser.site.put("/", PAGE + f"<script>{script}</script>")
    rehearser.begin()
    rehearser.held("p", "trouble")
    rehearser.send(type="search", seconds=8)
    return rehearser.heard("search", lambda one: one["state"] == "done")["answers"]


NAMED = "const book = [...document.querySelectorAll('button')][0];"


@pytest.mark.parametrize(
    ("script", "cause", "act"),
    [
        ("book.textContent = 'Reserve'; ", "clue", "use clues"),
        ("book.textContent = 'BOOK'", "case", "use clues"),
        ("book.remove()", "gone", "raise defect"),
        ("book.disabled = true", "disabled", ""),
        ("book.style.display = 'none'", "hidden", ""),
        ("book.after(book.cloneNode(true))", "several", "use clues"),
        (
            "book.remove(); setTimeout(() => document.body.append(book), 1400)",
            "later",
            "raise limit",
        ),
        (
            "document.body.insertAdjacentHTML('beforeend', '<div style=\"position:fixed;inset:0;"
            "background:#eee\">Winter hours <button>Understood</button></div>')",
            "covered",
            "close first",
        ),
    ],
)
def test_the_search_names_the_cause_first_and_offers_what_helps(rehearser, script, cause, act):
    answers = broken(rehearser, NAMED + script)
    assert (answers[0]["cause"], answers[0]["act"]) == (cause, act), answers


def test_the_search_looks_into_other_windows_and_knows_a_sign_in_page(rehearser):
    page = "document.title = 'Sign in'; document.body.innerHTML = '<h1>Sign in</h1>Password "
    page += "<input type=password name=p><button>Sign in</button>'"
    answers = broken(rehearser, page)
    assert answers[0]["cause"] == "sign in", answers


def test_candidates_are_told_with_their_shares_and_lit(rehearser):
    twice = PAGE.replace("<button onclick", "<button id=book>Book</button><button onclick")
    rehearser.test(OPEN, press("p", BOOK), limit=0.3)
    with rehearser.database.session() as session:
        elements.save(session, rehearser.learned(BOOK))
    rehearser.site.put("/", twice)
    rehearser.begin()
    rehearser.held("p", "trouble")
    rehearser.send(type="candidates")
    found = rehearser.heard("candidates")
    fitting = [one for one in found["all"] if one["fits"]]
    assert (found["name"], len(fitting)) == ("Book", 2)
    assert all(one["box"]["width"] > 0 for one in fitting)
    assert found["all"][0]["share"] >= found["all"][-1]["share"]
