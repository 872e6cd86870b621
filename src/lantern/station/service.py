"""The station process: browsers, live connections and the worker that takes runs."""

from __future__ import annotations

import json
import os
import socket
import threading
from collections.abc import Callable
from contextlib import ExitStack
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

import structlog
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session
from websockets.exceptions import ConnectionClosed
from websockets.sync.server import Server, ServerConnection, serve

from lantern.browser import process
from lantern.browser.errors import BrowserError
from lantern.core.channel import PersonSaid
from lantern.core.engine.requests import RunCode
from lantern.core.storable import read_json
from lantern.station.browsers import Browsers
from lantern.station.coding import run_code
from lantern.station.executor import Shown
from lantern.station.identity import Identity
from lantern.station.keeping import Keeper
from lantern.station.live import Live, Viewer
from lantern.station.offering import Offer
from lantern.station.remotes import Remotes
from lantern.station.stage import Stage
from lantern.station.stages import Stages
from lantern.station.worker import Worker
from lantern.store import accounts, logs, preferences, stations, tests
from lantern.store import models as tables
from lantern.store.database import WHEN_ENDING, Database
from lantern.store.passes import read_pass
from lantern.store.reconciling import keep_reconciling
from lantern.store.vault import Vault

log = structlog.get_logger()
LARGEST_MESSAGE = 40 * 1024 * 1024
PLACES = 2
"""Casts that are played at once."""
READY_LIMIT = 60.0
"""Seconds that the database may need to be there when a station starts."""


