"""`lantern serve`: Lantern for real use, without sample data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from lantern.host import processes
from lantern.host.processes import Child
from lantern.host.settings import Settings
from lantern.host.setup import SetupFailed, say
from lantern.host.state import LOGS
from lantern.host.supervisor import Supervisor, Where
from lantern.store import first
from lantern.store.database import Database
from lantern.store.migrating import migrate, standing


class Serve(Supervisor):
    """Everything that `lantern serve` runs."""

    def __init__(self, settings: Settings) -> None:
        env = {
            "LANTERN_PROXIES": str(settings.proxies),
            "LANTERN_METRICS": settings.metrics,
            "LANTERN_REQUESTS_LOGGED": "1",
        }
        super().__init__(
            Where(
                settings.host,
                settings.port,
                settings.address,
                settings.database,
                moves=False,
                env=env,
            )
        )
        self._settings = settings
        self._token = ""

    def parts(self, port: int) -> Sequence[Child]:
        """Return the web process and the stations."""
        settings = self._settings
        logs = LOGS if settings.logs == "files" else None
        places = {"LANTERN_STATION_PLACES": str(settings.places)}
        stations = [
            processes.station(places, LOGS, number=number)
            for number in range(1, settings.stations + 1)
        ]
        children = [processes.web(port, settings.host, {}, LOGS), *stations]
        if logs is None:
            for child in children:
                child.log = None
        return children

    def prepare(self, database: Database) -> None:
        """Make the database, where it is empty; refuse one of another release.

        Nothing is migrated on the way: `lantern upgrade` checks, and keeps a backup first.
        """
        now = standing(database)
        if now.unknown:
            raise SetupFailed(
                f"The database is of a newer Lantern (its version is {now.revision}). "
                "Start that one, or restore a backup that this one made."
            )
        if now.revision and now.missing:
            raise SetupFailed(
                f"The database is of an earlier Lantern: {len(now.missing)} changes of it are "
                "missing. Run lantern upgrade, which keeps a backup first."
            )
        migrate(database)
        with database.session() as session:
            self._token = first.invite(session)

    def well(self, health: dict[str, Any]) -> bool:
        """Tell whether all is up; a Lantern without stations of its own needs none."""
        alone = self._settings.stations == 0 and health["database"] == "ok"
        return alone or super().well(health)

    def announce(self) -> None:
        """Say where it is, and how the first lead gets in."""
        say(f"\nLantern is ready at {self.address}")
        if self._token:
            say(
                "Nobody has an account yet. Whoever opens this address first makes the one of the "
                f"first lead:\n\n  {self.address}/first#{self._token}\n\n"
                "It is good once, and until the next start."
            )
        say("Ctrl-C ends everything.")
