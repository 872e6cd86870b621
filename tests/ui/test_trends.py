"""The pages of trends and requirements, on runs of days gone by."""

from lantern.core.steps.edits.settings import SetLabels
from lantern.demo.data import quote_test
from lantern.store import tests
from lantern.store.models import Environment
from tests.past import past
from tests.ui.pages import until


def made(stack, name):
    with stack.database.session() as session:
        environment = Environment(name=f"Of {name}", address=stack.desk_address)
        session.add(environment)
        session.flush()
        return tests.create(session, name, environment.id, None, quote_test()).id


def line_of(lantern, table, words):
    """What the row of a table says that has these words."""

    def found():
        rows = lantern.driver.find_elements("css selector", f"{table} tr")
        return next((row.text for row in rows if words in row.text), None)

    return until(found, f"“{words}” in {table}")


def test_trends_tell_how_tests_stand_and_lead_to_each_run(lantern):
    lantern.sign_in()
    stack = lantern.stack
    falling, shaky = made(stack, "Falls since Tuesday"), made(stack, "Comes and goes")
    runs = past(stack.database, falling, "pppppppppff")
    past(stack.database, shaky, "ppfppupppppp", releases=dict.fromkeys(range(12), "steady-1"))
    lantern.go("/")
    lantern.one("[data-role=days] canvas")
    lantern.press("Trends")
    group = lantern.one("[aria-label='Still failing']")
    assert "Falls since Tuesday" in group.text
    assert "Falls since Tuesday" not in lantern.one("[data-role=unsteady]").text
    assert "2 of 12" in line_of(lantern, "[data-role=unsteady]", "Comes and goes")

    # The same in figures, by release, without a chart.
    lantern.one("[aria-label=Outcomes] canvas")
    lantern.press_one("[aria-label=Outcomes] button", "release")
    lantern.press_one("[aria-label=Outcomes] label", "in figures")
    told = line_of(lantern, "[aria-label=Outcomes] table", "steady-1")
    assert told.split()[1:4] == ["10", "1", "1"]

    # Each cell of the map leads to its run.
    lantern.one(f"[data-role=heat-map] a[href='/runs/{runs[-1]}']").click()
    until(lambda: lantern.driver.current_url.endswith(f"/runs/{runs[-1]}"), "the run")
    assert lantern.one("[data-role=run-state]").text == "failed"


def test_requirements_show_what_covers_them_and_what_nothing_does(lantern, tmp_path):
    lantern.sign_in()
    stack = lantern.stack
    test = made(stack, "Covers a requirement")
    with stack.database.session() as session:
        tests.edit(session, test, SetLabels(("EMB-512",)), None)
    past(stack.database, test, "pf", releases={0: "spring 512", 1: "summer 512"})
    known = tmp_path / "known.csv"
    known.write_text("id;title\nEMB-512;Prices are right\nEMB-513;Nobody checks this\n")
    lantern.go("/trends")
    lantern.press("Requirements")
    lantern.one("input[type=file]").send_keys(str(known))
    lantern.sees("2 requirements are known now")
    row = lantern.one("[data-requirement='EMB-512']")
    assert "Covers a requirement" in row.text
    assert ("passed" in row.text, "failed" in row.text) == (True, True)
    assert "no test" in lantern.one("[data-requirement='EMB-513']").text
    lantern.press_one("button", "Nothing covers")
    until(lambda: not lantern.all("[data-requirement='EMB-512']"), "only what nothing covers")
    lantern.one("[data-requirement='EMB-513']")
