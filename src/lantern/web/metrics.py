"""Figures for monitoring, in the text format of Prometheus (OpenMetrics), at /api/metrics.

What happens in this process is counted as it happens; how things stand is asked of the database
when somebody looks.
"""

from __future__ import annotations

import os
import time
from collections.abc import Iterator

import structlog
from flask import Flask, Response, g, request
from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.exposition import CONTENT_TYPE_LATEST
from prometheus_client.registry import Collector
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern import __version__
from lantern.core.plans.going import GOING
from lantern.store import stations
from lantern.store.database import Database
from lantern.store.models import Cast, Delivery, Mail, PlanRun, Run

log = structlog.get_logger()
PATH = "/api/metrics"
NOT_TOLD = frozenset({PATH, "/api/health"})
"""What is asked by machines all the time, and stands in no log."""


class Standing(Collector):
    """How things stand, asked of the database."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def collect(self) -> Iterator[GaugeMetricFamily]:
        """Yield the figures; whatever the database raises is raised."""
        with self._database.session() as session:
            yield from _of_casts(session)
            yield from _of_stations(session)
            yield from _of_messages(session)

    def describe(self) -> Iterator[GaugeMetricFamily]:
        """Tell nothing ahead: the database need not be there when the process starts."""
        return iter(())


def _gauge(name: str, words: str, *labels: str) -> GaugeMetricFamily:
    return GaugeMetricFamily(f"lantern_{name}", words, labels=labels)


def _of_casts(session: Session) -> Iterator[GaugeMetricFamily]:
    busy = _gauge("casts", "Casts that wait or play", "state")
    open_ones = select(Cast.outcome, func.count()).filter(Cast.outcome.in_(("waiting", "running")))
    counts = {"waiting": 0, "running": 0}
    counts |= {
        str(row[0]): int(row[1]) for row in session.execute(open_ones.group_by(Cast.outcome))
    }
    for state, count in counts.items():
        busy.add_metric([state], count)
    yield busy
    yield GaugeMetricFamily(
        "lantern_runs_open",
        "Runs of tests that are not over",
        value=session.scalar(
            select(func.count()).select_from(Run).filter(Run.state.in_(("queued", "running")))
        ),
    )
    yield GaugeMetricFamily(
        "lantern_plan_runs_open",
        "Runs of plans that are not over",
        value=session.scalar(
            select(func.count()).select_from(PlanRun).filter(PlanRun.state.in_(GOING))
        ),
    )
    last = _gauge("plan_last_run_passed", "Whether the last run of a plan passed", "plan", "state")
    newest = (
        select(func.max(PlanRun.id))
        .filter(PlanRun.ended_at.is_not(None), PlanRun.plan_id.is_not(None))
        .group_by(PlanRun.plan_id)
    )
    for run in session.scalars(select(PlanRun).filter(PlanRun.id.in_(newest)).order_by(PlanRun.id)):
        last.add_metric([run.plan_name, run.state], float(run.state in ("passed", "unsteady")))
    yield last


def _of_stations(session: Session) -> Iterator[GaugeMetricFamily]:
    up = _gauge("station_places", "Places of stations that are up", "station", "mode")
    for one in stations.alive(session):
        up.add_metric([one.name, one.mode], one.places)
    yield up


def _of_messages(session: Session) -> Iterator[GaugeMetricFamily]:
    waiting = _gauge("messages", "Mails and messages to webhooks", "kind", "state")
    for name, kind in (("mail", Mail), ("webhook", Delivery)):
        counts = select(kind.state, func.count()).group_by(kind.state)
        for state, count in session.execute(counts):
            waiting.add_metric([name, state], count)
    yield waiting


def init_app(app: Flask) -> None:
    """Count what is asked of an application, log it, and show the figures."""
    registry = CollectorRegistry()
    registry.register(Standing(app.extensions["lantern"].database))
    asked = Counter(
        "lantern_requests", "Requests of the API", ["operation", "status"], registry=registry
    )
    took = Histogram(
        "lantern_request_seconds", "How long requests of the API took", registry=registry
    )
    about = GaugeMetricFamily("lantern_info", "The release", labels=["version"])
    about.add_metric([__version__], 1)
    registry.register(_Fixed(about))

    @app.before_request
    def begin() -> None:
        g.begun = time.perf_counter()

    @app.after_request
    def note(response: Response) -> Response:
        if request.path.startswith("/api/") and request.path not in NOT_TOLD:
            seconds = time.perf_counter() - g.get("begun", time.perf_counter())
            operation = str(request.url_rule or "none")  # the pattern: no ids, no end of labels
            asked.labels(operation, f"{response.status_code // 100}xx").inc()
            took.observe(seconds)
            _log(response, seconds)
        return response

    @app.route(PATH)  # no part of the typed API: its format is another standard's
    def metrics() -> Response:
        return Response(generate_latest(registry), content_type=CONTENT_TYPE_LATEST)


class _Fixed(Collector):
    """A figure that does not change."""

    def __init__(self, figure: GaugeMetricFamily) -> None:
        self._figure = figure

    def collect(self) -> Iterator[GaugeMetricFamily]:
        """Yield it."""
        yield self._figure


def _log(response: Response, seconds: float) -> None:
    """Log a request in one line: without its query, which may hold what people look for."""
    if os.environ.get("LANTERN_REQUESTS_LOGGED") != "1":
        return
    entry = g.get("sign_in")
    log.info(
        "request",
        method=request.method,
        path=request.path,
        status=response.status_code,
        ms=round(seconds * 1000, 1),
        account=entry.account.id if entry else None,
        origin=request.remote_addr or "",
    )
