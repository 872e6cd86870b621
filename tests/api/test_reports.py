"""Reports given out, mailed with what was commented, and on order; printed by a station."""

import io
import json
import threading
import time
from datetime import UTC, datetime, timedelta
from functools import partial

import jsonschema
import pytest
from docx import Document
from sqlalchemy import select, update

from lantern.station.printing import carry_out
from lantern.store import printing, reporting
from lantern.store.models import Account, Mail, Print, ReportOrder
from lantern.store.outbox import send_due
from lantern.store.printing import NotPrinted, print_pdf
from lantern.store.vault import Vault
from lantern.web.mailing import mailer
from lantern.web.reporting import make as make_report
from tests.api.conftest import Client
from tests.api.planning import BOOKING
from tests.api.test_mails import played
from tests.past import past

DAILY = {"cron": "0 7 * * *", "zone": "UTC"}


@pytest.fixture
def run(client, ids, database):
    """A run whose first row failed, with a comment."""
    key = past(database, ids["Book a firing"], "pf")[-1]
    client.post("/comments", place="run", key=key, text="Cone 10 only, says Wren", looked=True)
    return key


@pytest.fixture
def send(database):
    return lambda: send_due(
        database, Mail, mailer(Vault(), "https://lantern.example", partial(make_report, database))
    )


@pytest.mark.parametrize("form", ["html", "docx", "md", "xlsx", "csv", "ods", "json", "xml"])
def test_a_run_is_given_out_in_every_form(client, run, form):
    answer = client.get(f"/runs/{run}/report.{form}", template="short")
    assert answer.status_code == 200
    assert f"run-{run}.{form}" in answer.headers["Content-Disposition"]
    assert len(answer.data) > 100


def test_templates_forms_and_runs_that_there_are_not_are_told(client, run):
    assert client.get(f"/runs/{run}/report.html", template="long").status_code == 422
    assert client.get(f"/runs/{run}/report.rtf").status_code == 422
    assert client.get("/runs/99999/report.html").status_code == 404
    assert client.get("/plan-runs/99999/report.docx").status_code == 404
    assert client.get("/trends/report.md", zone="Nowhere/There").status_code == 422
    told = client.get("/reports/choices").json
    assert [one["name"] for one in told["templates"]] == ["full", "short", "managers"]
    assert all(one["told"] and one["of_trends"] != one["told"] for one in told["templates"])


def test_what_changed_and_which_defects_there_are_stand_in_it(client, run):
    cast = client.get(f"/runs/{run}").json["casts"][0]
    [result] = client.get(f"/casts/{cast['id']}/results").json["results"]
    draft = client.get(f"/results/{result['id']}/defect").json
    texts = {name: draft[name] for name in ("severity", "steps", "expected", "found")}
    client.post("/defects", result_id=result["id"], title="Wrong price", **texts)
    words = client.get(f"/runs/{run}/report.md", template="managers").text
    assert "fails newly" in words
    assert "Wrong price" in words
    assert "Cone 10 only, says Wren" in words


def test_trends_are_reported_and_json_is_as_its_schema_says(client, run):
    schema = client.get("/report.schema.json").json
    for path in (f"/runs/{run}/report.json", "/trends/report.json"):
        jsonschema.validate(client.get(path).json, schema)
    paper = Document(io.BytesIO(client.get("/trends/report.docx", days=7).data))
    assert any("Book a firing" in one.text for one in paper.paragraphs)


def test_a_report_is_mailed_with_what_was_commented(
    client,
    run,
    box,
    server,
    people,
    send,
):
    report = {"what": "run", "key": run, "template": "full", "form": "html"}
    word = "Please look before noon"
    to = [people["wren"], people["pia"]]
    said = f"{word}: wheel-and-kiln"  # a secret that a person writes goes to nobody
    answer = client.post("/reports/mail", report=report, people=to, word=said)
    assert answer.json == {"mails": 2, "without": []}
    assert send() == 2
    [first, _] = box.all()
    assert f"{word}: ••••••" in first.text("plain")
    assert "wheel-and-kiln" not in first.message.as_string()
    assert f"https://lantern.example/runs/{run}" in first.text("html")
    [file] = list(first.message.iter_attachments())
    assert file.get_filename() == f"run-{run}.html"
    assert "Cone 10 only, says Wren" in file.get_content()


def test_who_has_no_address_is_named_and_a_run_that_is_gone_is_given_up(
    client,
    run,
    box,
    server,
    people,
    send,
    database,
):
    with database.session() as session:
        session.execute(update(Account).filter_by(username="pia").values(email=""))
    report = {"what": "run", "key": run}
    told = client.post("/reports/mail", report=report, people=[people["pia"], people["odo"]]).json
    assert told == {"mails": 1, "without": ["Pia Marlow"]}
    with database.session() as session:
        session.execute(update(Mail).values(report={"what": "run", "key": 99_999}))
    send()
    assert box.all() == []
    with database.session() as session:
        assert set(session.scalars(select(Mail.state))) == {"given up"}


def test_nobody_and_no_server_are_told(client, run, people):
    report = {"what": "run", "key": run}
    assert client.post("/reports/mail", report=report, people=[people["odo"]]).status_code == 422
    assert client.post("/reports/mail", report=report, people=[]).status_code == 422


def order(lead, whom, **more):
    body = {
        "name": "Every morning",
        "report": {"what": "trends", "template": "managers", "form": "docx", "days": 7},
        "people": [whom["wren"]],
        "schedule": DAILY,
    }
    return lead.post("/reports/orders", **body | more)


def make_due(database):
    with database.session() as session:
        past_time = datetime.now(UTC) - timedelta(minutes=1)
        session.execute(update(ReportOrder).values(next_at=past_time))


