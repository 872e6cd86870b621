"""Long lists: each row once, in order, however one goes through them; and what holds them up."""

import base64

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import UniqueConstraint, event, select

from lantern.core.elements.clues import Element as Clued
from lantern.store import elements, lists, paging
from lantern.store.models import Account, Base, Cast, Defect, Run, Test
from tests.api.conftest import Client

TEXTS = dict.fromkeys("steps expected found environment browser release".split(), "-")
NAMES = st.lists(st.sampled_from("abcdeÄß'\"\\%_ "), min_size=1, max_size=30)
DEEP = base64.b64encode(b"[" * 3000).decode()
"""A mark that holds more than anybody takes apart."""
LISTS = {
    "/tests": "tests",
    "/runs": "runs",
    "/defects": "defects",
    "/security-events": "events",
}
PARTS = {
    "/flows": "flows",
    "/tables": "tables",
    "/pages": "pages",
    "/elements": "elements",
    "/people": "people",
}
"""What tests are made of, and who makes them: each with the name of its list."""
BODY = {"steps": [{"id": "a"}, {"id": "b"}], "rows": {"chunks": [], "count": 7}}


def run_of(test, state, kind="run"):
    return Run(
        kind=kind, state=state, test_id=test.id, test_name=test.name, test_version=1,
        environment_name="x", address="http://x", body={"steps": []}, elements={},
        casts=[Cast(position=0, number=1, values={}, outcome=state)],
    )  # fmt: skip


@pytest.fixture
def many(database):
    """120 tests beside the demo's, some that failed last, some that never ran."""
    with database.session() as session:
        made = [Test(name=f"Kiln {n:03}", environment_id=1, body=BODY) for n in range(120)]
        session.add_all(made)
        session.flush()
        for n, test in enumerate(made):
            if n % 3:
                session.add(run_of(test, "passed" if n % 3 == 1 else "failed"))
                session.flush()
                session.add(run_of(test, "running", kind="try"))
    return database


def through(client, path, name, **query):
    """All rows of a list, page by page."""
    rows, after = [], ""
    while True:
        page = client.get(path, after=after, **query).json
        rows += page[name]
        after = page["next"]
        if not after:
            return rows


@pytest.mark.parametrize(
    ("order", "key"),
    [
        ("changed", lambda test: test["changed_at"]),
        ("name", lambda test: test["name"].lower()),
        ("outcome", lambda test: (test["last_run"] or {"state": "never ran"})["state"]),
    ],
)
def test_tests_are_listed_in_every_order_each_once(many, client, order, key):
    found = through(client, "/tests", "tests", order=order)
    keys = [key(test) for test in found]
    assert keys == sorted(keys, reverse=order == "changed")
    assert len({test["id"] for test in found}) == len(found) > 120
    kilns = [test for test in found if test["name"].startswith("Kiln")]
    assert {(test["steps"], test["rows"]) for test in kilns} == {(2, 7)}


def test_tests_are_found_by_name_and_by_their_last_run_on_record(many, client):
    first = client.get("/tests").json
    assert (first["outcomes"]["failed"], first["outcomes"]["passed"]) == (40, 40)
    assert first["outcomes"]["never ran"] >= 40
    assert client.get("/tests", after=first["next"]).json["outcomes"] == {}
    failed = through(client, "/tests", "tests", outcome="failed,interrupted", q="kiln 0")
    assert len(failed) == 33
    assert {test["last_run"]["state"] for test in failed} == {"failed"}
    assert client.get("/tests", q="100%").json["tests"] == []


def test_defects_are_sorted_by_weight_and_counted(database, client):
    with database.session() as session:
        for n in range(60):
            severity = ("minor", "critical", "major")[n % 3]
            session.add(Defect(title=f"Crack {n}", severity=severity, fingerprint="f", **TEXTS))
    found = through(client, "/defects", "defects", order="severity")
    weights = [one["severity"] for one in found]
    assert weights == sorted(weights, key=["critical", "major", "minor"].index)
    assert len({one["id"] for one in found}) == 60
    newest = through(client, "/defects", "defects", q="crack 1")
    assert [one["title"] for one in newest][:2] == ["Crack 19", "Crack 18"]


@pytest.mark.parametrize("path", [*LISTS, *PARTS])
@pytest.mark.parametrize(
    "after",
    [DEEP, *"x ! W10 WzFdWzFd bnVsbA WyJhIl0 Wy0xZTQwMF0 W3RydWVd WyJcdTAwMDAiLDFd MQ".split()],
)
def test_what_is_no_place_in_a_list_is_told(app, path, after):
    answer = Client(app, "wren").get(path, after=after)
    assert answer.status_code in (200, 422), answer.text
    if answer.status_code == 422:
        assert "Begin the list anew" in answer.json["hint"]


