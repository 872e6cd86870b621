"""`./lantern demo`: all of Lantern with the Kiln Desk, mail, a tracker and a sample project."""

from __future__ import annotations

import os
import shutil
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from lantern.demo.data import ACCOUNTS, load_place, send_mails_to
from lantern.demo.team.loading import load_team, play_tonight
from lantern.demo.team.project import FOURTH
from lantern.demo.tracker import SECRET, track_at
from lantern.host import processes
from lantern.host.ports import free_port
from lantern.host.processes import Child
from lantern.host.setup import say, step
from lantern.host.state import KEY, LOGS
from lantern.host.supervisor import WEB_PORT, Supervisor, Where
from lantern.store.database import Database
from lantern.store.migrating import migrate
from lantern.store.vault import Vault

DESK_PORT = 8190
SMTP_PORT = 8125


@dataclass(frozen=True)
class Settings:
    """Where the demo and its sample application listen; `fresh` starts over with new data.

    `empty` starts without the sample project: there are people and a place to test, nothing else.
    """

    host: str = "127.0.0.1"
    port: int = WEB_PORT
    desk_port: int = DESK_PORT
    fresh: bool = False
    empty: bool = False


class Demo(Supervisor):
    """Everything that `./lantern demo` runs."""

    def __init__(self, settings: Settings) -> None:
        super().__init__(Where(settings.host, settings.port))
        self._settings = settings
        self._sample = self._ahead = self._mails = self._slate = ""
        self._smtp = 0
        self._first = False

    def start(self) -> None:
        """Start all, with the data of before removed where that is asked for."""
        if self._settings.fresh:
            step("Clearing the old data", self._clear)
        super().start()

    def _clear(self) -> None:
        if self._cluster:
            self._cluster.remove()
        KEY.unlink(missing_ok=True)
        shutil.rmtree(LOGS, ignore_errors=True)

    def parts(self, port: int) -> Sequence[Child]:
        """Return web, one station, both releases of the Kiln Desk, mail server and tracker."""
        desk = free_port(self._settings.desk_port)
        post = free_port(desk + 1)
        self._smtp = free_port(SMTP_PORT)
        self._sample = f"http://127.0.0.1:{desk}"
        self._mails = f"http://127.0.0.1:{post}"
        slate = free_port(post + 1)
        ahead = free_port(slate + 1)
        self._ahead = f"http://127.0.0.1:{ahead}"
        self._slate = f"http://127.0.0.1:{slate}"
        os.environ.update(
            LANTERN_SAMPLE=self._sample, LANTERN_MAILS=self._mails, LANTERN_SLATE=self._slate
        )
        return [
            processes.web(port, self._settings.host, {}, LOGS),
            processes.station({}, LOGS),
            processes.desk(desk, LOGS),
            processes.desk(ahead, LOGS, "summer", name="next-desk"),
            processes.post(post, self._smtp, LOGS),
            processes.slate(slate, f"http://127.0.0.1:{port}/api/trackers/told", SECRET, LOGS),
        ]

    def prepare(self, database: Database) -> None:
        """Migrate the database, and load the sample data where there are none."""
        migrate(database)
        with database.session() as session:
            send_mails_to(session, Vault(), self._smtp)
            if self._settings.empty:
                load_place(session, Vault(), self._sample)
                track_at(session, Vault(), self._slate)
                return
        with database.session() as session:
            step("Loading the sample project", partial(self._load, session))

    def _load(self, session: Session) -> None:
        self._first = load_team(session, Vault(), self._sample, self._ahead, self._slate)

    def announce(self) -> None:
        """Say who can sign in where, and play the sample project once."""
        say(f"\nLantern is ready at {self.address}\n")
        for account in (*ACCOUNTS, *(() if self._settings.empty else (FOURTH,))):
            say(f"  {account.role:<7} {account.username:<8} password {account.password}")
        say(f"\nThe sample application: {self._sample}   Mails that are sent: {self._mails}")
        say(f"The tracker that defects are handed over to: {self._slate}")
        say("Ctrl-C ends everything.")
        if self._first:
            self._first_run()

    def _first_run(self) -> None:
        database = Database(os.environ["LANTERN_DATABASE"])
        try:
            play_tonight(database)
        except SQLAlchemyError as error:  # the database died just now: it is started again
            say(f"The demo's first run could not be queued ({type(error).__name__}).")
        finally:
            database.close()

    def told(self) -> dict[str, str]:
        """Return where the sample application, the mails and the tracker are."""
        return {"sample": self._sample, "mails": self._mails, "tracker": self._slate}
