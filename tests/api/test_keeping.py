"""Freeing what is not kept any longer, in a real PostgreSQL: all that goes, and all that stays."""

from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import delete, func, select, text, update

from lantern.core.data.table import Row
from lantern.core.keeping import Rules
from lantern.core.problems import Problem
from lantern.core.steps.edits import SetTable
from lantern.store import documents, keeping, pages, pictures, queue, rows, tests, undoing, unneeded
from lantern.store.models import (
    Act,
    Cast,
    Defect,
    Picture,
    Result,
    RowChunk,
    Run,
    SavedPage,
    Sighting,
    Test,
    Version,
)
from tests.api.conftest import Client
from tests.api.test_lists import TEXTS

OLD = datetime.now(UTC) - timedelta(days=400)
RULES = Rules(tries=10, passed=20, failed=300, least=1, pictures=15, pages=20, versions=30)


def run_of(session, test, state, at=OLD, kind="run", picture="", version=1, **more):
    run = Run(
        kind=kind, state=state, test_id=test, test_name="Kiln", test_version=version,
        environment_name="x", address="http://x", body={"steps": []}, elements={}, ended_at=at,
        casts=[Cast(position=0, number=1, values={}, outcome=state)], **more,
    )  # fmt: skip
    session.add(run)
    session.flush()
    result = Result(
        cast_id=run.casts[0].id, position=0, step_id="a", sentence="Press", outcome=state, used=1,
        limit=1, details={}, picture=picture, at=at,
    )  # fmt: skip
    session.add(result)
    session.flush()
    return run.id, result.id


@pytest.fixture
def test(database):
    """A test whose newest run is of today."""
    with database.session() as session:
        made = tests.create(session, "Kiln", 1, None).id
        run_of(session, made, "passed", at=datetime.now(UTC))
        keeping.put_rules(session, RULES)
    return made


def left(database, model, key="id"):
    with database.session() as session:
        return set(session.scalars(select(getattr(model, key))))


def test_old_runs_go_and_with_them_what_they_held(database, test):
    with database.session() as session:
        gone = [run_of(session, test, state, version=2)[0] for state in ("passed", "failed")]
        gone.append(run_of(session, test, "failed", kind="try")[0])
        stays = [run_of(session, test, "failed", at=datetime.now(UTC) - timedelta(days=200))[0]]
        stays.append(run_of(session, test, "passed", pinned=True)[0])
        seen, result = run_of(session, test, "failed")
        defect = raised(session, result)
        session.get_one(Test, test).baseline = 1
        stays += [seen, run_of(session, test, "passed")[0]]  # the baseline's
        stays.append(run_of(session, None, "running")[0])
    freed = keeping.tidy(database)
    assert freed["runs"] == len(gone)
    assert left(database, Run) >= set(stays)
    assert not left(database, Run) & set(gone)
    assert left(database, Sighting, "defect_id") == {defect}
    with database.session() as session:
        assert keeping.tidied(session)["runs"] == len(gone)


def raised(session, result):
    defect = Defect(title="Crack", severity="minor", fingerprint="f", **TEXTS)
    session.add(defect)
    session.flush()
    session.add(Sighting(defect_id=defect.id, result_id=result))
    session.flush()
    return defect.id


def test_pictures_of_passed_rows_go_and_those_that_something_shows_stay(database, test):
    with database.session() as session:
        shots = {n: pictures.keep(session, n.encode()) for n in "passed failed step fresh".split()}
        session.execute(update(Picture).values(at=OLD))
        shots["new"] = pictures.keep(session, b"new")
        again = pictures.keep(session, b"fresh")  # kept again: its result comes in a moment
        assert again == shots["fresh"]
        recent = datetime.now(UTC) - timedelta(days=18)
        run_of(session, test, "passed", at=recent, picture=shots["passed"])
        run_of(session, test, "failed", at=recent, picture=shots["failed"])
        body = session.get_one(Test, test).body
        step = {"id": "s", "action": "press", "picture": shots["step"]}
        session.get_one(Test, test).body = {**body, "steps": [step]}
    freed = keeping.tidy(database)
    assert (freed["pictures"], freed["files"]) == (1, 1)
    here = left(database, Picture, "digest")
    assert here >= {shots[n] for n in ("failed", "step", "fresh", "new")}
    assert shots["passed"] not in here
    # What is looked at later says why it shows no picture.
    with database.session() as session:
        told = session.scalars(select(Result)).all()
        assert [one.picture for one in told if one.details.get("freed")] == [""]
        assert shots["failed"] in [one.picture for one in told if not one.details]


