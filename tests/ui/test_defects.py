"""Working on a defect in the pages: files, what it looks like, and filters that are saved."""

from lantern.core.elements.facts import Facts
from lantern.store import models, pages
from tests.past import past
from tests.ui.pages import until

SAID = "The glaze store is locked until Friday."


def failed(stack, name, said):
    """A run of a test that failed while its page said something; returns run and result."""
    with stack.database.session() as session:
        test = session.query(models.Test.id).filter_by(name=name).scalar()
    run = past(stack.database, test, "f")[-1]
    with stack.database.session() as session:
        cast = session.query(models.Cast).filter_by(run_id=run).first()
        result = session.query(models.Result).filter_by(cast_id=cast.id, outcome="failed").one()
        nodes = [Facts("p", role="alert", text=said)]
        pages.save(session, "Glaze store", nodes, test_id=test, run_id=run, cast_id=cast.id,
                   step_id=result.step_id)  # fmt: skip
        return run, cast.id, result.id


def open_failure(lantern, run, cast, result):
    lantern.go(f"/runs/{run}?row={cast}&result={result}")
    lantern.press("Raise a defect")


def test_a_failure_elsewhere_is_recognised_by_what_the_page_said(lantern, tmp_path):
    lantern.sign_in()
    open_failure(lantern, *failed(lantern.stack, "Book a firing", SAID))
    lantern.fill("input[name=title]", "The glaze store is locked")
    lantern.press("Raise the defect")
    until(lambda: "/defects/" in lantern.driver.current_url, "the defect")
    defect = lantern.driver.current_url

    open_failure(lantern, *failed(lantern.stack, "Quotes by clay and cone", SAID))
    looks = lantern.one("[data-role=alike]")
    until(lambda: "The glaze store is locked" in looks.text, "what it looks like")
    assert SAID in looks.text
    lantern.press_one("[data-role=alike] button", "It is this one")
    until(lambda: lantern.driver.current_url == defect, "the same defect")
    until(lambda: len(lantern.all("[data-role=sighting]")) == 2, "seen in both")

    file = tmp_path / "store.log"
    file.write_text("locked by the keeper")
    lantern.one("[data-role=defect-files] input[type=file]").send_keys(str(file))
    until(lambda: "store.log" in lantern.one("[data-role=defect-files]").text, "the file kept")
    assert "file: nothing → store.log" in lantern.one("[data-role=history]").text
    lantern.one("[aria-label='Remove store.log']").click()
    until(lambda: "store.log" not in lantern.one("[data-role=defect-files]").text, "gone again")


def test_a_filter_is_saved_pressed_and_forgotten(lantern):
    lantern.sign_in()
    lantern.go("/defects")
    lantern.select("label select", "fixed")
    lantern.press("Save what is chosen")
    lantern.fill("[aria-label='Name of the filter']", "What is fixed")
    lantern.press("Save")
    until(lambda: lantern.all("[aria-label='Forget What is fixed']"), "the filter kept")
    lantern.go("/defects")
    lantern.press("What is fixed")
    chosen = "return document.querySelector('label select').value"
    until(lambda: lantern.driver.execute_script(chosen) == "fixed", "what it stands for")
    lantern.one("[aria-label='Forget What is fixed']").click()
    until(lambda: not lantern.all("[aria-label='Forget What is fixed']"), "no filter any more")
