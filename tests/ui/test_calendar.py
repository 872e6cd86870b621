"""Plans that start by themselves, and the calendar, through the pages."""

from datetime import datetime, timedelta

from selenium.webdriver.common.action_chains import ActionChains

from lantern.core.plans.model import Pick, Plan
from lantern.core.plans.schedule import Schedule
from lantern.core.steps.model import Step
from lantern.store import plans, schedules
from lantern.store.models import Schedule as Row
from tests.ui.pages import until
from tests.ui.rehearsals import make


def a_plan(stack, name):
    test = make(stack, f"Opened for {name}", Step("o", "open", inputs={"address": "/sign-in"}))
    with stack.database.session() as session:
        return plans.create(session, name, Plan((Pick(test=test),)), None).id


def set_value(lantern, css, value):
    """Give a field of a date or a time its value, as no keyboard does it in every language."""
    lantern.driver.execute_script(
        "arguments[0].value = arguments[1];"
        "arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
        lantern.one(css),
        value,
    )


def test_a_schedule_set_to_a_past_time_starts_its_plan_once(lantern):
    plan = a_plan(lantern.stack, "In the past")
    lantern.sign_in()
    lantern.go(f"/plans/{plan}")
    lantern.press("Add a time")
    until(lambda: "at 03:00" in lantern.one("[data-role=preview]").text, "the usual one in words")
    lantern.select("[aria-label='How often']", "by a cron expression")
    lantern.fill("[aria-label='Cron expression']", "0 25 * * *")
    until(
        lambda: "no time that repeats" in lantern.one("[data-role=preview]").text, "what is wrong"
    )
    lantern.fill("[aria-label='Cron expression']", "30 4 * * 2")
    until(lambda: "04:30 on Tuesday" in lantern.one("[data-role=preview]").text, "in words")
    lantern.select("[aria-label='How often']", "once")
    set_value(lantern, "[aria-label='At what time']", "2026-01-02T03:04")
    lantern.sees("it starts at once, once")
    lantern.press("Save")
    until(lambda: "last" in lantern.one("[data-role=schedules]").text, "it was started", 30)
    until(lambda: lantern.all("[data-role=schedules] a[href^='/plan-runs/']"), "its run")
    lantern.one("[data-role=schedules] a[href^='/plan-runs/']").click()
    until(lambda: lantern.one("[data-role=plan-state]").text == "passed", "its run's end", 60)
    lantern.go("/plans/calendar")
    # A full day shows the first ones alone.
    until(lambda: "In the past" in lantern.one("label select").text, "the plan is offered")
    lantern.select("label select", "In the past")
    until(
        lambda: any("In the past" in one.text for one in lantern.all("[data-entry=run]")),
        "the calendar shows the run today",
    )


def test_what_is_to_come_is_dragged_to_another_day_and_pressed_to_open(lantern):
    stack = lantern.stack
    plan = a_plan(stack, "Carried")
    today = datetime.now().astimezone().replace(hour=12, minute=0, second=0, microsecond=0)
    # Two days of one week of the month that is shown, both still to come.
    first = today.replace(day=1) + timedelta(days=45)
    first = first.replace(day=1 + (7 - first.replace(day=1).weekday()) % 7)
    with stack.database.session() as session:
        key = schedules.make(session, plan, Schedule(at=first), None).id
    lantern.sign_in()
    lantern.go("/plans/calendar")
    until(lambda: lantern.one("[data-role=month]"), "a month")

    shown = first.strftime("%B %Y")
    until(
        lambda: lantern.one("[data-role=shown]").text == shown or lantern.press("On"),
        "the month in which it is to come",
    )
    entry = until(
        lambda: next((e for e in lantern.all("[data-entry=planned]") if "Carried" in e.text), None),
        "it is there",
    )
    to = first + timedelta(days=2)
    target = lantern.one(f"[data-day='{to.strftime('%a %b %d %Y')}']")
    ActionChains(lantern.driver).drag_and_drop(entry, target).perform()

    def there():
        with stack.database.session() as session:
            return session.get_one(Row, key).next_at == to

    until(there, "the day it was dragged to, at the same time of day")
    lantern.one(f"[data-day='{to.strftime('%a %b %d %Y')}'] button").click()
    lantern.one("[data-role=grid]")
    lantern.press_one("[data-entry=planned]", "Carried")
    until(lambda: f"/plans/{plan}" in lantern.driver.current_url, "its plan")
    lantern.sees("When it starts by itself")
