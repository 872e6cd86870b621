"""Notices are followed whatever happens to the connection that they come over."""

import json
import threading

from sqlalchemy import text

from lantern.store import channel
from lantern.store.channel import RECONNECTED, notices
from lantern.store.database import tell
from tests.ui.pages import until


def test_an_outage_ends_following_for_a_moment_only(database, monkeypatch):
    monkeypatch.setattr(channel, "AGAIN", 0.05)
    heard, stopped = [], threading.Event()

    def follow():
        for notice in notices(database.url, stopped):
            if notice:
                heard.append(notice)

    thread = threading.Thread(target=follow, daemon=True)
    thread.start()
    until(lambda: heard.count(RECONNECTED) == 1, "the connection")
    for number in (1, 2):
        with database.session() as session:
            tell(session, "stop", casts=[number])
        until(lambda number=number: _told(heard, number), f"notice {number}")
        with database.session() as session:
            session.execute(
                text(
                    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                    "WHERE datname = current_database() AND pid <> pg_backend_pid()"
                )
            )
        until(lambda number=number: heard.count(RECONNECTED) == number + 1, "connected again")
    stopped.set()
    thread.join(10)
    assert not thread.is_alive()


def _told(heard, number):
    return any(json.loads(one).get("casts") == [number] for one in heard)
