"""The station process: browsers, live connections and the worker that takes runs."""

from __future__ import annotations

import asyncio
import json
import os
import signal
import socket
import threading
import time
import uuid
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import Any
from urllib.parse import parse_qs, urlsplit

import structlog
from procrastinate import App
from websockets.exceptions import ConnectionClosed
from websockets.sync.server import Server, ServerConnection, serve

from lantern.browser.cdp import BrowserError
from lantern.browser.chromium import ENGINES, Chromium
from lantern.core.engine.requests import RunCode
from lantern.core.storable import read_json
from lantern.station.coding import run_code
from lantern.station.keeping import Keeper
from lantern.station.live import Live, Viewer
from lantern.station.running import Carrier
from lantern.station.stage import Stage
from lantern.store import logs, stations, tests
from lantern.store.database import Database
from lantern.store.passes import read_pass
from lantern.store.queue import RUN_TASK, RUNS, queue_app
from lantern.store.vault import Vault

log = structlog.get_logger()
STAGE_IDLE = 300.0
"""Seconds after which a stage is closed that nobody looks at."""
LARGEST_MESSAGE = 40 * 1024 * 1024


class Station:
    """Owns browsers, hosts live stages and carries out runs until it is stopped."""

    def __init__(
        self, url: str, *, host: str = "127.0.0.1", port: int = 0, runs_at_once: int = 2
    ) -> None:
        self.id = uuid.uuid4().hex[:12]
        self._url = url
        self._database = Database(url)
        self._vault = Vault()
        self._runs_at_once = runs_at_once
        self._browsers: dict[str, Chromium] = {}
        self._stages: dict[tuple[int, int], Stage] = {}
        self._opening: dict[tuple[int, int], threading.Lock] = {}
        self._starting: dict[str, threading.Lock] = {}
        self._watched: dict[int, Live] = {}
        self._carriers: set[Carrier] = set()
        self._lock = threading.RLock()
        self._stopping = threading.Event()
        self._server: Server = serve(
            self._connected, host, port, compression=None, max_size=LARGEST_MESSAGE
        )
        bound = self._server.socket.getsockname()
        self.address = f"ws://{host}:{bound[1]}"

    # -- life ----------------------------------------------------------------------------------

    def run(self) -> None:
        """Work until SIGTERM or SIGINT, then end in good order."""
        self._beat()
        for target in (self._server.serve_forever, self._beat_on):
            threading.Thread(target=target, daemon=True).start()
        log.info("station_up", station=self.id, address=self.address)
        try:
            asyncio.run(self._work())
        finally:
            self._end()

    def _end(self) -> None:
        self._stopping.set()
        self._server.shutdown()
        for carrier in list(self._carriers):
            carrier.cancel()
        with self._lock:
            for stage in self._stages.values():
                stage.close()
            for browser in self._browsers.values():
                browser.close()
        with self._database.session() as session:
            stations.leave(session, self.id)
        self._database.close()

    def _beat(self) -> None:
        with self._lock:
            browser = next(iter(self._browsers.values()), None)
            busy = len(self._carriers)
        with self._database.session() as session:
            stations.beat(
                session,
                self.id,
                name=socket.gethostname(),
                address=self.address,
                browser=browser.version if browser else "",
                busy=busy,
            )

    def _beat_on(self) -> None:
        while not self._stopping.wait(stations.BEAT):
            try:
                self._beat()
                with self._database.session() as session:
                    stations.sweep(session)
                self._close_idle()
            except Exception:
                log.exception("beat_failed")  # the database may be away for a while

    def _close_idle(self) -> None:
        with self._lock:
            idle = [
                key
                for key, stage in self._stages.items()
                if stage.viewers == 0 and time.monotonic() - stage.idle_since > STAGE_IDLE
            ]
            closing = [self._stages.pop(key) for key in idle]
        for stage in closing:
            stage.close()

    def browser(self, purpose: str, engine: str = "chromium") -> Chromium:
        """Return the living browser for a purpose ("stages", "runs"), started if need be."""
        key = f"{purpose} {engine}"
        with self._lock:
            starting = self._starting.setdefault(key, threading.Lock())
        with starting:
            browser = self._browsers.get(key)
            if browser is None or not browser.alive:
                if browser:
                    browser.close()
                browser = ENGINES[engine]()
                with self._lock:
                    self._browsers[key] = browser
            return browser

    # -- runs ----------------------------------------------------------------------------------

    async def _work(self) -> None:
        app: App = queue_app(self._url)

        @app.task(name=RUN_TASK, queue=RUNS)
        def carry_out(run_id: int) -> None:
            self._carry_out(run_id)

        loop = asyncio.get_running_loop()
        loop.set_default_executor(ThreadPoolExecutor(self._runs_at_once + 4))
        async with app.open_async():
            await self._free_stalled(app)
            worker = asyncio.create_task(
                app.run_worker_async(
                    queues=[RUNS],
                    concurrency=self._runs_at_once,
                    update_heartbeat_interval=2,
                    stalled_worker_timeout=6,
                    shutdown_graceful_timeout=5,
                    install_signal_handlers=False,
                    listen_notify=True,
                )
            )
            for number in (signal.SIGTERM, signal.SIGINT):
                loop.add_signal_handler(number, self._ask_stop, loop, worker)
            try:
                await worker
            except asyncio.CancelledError:
                log.info("station_down", station=self.id)

    def _ask_stop(self, loop: asyncio.AbstractEventLoop, worker: asyncio.Task[None]) -> None:
        self._stopping.set()
        for carrier in list(self._carriers):
            carrier.cancel()
        loop.call_later(0.1, worker.cancel)

    @staticmethod
    async def _free_stalled(app: App) -> None:
        """End the jobs of workers that died: their runs are marked as interrupted, not repeated."""
        from procrastinate.jobs import Status

        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=6):
            if job.id is not None:
                await app.job_manager.finish_job_by_id_async(
                    job.id, Status.FAILED, delete_job=False
                )

    def _carry_out(self, run_id: int) -> None:
        carrier = Carrier(
            self._database, self._vault, self.id, partial(self.browser, "runs"), self._watch
        )
        self._carriers.add(carrier)
        try:
            carrier.carry_out(run_id)
        finally:
            self._carriers.discard(carrier)

    def _watch(self, run_id: int, live: Live | None) -> None:
        with self._lock:
            if live is None:
                self._watched.pop(run_id, None)
            else:
                self._watched[run_id] = live

    # -- live connections ------------------------------------------------------------------------

    def _connected(self, connection: ServerConnection) -> None:
        query = parse_qs(urlsplit(connection.request.path if connection.request else "").query)
        content = read_pass(query.get("pass", [""])[0])
        if content is None:
            connection.close(4401, "no valid pass")
            return
        try:
            if "run" in content:
                self._serve_watching(connection, int(content["run"]))
            elif "code" in content:
                self._serve_code(connection)
            else:
                self._serve_stage(connection, content)
        except BrowserError as error:
            connection.close(4500, str(error)[:100])
        except ConnectionClosed:
            pass

    def _serve_stage(self, connection: ServerConnection, content: dict[str, Any]) -> None:
        stage = self._stage((int(content["test"]), int(content["account"])))
        try:
            self._pump(connection, stage.live, stage)
        finally:
            stage.viewers -= 1
            stage.idle_since = time.monotonic()

    def _stage(self, key: tuple[int, int]) -> Stage:
        """Return the stage of a test and an author with one more viewer, opened if need be.

        A page takes its time to open; only who wants this very stage waits for it.
        """
        with self._lock:
            opening = self._opening.setdefault(key, threading.Lock())
        with opening:
            with self._lock:
                stage = self._stages.get(key)
                if stage and stage.context.browser.alive and stage.context.pages:
                    stage.viewers += 1
                    return stage
            if stage:
                stage.close()  # its browser died; what it still holds is let go
            with self._database.session() as session:
                address = tests.get(session, key[0]).environment.address
            keeper = Keeper(self._database, self._vault, *key)
            stage = Stage(self.browser("stages"), keeper, address)
            with self._lock:
                stage.viewers += 1
                self._stages[key] = stage
            return stage

    def _serve_watching(self, connection: ServerConnection, run_id: int) -> None:
        with self._lock:
            live = self._watched.get(run_id)
        if live is None:
            connection.close(4404, "the run is not under way here")
            return
        self._pump(connection, live, None)

    @staticmethod
    def _serve_code(connection: ServerConnection) -> None:
        """Run code once, as its author tries it."""
        asked = read_json(connection.recv(10))
        connection.send(json.dumps(vars(run_code(RunCode(**asked)))))

    @staticmethod
    def _pump(connection: ServerConnection, live: Live, stage: Stage | None) -> None:
        viewer = Viewer()

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
        if stage:
            viewer.say({"type": "recording", "on": stage.recording})
        try:
            for text in connection:
                if stage and isinstance(text, str):
                    stage.take(read_json(text))
        except ConnectionClosed:
            pass
        finally:
            live.remove(viewer)
            viewer.close()


def main() -> None:
    """Run a station with the settings in the environment."""
    logs.configure()
    url = os.environ["LANTERN_DATABASE"]
    Station(
        url,
        host=os.environ.get("LANTERN_STATION_HOST", "127.0.0.1"),
        port=int(os.environ.get("LANTERN_STATION_PORT", "0")),
    ).run()


if __name__ == "__main__":
    main()
