"""The worker: takes casts from the queue, has them played, and hears when they are to stop."""

from __future__ import annotations

import asyncio
import json
import signal
import threading
from collections.abc import Awaitable, Callable, Collection, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

import structlog
from procrastinate import App, JobContext
from procrastinate.connector import BaseConnector
from procrastinate.exceptions import ConnectorException
from procrastinate.jobs import Job, Status
from procrastinate.manager import JobManager, NotificationCallback
from psycopg import OperationalError

from lantern.core.runs.places import Mode, queues_of
from lantern.station import printing
from lantern.station.browsers import Browsers
from lantern.station.database_book import DatabaseBooks
from lantern.station.executor import Executor, Shown
from lantern.store import casts, keeping, reconciling
from lantern.store.channel import notices
from lantern.store.database import WHEN_ENDING, Database
from lantern.store.queue import (
    AT_NIGHT,
    CAST_TASK,
    LAST,
    PRINT_TASK,
    PRINTING,
    TIDY_TASK,
    TIDYING,
    queue_app,
)
from lantern.store.vault import Vault

log = structlog.get_logger()
T = TypeVar("T")
BEAT = 2.0
"""Seconds between two signs of life of the queue's worker."""
GONE = 3600.0
"""Seconds after which the entry of a silent worker is removed; long, so that the living keep it."""
LOOK = 0.5
"""Seconds between two looks whether the queue was asked to abort a job."""
GRACE = 5
"""Seconds that casts under way get when the station ends."""


class _Manager(JobManager):
    """The queue's manager, whose worker outlives an outage of the database.

    Once `stopping` is set it waits for the database WHEN_ENDING at most. `takes` names the queues
    from which it takes just now, whatever it began with.
    """

    def __init__(
        self,
        connector: BaseConnector,
        stopping: threading.Event,
        takes: Callable[[], Sequence[str]],
    ) -> None:
        super().__init__(connector)
        self._stopping, self._takes = stopping, takes

    async def finish_job(self, job: Job, status: Status, delete_job: bool) -> None:
        while True:
            try:
                return await self._in_time(super().finish_job(job, status, delete_job))
            except ConnectorException as error:
                away = isinstance(error.__cause__, OperationalError)
                if self._stopping.is_set() or not away:
                    raise
            await asyncio.sleep(1)

    async def _in_time(self, work: Awaitable[T]) -> T:
        try:
            return await asyncio.wait_for(work, WHEN_ENDING if self._stopping.is_set() else None)
        except TimeoutError as error:
            raise ConnectorException from error

    async def unregister_worker(self, worker_id: int) -> None:
        await _borne(self._in_time(super().unregister_worker(worker_id)))

    async def update_heartbeat(self, worker_id: int) -> None:
        await _borne(super().update_heartbeat(worker_id))

    async def fetch_job(self, queues: Iterable[str] | None, worker_id: int) -> Job | None:
        if self._stopping.is_set():
            return None
        now = self._takes()
        job: Job | None = await _borne(super().fetch_job(now, worker_id)) if now else None
        return job

    async def listen_for_jobs(
        self, *, on_notification: NotificationCallback, queues: Iterable[str] | None = None
    ) -> None:
        while True:
            listening = super().listen_for_jobs(on_notification=on_notification, queues=queues)
            await _borne(listening)
            await asyncio.sleep(1)


async def _borne(work: Awaitable[Any]) -> Any:  # noqa: ANN401 - whatever the work gives
    """Return what work gives, None when the database fails."""
    try:
        return await work
    except ConnectorException as error:
        log.warning("queue_without_database", error=type(error.__cause__ or error).__name__)
        return None


def lost_of(held: Mapping[int, str], mine: Mapping[int, str]) -> dict[int, str]:
    """Return which of the casts that a station has taken, by their tokens, it does not play.

    `mine` are those that it plays; one without a token yet is just being taken.
    """
    return {key: token for key, token in held.items() if mine.get(key, None) not in (token, "")}


