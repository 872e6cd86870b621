"""Before a change: what an element touches, from its own page, down to the plan and the person."""

from lantern.core.plans.model import Pick, Plan
from lantern.store import models, plans, tests
from tests.ui.pages import until


def test_what_an_element_touches_is_seen_before_it_is_changed(lantern):
    with lantern.stack.database.session() as session:
        odo = session.query(models.Account.id).filter_by(username="odo").scalar()
        test = tests.named(session, "Book a firing")
        name = "Touched every night"
        plans.create(session, name, Plan((Pick("test", test=test.id),)), odo)
    lantern.sign_in()
    lantern.go("/pages?page=Quote - Kiln Desk&element=demo-ask")
    until(
        lambda: len(lantern.all("[data-role=touches]")) == 2, "that of the page, and of the element"
    )
    lantern.all("[data-role=touches]")[1].click()
    told = lantern.one("[data-role=impact]")
    until(lambda: "A change of Get a quote touches" in told.text, "what it touches")
    assert "Book a firing" in told.text
    assert name in told.text
    assert "Odo Fennick" in told.text

    lantern.go("/settings")
    lantern.press("Touches…")
    until(lambda: "A change of" in lantern.one("[data-role=impact]").text, "the environment")
    assert "Book a firing" in lantern.one("[data-role=impact]").text
