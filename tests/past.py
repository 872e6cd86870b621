"""Runs of days gone by, as if they had been played then."""

from datetime import UTC, datetime, timedelta

from sqlalchemy import select

from lantern.store.models import Cast, Result, Run, Test
from lantern.store.rows import unpacked


def past(database, test_id, nights, *, rows=1, release="spring", seconds=0.4, **more):
    """Keep a run of a test for each letter, the last one an hour ago, a day apart; returns ids.

    p passed, f failed (its first row), u unsteady, s passed slowly.
    """
    words = {"p": "passed", "f": "failed", "u": "unsteady", "s": "passed"}
    now = datetime.now(UTC).replace(microsecond=0)
    ids = []
    with database.session() as session:
        test = session.scalars(select(Test).filter_by(id=test_id)).one()
        document = unpacked(test)
        values = [dict(row.values) for row in document.rows[:rows]] or [{}]
        for place, letter in enumerate(nights):
            at = now - timedelta(days=len(nights) - 1 - place, hours=1)
            outcome = words[letter]
            run = Run(
                kind="run", state=outcome, test_id=test.id, test_name=test.name,
                test_version=test.version, environment_name="Kiln Desk", address="http://desk",
                environment_id=test.environment_id, body=document.as_json(), elements={},
                release=more.get("releases", {}).get(place, release),
                queued_at=at, started_at=at, ended_at=at + timedelta(seconds=9),
            )  # fmt: skip
            session.add(run)
            session.flush()
            ids.append(run.id)
            for number, row in enumerate(values):
                how = outcome if number == 0 else "passed"
                cast = Cast(
                    run_id=run.id, position=number, number=number + 1, values=row, takings=1,
                    browser="chromium", outcome=how, station_id="st1", failures=letter == "u",
                    started_at=at, ended_at=at + timedelta(seconds=5),
                )  # fmt: skip
                session.add(cast)
                session.flush()
                failed = how == "failed"
                session.add(
                    Result(
                        cast_id=cast.id,
                        place=1,
                        position=11,
                        step_id="demo11",
                        sentence="Check that the text of Price is “€ 5.40”",
                        outcome="failed" if failed else "passed",
                        reason="check differed" if failed else "",
                        message="The text of “Price” was “€ 5.45”" if failed else "",
                        expected="€ 5.40",
                        found="€ 5.45" if failed else "€ 5.40",
                        used=seconds * (6 if letter == "s" else 1),
                        limit=4.0,
                        details={},
                        at=at,
                    )
                )
    return ids