def test_a_picture_that_is_kept_again_is_there_though_it_is_just_being_tidied_away(database, test):
    with database.session() as session:
        digest = pictures.keep(session, b"ash glaze")
        session.execute(update(Picture).values(at=OLD))
    with database.session() as tidying, ThreadPoolExecutor(1) as pool:
        tidying.execute(select(Picture).filter_by(digest=digest).with_for_update())

        def again():
            with database.session() as session:
                return pictures.keep(session, b"ash glaze")

        kept = pool.submit(again)
        waits = "SELECT count(*) FROM pg_stat_activity WHERE wait_event_type = 'Lock'"
        with database.session() as other:
            while not other.scalar(text(waits)):
                other.commit()
        tidying.execute(delete(Picture).filter_by(digest=digest))
        tidying.commit()
        assert kept.result(20) == digest
    assert digest in left(database, Picture, "digest")


def test_two_that_keep_the_same_pictures_wait_for_nobody(database):
    with database.session() as session:
        for content in (b"one", b"two"):
            pictures.keep(session, content)
    with database.session() as first, database.session() as second:
        second.execute(text("SET LOCAL lock_timeout = '5s'"))
        for session, order in ((first, (b"one", b"two")), (second, (b"two", b"one"))):
            for content in order:
                pictures.keep(session, content)


def test_the_newest_saved_page_of_each_title_stays(database, test):
    with database.session() as session:
        run, _ = run_of(session, test, "failed", pinned=True)
        made = [pages.save(session, "Board", []).id for _ in range(3)]
        held = pages.save(session, "Board", [], run_id=run).id
        made.append(pages.save(session, "Board", []).id)
        session.execute(update(SavedPage).values(at=OLD))
    assert keeping.tidy(database)["pages"] == 3
    assert left(database, SavedPage) == {held, made[-1]}


def edited(database, test, count, at=OLD):
    """Edit the table of a test some times, as Odo did some time ago."""
    for n in range(count):
        with database.session() as session:
            table = SetTable(("clay",), (Row(f"r{n}", {"clay": f"v{n}"}),))
            tests.edit(session, test, table, 2)
    with database.session() as session:
        session.execute(update(Version).filter(Version.test_id == test).values(at=at))
        session.execute(update(Act).values(at=at))


def test_versions_thin_out_with_their_rows_and_can_not_be_taken_back_by_halves(database, test):
    edited(database, test, 6)
    with database.session() as session:
        before = session.scalar(select(func.count()).select_from(RowChunk))
    freed = keeping.tidy(database)
    assert freed["versions"] == 5  # the first and the newest stay
    assert freed["rows"] == 5 < before
    with database.session() as session:
        assert [one.number for one in tests.versions(session, test, None, 9)] == [7, 1]
        assert rows.unpacked(tests.get(session, test)).rows[0].values == {"clay": "v5"}
        with pytest.raises(Problem):
            undoing.travel(session, test, 2, forward=False)


def test_rows_that_were_freed_and_are_typed_again_are_stored_again(database, test):
    """Though the process still knows them: what it knows may be gone from the database."""
    edited(database, test, 6)
    assert keeping.tidy(database)["rows"] == 5
    with database.session() as session:
        table = SetTable(("clay",), (Row("r2", {"clay": "v2"}),))
        tests.edit(session, test, table, 2)
    rows._known.__init__()  # as another process, or this one after a new start
    with database.session() as session:
        assert rows.unpacked(tests.get(session, test)).rows[0].values == {"clay": "v2"}