def test_a_report_on_order_goes_out_at_its_time_and_once(
    client,
    lead,
    run,
    box,
    server,
    people,
    send,
    database,
):
    made = order(lead, people)
    assert made.status_code == 200, made.json
    assert reporting.send_due(database) == 0, "its time has not come"
    make_due(database)
    assert reporting.send_due(database) == 1
    assert reporting.send_due(database) == 0
    send()
    [mail] = box.all()
    assert "“Every morning” is on order for you." in mail.text("plain")
    [file] = list(mail.message.iter_attachments())
    assert file.get_filename() == "trends-7-days.docx"
    again = lead.get("/reports/orders").json["orders"][0]
    assert datetime.fromisoformat(again["next_at"]) > datetime.now(UTC)


def test_an_order_of_a_plan_tells_of_its_newest_run_that_is_over(
    client,
    lead,
    make,
    box,
    server,
    people,
    send,
    database,
):
    plan = make()["id"]
    report = {"what": "plan run", "template": "short", "form": "md"}
    assert order(lead, people, report=report, plan=plan).status_code == 200
    make_due(database)
    assert reporting.send_due(database) == 1
    assert send() == 0, "it never ran: there is nothing to tell"
    key = played(client, database, plan, {BOOKING: "failed"})
    make_due(database)
    reporting.send_due(database)
    send()
    [mail] = [one for one in box.all() if list(one.message.iter_attachments())]
    [file] = list(mail.message.iter_attachments())
    assert file.get_filename() == f"plan-run-{key}.md"
    assert BOOKING in file.get_content()


def test_orders_are_for_leads_checked_and_can_be_dropped(
    client,
    lead,
    people,
    make,
):
    assert order(client, people).status_code == 403
    assert client.get("/reports/orders").status_code == 403
    plan_run = {"what": "plan run"}
    for wrong in (
        {"name": " "},
        {"people": []},
        {"schedule": {"cron": "not a time"}},
        {"report": plan_run},
        {"plan": make()["id"]},
        {"report": {"what": "trends", "form": "rtf"}},
    ):
        assert order(lead, people, **wrong).status_code == 422, wrong
    key = order(lead, people).json["id"]
    body = {"report": plan_run, "plan": make(name="Other")["id"], "people": [people["odo"]]}
    body |= {"schedule": DAILY, "version": 1}
    changed = lead.put(f"/reports/orders/{key}", name="Nightly", **body)
    assert (changed.json["name"], changed.json["names"]) == ("Nightly", ["Odo Fennick"])
    late = lead.put(f"/reports/orders/{key}", name="Of somebody who read it before", **body)
    assert (late.status_code, late.json["code"]) == (409, "conflict")
    assert lead.delete(f"/reports/orders/{key}").status_code == 200
    assert lead.get("/reports/orders").json["orders"] == []


# -- printing -------------------------------------------------------------------------------------


def a_station(database, pdf, done):
    """Print whatever is asked for, until `done`."""
    while not done.is_set():
        with database.session() as session:
            waiting = session.scalars(select(Print.id).filter(Print.done_at.is_(None))).all()
        for key in waiting:
            carry_out(database, key, pdf)
        done.wait(0.05)


@pytest.fixture
def station(database):
    done = threading.Event()

    def start(pdf):
        threading.Thread(target=a_station, args=(database, pdf, done), daemon=True).start()

    yield start
    done.set()


def test_a_pdf_is_printed_by_a_station_and_left_by_nobody(client, run, station, database):
    asked = []
    station(lambda html: asked.append(html) or b"%PDF-1.7 printed")
    answer = client.get(f"/runs/{run}/report.pdf")
    assert answer.data == b"%PDF-1.7 printed"
    assert answer.mimetype == "application/pdf"
    assert "Cone 10 only" in asked[0]
    with database.session() as session:
        assert session.scalars(select(Print)).all() == []


def test_without_a_station_or_with_one_that_fails_it_is_told(database, station):
    with pytest.raises(NotPrinted, match="in time"):
        print_pdf(database, b"<p>", patience=0.3)

    def broken(_):
        from lantern.browser.errors import BrowserError

        raise BrowserError("It did not start.")

    station(broken)
    with pytest.raises(NotPrinted) as raised:
        print_pdf(database, b"<p>", patience=10)
    assert raised.value.hint == "It did not start."
    with database.session() as session:
        assert session.scalars(select(Print)).all() == []


def test_where_the_station_that_took_it_died_another_prints_it(database, monkeypatch):
    """The first offer is taken and nothing comes of it; the second is carried out."""
    offers = []

    def offered(session, key):
        offers.append(key)
        if len(offers) == 2:
            printing.done(session, key, b"%PDF-2", "")

    monkeypatch.setattr(printing, "offer_print", offered)
    assert print_pdf(database, b"<p>", patience=3) == b"%PDF-2"


def test_what_nobody_wants_any_more_is_not_printed(database):
    printed = []
    carry_out(database, 12345, printed.append)
    assert printed == []
    with database.session() as session:
        session.add(Print(html=b"old", at=datetime.now(UTC) - timedelta(days=1)))
    begun = time.monotonic()
    with pytest.raises(NotPrinted):
        print_pdf(database, b"new", patience=0.1)
    assert time.monotonic() - begun < printing.PATIENCE
    with database.session() as session:
        assert session.scalars(select(Print)).all() == []


def test_a_viewer_may_read_reports_but_mail_none(client, run, people):
    viewer = Client(client.http.application, "pia")
    assert viewer.get(f"/runs/{run}/report.html").status_code == 200
    report = {"what": "run", "key": run}
    assert viewer.post("/reports/mail", report=report, people=[people["odo"]]).status_code == 403
    assert json.loads(viewer.get(f"/runs/{run}/report.json").text)["id"] == run