class Worker:
    """Plays casts for a station, `places` at a time, until it is told to end.

    `show` is told what there is to watch of a cast, None when it is over; `hear` gets all notices
    of the database.
    """

    def __init__(
        self,
        url: str,
        database: Database,
        vault: Vault,
        station_id: str,
        browsers: Browsers,
        *,
        places: int,
        show: Callable[[int, Shown | None], None],
        hear: Callable[[dict[str, Any]], None] = lambda told: None,
    ) -> None:
        self._url, self._database = url, database
        self._books = DatabaseBooks(database, vault, station_id)
        self._station_id, self._browsers, self._show = station_id, browsers, show
        self._places, self._hear = places, hear
        self._queues: list[str] = []
        self._playing: dict[int, tuple[Executor, JobContext]] = {}
        self._lock = threading.Lock()
        self._stopping = threading.Event()
        self._following = threading.Thread(target=self._follow, name="channel", daemon=True)

    def offer(self, mode: Mode, labels: Collection[str]) -> None:
        """Take casts or not, and those that need no more than these labels."""
        playing = queues_of(self._browsers.engines, labels) if mode == "works" else []
        prints = [PRINTING] if self._browsers.printer else []
        self._queues = [TIDYING, *prints, *playing]

    @property
    def busy(self) -> int:
        """How many casts are under way."""
        return len(self._playing)

    @property
    def stopping(self) -> threading.Event:
        """Set when the station is to end."""
        return self._stopping

    def run(self) -> None:
        """Work until SIGTERM or SIGINT."""
        self._following.start()
        asyncio.run(self._work())

    def give_up_lost(self) -> None:
        """End casts that count as played here and are not, as after an outage at their end."""
        with self._database.session() as session:
            held = casts.played_by(session, self._station_id)
            with self._lock:
                mine = {key: one.token for key, (one, _) in self._playing.items()}
            for cast_id, token in lost_of(held, mine).items():
                reconciling.give_up(session, cast_id, token)

    # -- the queue -----------------------------------------------------------------------------

    async def _work(self) -> None:
        loop = asyncio.get_running_loop()
        loop.set_default_executor(ThreadPoolExecutor(self._places + 4))
        task = asyncio.create_task(self._work_on())

        def end() -> None:
            self._stopping.set()
            self._stop_all()
            task.cancel()

        for number in (signal.SIGTERM, signal.SIGINT):
            loop.add_signal_handler(number, end)
        watch = asyncio.create_task(self._watch_aborts())
        try:
            await task
        except asyncio.CancelledError:
            log.info("station_down", station=self._station_id)
        finally:
            watch.cancel()

    async def _work_on(self) -> None:
        """Have a worker of the queue work; a further one when it ended because of an outage."""
        while not self._stopping.is_set():
            app = self._app()
            try:
                async with app.open_async():
                    await app.run_worker_async(
                        name=self._station_id,
                        concurrency=self._places,
                        fetch_job_polling_interval=2,
                        abort_job_polling_interval=1,
                        update_heartbeat_interval=BEAT,
                        stalled_worker_timeout=GONE,
                        shutdown_graceful_timeout=GRACE,
                        install_signal_handlers=False,
                        listen_notify=True,
                    )
            except Exception:
                log.exception("queue_worker_ended")
            await asyncio.sleep(1)

    def _app(self) -> App:
        app = queue_app(self._url)
        app.job_manager = _Manager(app.connector, self._stopping, lambda: self._queues)

        @app.task(name=CAST_TASK, pass_context=True)
        def play(context: JobContext, cast_id: int) -> None:
            self._play(context, cast_id)

        @app.periodic(cron=AT_NIGHT)
        @app.task(name=TIDY_TASK, queue=TIDYING, queueing_lock=TIDYING, priority=LAST)
        def tidy(timestamp: int) -> None:
            freed = keeping.tidy(self._database, self._stopping.is_set)
            log.info("tidied", **freed)

        @app.task(name=PRINT_TASK, queue=PRINTING)
        def print_one(print_id: int) -> None:
            printing.carry_out(self._database, print_id, self._browsers.print_pdf)

        return app

    def _play(self, context: JobContext, cast_id: int) -> None:
        executor = Executor(self._books, self._browsers, self._show)
        with self._lock:
            if self._stopping.is_set():
                return
            self._playing[cast_id] = executor, context
        try:
            executor.play(cast_id, context.job.id or 0)
        finally:
            with self._lock:
                if self._playing.get(cast_id, (None,))[0] is executor:
                    del self._playing[cast_id]

    # -- stopping ------------------------------------------------------------------------------

    def _stop_all(self) -> None:
        with self._lock:
            under_way = [executor for executor, _ in self._playing.values()]
        for executor in under_way:
            executor.stop(station=True)

    def _stop(self, cast_ids: Iterable[int]) -> None:
        with self._lock:
            found = [self._playing[key][0] for key in cast_ids if key in self._playing]
        for executor in found:
            executor.stop()

    async def _watch_aborts(self) -> None:
        """Stop what the queue was asked to abort: what the channel did not tell."""
        while True:
            await asyncio.sleep(LOOK)
            with self._lock:
                asked = [
                    key
                    for key, (_, context) in self._playing.items()
                    if context.should_abort() and not self._stopping.is_set()
                ]
            if asked:
                await asyncio.to_thread(self._stop_if_ending, asked)

    def _stop_if_ending(self, cast_ids: list[int]) -> None:
        """Stop those casts whose run is to end; a worker that ends aborts its jobs as well."""
        try:
            with self._database.session() as session:
                self._stop(casts.to_stop(session, cast_ids))
        except Exception:
            log.exception("not_stopped")  # it is looked again shortly

    def _follow(self) -> None:
        """Hear on the database's channel what is to stop."""
        for notice in notices(self._url, self._stopping):
            if notice is None:
                continue
            try:
                self._take_in(json.loads(notice))
            except Exception:
                log.exception("notice_not_understood")  # the next one may say what is to stop

    def _take_in(self, told: dict[str, Any]) -> None:
        self._hear(told)
        if told["about"] == "stop":
            self._stop(told["casts"])
        elif told["about"] == "reconnected":
            with self._lock:
                under_way = list(self._playing)
            if under_way:
                self._stop_if_ending(under_way)