def test_rows_that_somebody_is_just_using_again_are_not_freed(database, test):
    edited(database, test, 6)
    with database.session() as session:
        thinned = keeping.Rules(versions=30)
        gone = keeping._versions(session, thinned, datetime.now(UTC))
        keys = [(test, number) for number in gone[test]]
        for key in keys:
            session.delete(session.get_one(Version, key))
    with database.session() as session:
        table = SetTable(("clay",), (Row("r2", {"clay": "v2"}),))
        tests.edit(session, test, table, 2)
        session.flush()
        freed = sum(unneeded.free(database, unneeded.CHUNKS, datetime.now(UTC), lambda: False))
        assert freed == len(keys) - 1  # its lock is not waited for
    with database.session() as session:
        rows._known.__init__()
        assert documents.document_of(session, test, 8).rows[0].values == {"clay": "v2"}


def test_the_queue_forgets_jobs_that_are_long_over(database, test):
    with database.session() as session:
        jobs = [queue.offer(session, cast, "chromium", 0) for cast in (1, 2, 3)]
        for job in jobs[:2]:
            queue.withdraw(session, job)
        old = text("UPDATE procrastinate_events SET at = :at WHERE job_id = :job")
        session.execute(old, {"at": OLD, "job": jobs[0]})
        session.execute(old, {"at": OLD, "job": jobs[2]})
        defers = (
            "INSERT INTO procrastinate_periodic_defers (task_name, job_id) VALUES ('tidy', :job)"
        )
        session.execute(text(defers), {"job": jobs[0]})
    keeping.tidy(database)
    with database.session() as session:
        there = set(session.scalars(text("SELECT id FROM procrastinate_jobs")))
    assert there >= set(jobs[1:])
    assert jobs[0] not in there


def test_two_that_tidy_at_once_do_it_once_and_one_that_is_to_end_ends(database, test):
    with database.session() as session:
        for _ in range(keeping.AT_ONCE + 5):
            run_of(session, test, "passed", version=2)
    with database.engine.connect() as other:
        other.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": keeping.ALONE})
        assert keeping.tidy(database) == {}
    asked = iter([False, True] + [True] * 20)
    assert keeping.tidy(database, lambda: next(asked))["runs"] == keeping.AT_ONCE
    assert keeping.tidy(database)["runs"] == 5


def test_a_lead_sees_what_rules_would_free_and_sets_them(app, database, test):
    lead = Client(app, "wren")
    with database.session() as session:
        run, _ = run_of(session, test, "passed", version=2)
        keeping.put_rules(session, Rules())
    first = lead.get("/keeping").json
    by_kind = {one["kind"]: one for one in first["holdings"]}
    assert (by_kind["passed"]["frees"], first["tidied"]) == (0, None)
    wanted = {**first["rules"], "passed": 30, "least": 1}
    looked = lead.post("/keeping/look", **wanted).json["holdings"]
    assert {one["kind"]: one["frees"] for one in looked}["passed"] == 1
    assert lead.get("/keeping").json["rules"]["passed"] == 0  # looking changes nothing
    refused = lead.put("/keeping", **{**first["rules"], "failed": 30})
    assert (refused.status_code, refused.json["where"]) == (422, "failed")
    assert lead.put("/keeping", **wanted).status_code == 200
    assert lead.patch(f"/runs/{run}", pinned=True).json["pinned"]
    looked = lead.get("/keeping").json["holdings"]
    assert {one["kind"]: one["frees"] for one in looked}["passed"] == 0
    assert lead.patch("/runs/99999", pinned=True).status_code == 404


def test_only_a_lead_may_and_what_is_asked_twice_is_queued_once(app, database):
    tester, lead = Client(app, "odo"), Client(app, "wren")
    assert tester.get("/keeping").status_code == 403
    assert tester.post("/keeping/tidy").status_code == 403
    assert [lead.post("/keeping/tidy").status_code for _ in range(2)] == [200, 200]
    with database.session() as session:
        queued = "SELECT count(*) FROM procrastinate_jobs WHERE queue_name = 'tidying'"
        assert session.scalar(text(queued)) == 1
    assert Client(app, "pia").patch("/runs/1", pinned=True).status_code == 403