@pytest.mark.parametrize(("path", "name"), PARTS.items())
def test_what_tests_are_made_of_and_who_makes_them_is_listed_page_by_page(
    database, client, path, name
):
    with database.session() as session:
        for n in range(120):
            called = f"Kiln {n:03}"
            elements.save(session, Clued(called, called, "button", (), page=called))
            session.add(Account(username=called, name=called, role="viewer", password_hash=""))
            for kind in ("flow", "table"):
                its = f"{called} {kind}"
                session.add(Test(name=its, kind=kind, environment_id=1, body=BODY))

    def titles(**query):
        return [
            (one.get("page") or (one.get("flow") or one)["name"])[: len("Kiln 000")]
            for one in through(client, path, name, **query)
        ]

    found = titles()
    assert [one for one in found if one.startswith("Kiln 0")] == [
        f"Kiln {n:03}" for n in range(100)
    ]
    assert titles(q="KILN 11") == [f"Kiln 11{n}" for n in range(10)]
    assert titles(q="100%") == []


WORDS = st.text(st.characters(codec="utf-8"), max_size=40) | st.sampled_from(
    ["%", "_", "\\", "'; DROP TABLE tests; --", "\0", "Kiln\0", "${secret.pin}", "<script>", "  "]
)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(WORDS)
def test_any_words_are_looked_for_as_they_are(app, words):
    """NUL is in no text that is kept, and told; all other words find what they find."""
    client = Client(app, "wren")
    expected = 400 if "\0" in words else 200
    for path in [*LISTS, *PARTS, "/search"]:
        answer = client.get(path, q=words)
        assert answer.status_code == expected, (path, answer.text)
    here = client.get("/pages/elements", page=words, q=words, unused=True)
    assert here.status_code == expected
    assert here.json.get("elements", []) == []


@pytest.mark.parametrize("name", ["100 % clay", "a_b", "back\\slash", "Ünsal’s shelf", "'; --"])
def test_what_is_called_strangely_is_found_by_its_name_and_nothing_else(database, client, name):
    with database.session() as session:
        for called in (name, "plain one", "a-b", "1000 clay"):
            for kind in ("flow", "table", "test"):
                its = f"{called} {kind}"
                session.add(Test(name=its, kind=kind, environment_id=1, body=BODY))
    for path, key in (("/flows", "flows"), ("/tables", "tables"), ("/tests", "tests")):
        found = client.get(path, q=name.upper()).json[key]
        assert [(one.get("flow") or one)["name"] for one in found] == [f"{name} {key[:-1]}"]


def test_an_order_that_there_is_not_is_told(client):
    assert "severity" in client.get("/defects", order="colour").json["message"]
    assert client.get("/tests", order="changed_at").status_code == 422


@settings(max_examples=20, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(NAMES, st.integers(1, 7))
def test_pages_of_any_size_hold_each_row_once(database, names, size):
    """Also where many share what they are sorted by."""
    with database.session() as session:
        session.query(Defect).delete()
        session.add_all(Defect(title=n, severity="minor", fingerprint="f", **TEXTS) for n in names)
        session.flush()
        order = paging.Order((Defect.title.expression, Defect.id.expression))
        query = select(Defect.id)
        found, after, pages = [], "", 0
        while True:
            page = paging.page(session, query, order, after, size)
            found += [row.id for row in page.rows]
            after, pages = page.next, pages + 1
            if not after:
                break
        assert len(found) == len(set(found)) == len(names)
        assert pages == -(-len(names) // size)


def test_a_list_reads_no_documents_and_asks_once_however_long_it_is(many):
    said = []
    event.listen(many.engine, "before_cursor_execute", lambda *given: said.append(given[2]))
    with many.session() as session:
        lists.of_tests(session)
        lists.of_runs(session)
    assert len(said) == 2
    assert not [one for one in said if "tests.body," in one or "runs.body" in one]


def test_every_foreign_key_leads_an_index(database):
    """What is followed or cascades does not look through whole tables."""
    missing = []
    for table in Base.metadata.sorted_tables:
        held = [*table.indexes, table.primary_key]
        held += [one for one in table.constraints if isinstance(one, UniqueConstraint)]
        leading = {column.name for one in held for column in list(one.columns)[:1]}
        missing += [
            f"{table}.{key.parent.name}"
            for key in table.foreign_keys
            if key.parent.name not in leading
        ]
    assert missing == []


def test_the_migrations_make_what_the_models_say(database):
    def own(thing, name, kind, _reflected, _other):
        return not (kind == "table" and name.startswith(("procrastinate", "alembic")))

    with database.engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"include_object": own})
        found = compare_metadata(context, Base.metadata)
    assert [one for one in found if one[0] in ("add_index", "remove_index", "add_table")] == []