class Station:
    """Owns browsers, hosts live stages and has casts played until it is stopped."""

    def __init__(
        self,
        url: str,
        *,
        host: str = "127.0.0.1",
        port: int = 0,
        places: int = PLACES,
        home: str = "",
    ) -> None:
        self._identity = Identity(Path(home) if home else None)
        self.id = self._identity.key
        self._places = places
        self._database = Database(url)
        self._vault = Vault()
        self._remotes = Remotes(self._database, self._vault)
        self._browsers = Browsers(self._remotes)
        self._stages = Stages(self._new_stage, self._most_stages)
        self._watched: dict[int, Shown] = {}
        self._draining = False
        self._lock = threading.Lock()
        self._worker = Worker(
            url,
            self._database,
            self._vault,
            self.id,
            self._browsers,
            places=places,
            show=self._watch,
            hear=self._hear,
        )
        self._stopping = self._worker.stopping
        self._server: Server = serve(
            self._connected, host, port, compression=None, max_size=LARGEST_MESSAGE
        )
        bound = self._server.socket.getsockname()
        self.address = f"ws://{host}:{bound[1]}"

    # -- life ----------------------------------------------------------------------------------

    def run(self) -> None:
        """Work until SIGTERM or SIGINT, then end in good order."""
        process.sweep()
        self._database.insist(self._beat, READY_LIMIT)
        reconciling = partial(keep_reconciling, self._database, self._stopping.wait)
        looking = partial(self._remotes.keep_looking, self._stopping.wait)
        for target in (self._server.serve_forever, self._beat_on, reconciling, looking):
            threading.Thread(target=target, daemon=True).start()
        log.info("station_up", station=self.id, address=self.address)
        try:
            self._worker.run()
        finally:
            self._end()

    def _end(self) -> None:
        """Close all that is open, whatever of it can not be closed."""
        self._stopping.set()
        with ExitStack() as closing:
            closing.callback(self._identity.close)
            closing.callback(self._database.close)
            closing.callback(self._leave)
            closing.callback(self._browsers.close)
            closing.callback(self._stages.close)
            closing.callback(self._server.shutdown)

    def _leave(self) -> None:
        """Say that the station ends; where that can not be said, its silence does."""
        try:
            self._database.insist(lambda session: stations.leave(session, self.id), WHEN_ENDING)
        except SQLAlchemyError as error:
            log.warning("not_left", error=type(error).__name__)

    def _beat(self, session: Session) -> None:
        station = stations.beat(
            session,
            self.id,
            name=socket.gethostname(),
            address=self.address,
            browser=self._browsers.version,
            busy=self._worker.busy,
            places=self._places,
            engines=self._browsers.engines,
            versions=self._browsers.versions,
            load=round(os.getloadavg()[0] / (os.cpu_count() or 1), 2),
        )
        self._obey(station)

    def _obey(self, station: tables.Station) -> None:
        """Take what a lead said of the station into account from now on."""
        offer = stations.offer_of(station)
        self._worker.offer(offer.mode, offer.labels)
        self._draining = offer.mode == "draining"

    def _beat_on(self) -> None:
        while not self._stopping.wait(stations.BEAT):
            try:
                with self._database.session() as session:
                    self._beat(session)
                self._worker.give_up_lost()
                self._stages.close_idle()
                self._browsers.tend()
            except Exception:
                log.exception("beat_failed")  # the database may be away for a while

    def _hear(self, told: dict[str, Any]) -> None:
        if told["about"] == "stations":
            with self._database.session() as session:
                self._obey(stations.get(session, self.id))
        elif told["about"] == "signed out":
            self._stages.let_go(int(told["account"]))
        elif told["about"] == "breakpoints":
            with self._lock:
                offers = [one.offer for one in self._watched.values() if one.offer]
            in_hand = [one.stage for one in offers if one.stage]
            for stage in (*self._stages.of(int(told["account"])), *in_hand):
                if stage.rehearsals.now is not None:
                    stage.rehearsals.now.read_breakpoints()

    def _most_stages(self) -> int:
        if self._draining:
            raise BrowserError("This station is being drained: it opens no stages any more.")
        with self._database.session() as session:
            return preferences.rehearsing(session).stages

    def _watch(self, cast_id: int, shown: Shown | None) -> None:
        with self._lock:
            if shown is None:
                self._watched.pop(cast_id, None)
            else:
                self._watched[cast_id] = shown

    # -- live connections ------------------------------------------------------------------------

    def _connected(self, connection: ServerConnection) -> None:
        query = parse_qs(urlsplit(connection.request.path if connection.request else "").query)
        content = read_pass(query.get("pass", [""])[0])
        if content is None:
            connection.close(4401, "no valid pass")
            return
        try:
            if "cast" in content:
                self._serve_watching(connection, content)
            elif "code" in content:
                self._serve_code(connection)
            elif "remote" in content:
                connection.recv(10)
                connection.send(json.dumps(self._remotes.tried(int(content["remote"]))))
            else:
                self._serve_stage(connection, content)
        except BrowserError as error:
            connection.close(4500, str(error)[:100])
        except ConnectionClosed:
            pass

    def _serve_stage(self, connection: ServerConnection, content: dict[str, Any]) -> None:
        person = _person(content)
        me = person["account"]
        key = int(content["test"]), int(content.get("of") or me)
        if key[1] != me and not self._stages.rehearsed(key):
            connection.close(4404, "Nothing is rehearsed there any more.")
            return
        with self._stages.looked_at(key) as stage:
            self._pump(connection, stage.live, lambda: stage, person)

    def _new_stage(self, key: tuple[int, int]) -> Stage:
        with self._database.session() as session:
            address = tests.get(session, key[0]).environment.address
            name = accounts.names(session, {key[1]}).get(key[1], "")
        keeper = Keeper(self._database, self._vault, *key)
        owner: PersonSaid = {"account": key[1], "name": name}
        return Stage(self._browsers.get("stages"), keeper, address, owner=owner)

    def _serve_watching(self, connection: ServerConnection, content: dict[str, Any]) -> None:
        with self._lock:
            shown = self._watched.get(int(content["cast"]))
        if shown is None:
            connection.close(4404, "the row is not under way here")
            return
        self._pump(connection, shown.live, _stage_of(shown), _person(content))

    @staticmethod
    def _serve_code(connection: ServerConnection) -> None:
        """Run code once, as its author tries it."""
        asked = read_json(connection.recv(10))
        connection.send(json.dumps(vars(run_code(RunCode(**asked)))))

    @staticmethod
    def _pump(
        connection: ServerConnection,
        live: Live,
        takes: Callable[[], Stage | Offer | None],
        person: PersonSaid,
    ) -> None:
        """Show something live, and hand on what is asked to what `takes` it now."""
        viewer = Viewer(person["account"])

        def send() -> None:
            try:
                while (batch := viewer.next()) is not None:
                    for item in batch:
                        connection.send(item)
            except ConnectionClosed:
                pass

        sender = threading.Thread(target=send, name="viewer", daemon=True)
        sender.start()
        live.add(viewer)
        stage = takes()
        if isinstance(stage, Stage):
            viewer.say({"type": "recording", "on": stage.recording.on})
            for said in stage.rehearsals.come(person):
                viewer.say(live.safe(said))
        try:
            for text in connection:
                if isinstance(text, str):
                    _hand_on(takes(), read_json(text), person)
        except ConnectionClosed:
            pass
        finally:
            stage = takes()  # a row that was taken in hand meanwhile has one now
            if isinstance(stage, Stage):
                stage.rehearsals.leave(person)
            live.remove(viewer)
            viewer.close()


def _person(content: dict[str, Any]) -> PersonSaid:
    return {"account": int(content.get("account") or 0), "name": str(content.get("name") or "")}


def _stage_of(shown: Shown) -> Callable[[], Stage | Offer | None]:
    """Return what takes messages about a row: its stage once it is in hand."""
    return lambda: shown.offer and (shown.offer.stage or shown.offer)


def _hand_on(to: Stage | Offer | None, message: dict[str, Any], person: PersonSaid) -> None:
    if isinstance(to, Stage):
        to.take(message, person["account"])
    elif to is not None and message.get("type") == "take in hand":
        to.take_in_hand(person)
    elif to is not None and message.get("type") == "let it go":
        to.decline(person)


def main() -> None:
    """Run a station with the settings in the environment."""
    logs.configure()
    url = os.environ["LANTERN_DATABASE"]
    Station(
        url,
        host=os.environ.get("LANTERN_STATION_HOST", "127.0.0.1"),
        port=int(os.environ.get("LANTERN_STATION_PORT", "0")),
        places=int(os.environ.get("LANTERN_STATION_PLACES", str(PLACES))),
        home=os.environ.get("LANTERN_STATION_HOME", ""),
    ).run()


if __name__ == "__main__":
    main()
