"""Numbers for whoever watches the server, in the text format of Prometheus; each process counts, any of them tells for all."""

from __future__ import annotations

import logging
import os
import secrets
import time
from collections.abc import Iterator
from typing import Any

from apiflask import APIFlask
from flask import Response, g, request
from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.core import CounterMetricFamily, GaugeMetricFamily, Metric
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector

from ..engine.asking import Engine, EngineAway
from .disk import Disk

log = logging.getLogger("open_lemma.web")

REQUESTS = Counter("open_lemma_requests", "Requests answered", ["method", "route", "status"])
SECONDS = Histogram(
    "open_lemma_request_seconds", "Seconds until a request was answered", ["method", "route"],
    buckets=(0.005, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30),
)  # fmt: skip
KEPT = Counter("open_lemma_records_kept", "Records of runs, by whether they could be kept", ["outcome"])
TYPE = "text/plain; version=0.0.4; charset=utf-8"


class _State(Collector):
    """What the engine and the disk say at this moment."""

    def __init__(self, engine: Engine, disk: Disk) -> None:
        self.engine, self.disk = engine, disk

    def collect(self) -> Iterator[Metric]:
        try:
            state = self.engine.state()
        except EngineAway:
            state = {}
        yield GaugeMetricFamily("open_lemma_engine_up", "Whether the engine answers", value=float(bool(state)))
        free = self.disk.free()
        if free is not None:
            yield GaugeMetricFamily("open_lemma_disk_free_bytes", "Room on the disk of the data folder", value=float(free))
        if state:
            yield from _of_engine(state)


def _of_engine(state: dict[str, Any]) -> Iterator[Metric]:
    for name, text, key in (
        ("open_lemma_warm_processes", "Processes ready to work runs", "warm"),
        ("open_lemma_runs_to_keep", "Ended runs whose records are not kept yet", "to_keep"),
        ("open_lemma_results_bytes", "Results that the next runs can use", "memory_bytes"),
        ("open_lemma_events_bytes", "Events of runs that can still be asked for", "event_bytes"),
    ):
        yield GaugeMetricFamily(name, text, value=float(state.get(key, 0)))
    jobs = GaugeMetricFamily("open_lemma_jobs", "Jobs of this moment", labels=["state"])
    for word in ("waiting", "short", "long", "paused"):
        jobs.add_metric([word], float(state.get("states", {}).get(word, 0)))
    yield jobs
    ended = CounterMetricFamily("open_lemma_jobs_ended", "Jobs that have ended", labels=["kind", "reason"])
    for kind, reason, count in state.get("ended", []):
        ended.add_metric([kind, reason], float(count))
    yield ended
    for name, text, key in (
        ("open_lemma_job_seconds", "Seconds that jobs were at work", "seconds"),
        ("open_lemma_job_waited_seconds", "Seconds that jobs waited for room", "waited"),
    ):
        family = CounterMetricFamily(name, text, labels=["kind"])
        for kind, value in state.get(key, {}).items():
            family.add_metric([kind], float(value))
        yield family


def measure(app: APIFlask, engine: Engine, disk: Disk) -> None:
    """Count all requests of the application, and tell at /metrics; not to those who come through a proxy."""

    @app.before_request
    def begin() -> None:
        g.began, g.request_id = time.monotonic(), secrets.token_hex(6)

    @app.after_request
    def count(response: Response) -> Response:
        route = request.url_rule.rule if request.url_rule is not None else "none"
        REQUESTS.labels(request.method, route, str(response.status_code)).inc()
        took = time.monotonic() - g.get("began", time.monotonic())
        SECONDS.labels(request.method, route).observe(took)
        if name := g.get("request_id"):
            response.headers["X-Request-ID"] = name
        if request.method != "GET" or response.status_code >= 400:
            more = {"request": name, "method": request.method, "route": route, "status": response.status_code, "seconds": round(took, 3)}
            log.info("answered", extra={**more, "run": g.run} if "run" in g else more)
        return response

    @app.get("/metrics")
    @app.doc(hide=True)
    def metrics() -> Response:
        if "X-Forwarded-For" in request.headers:
            return Response("", 404)
        registry = CollectorRegistry()
        if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
            MultiProcessCollector(registry)
        else:
            registry.register(REQUESTS)
            registry.register(SECONDS)
            registry.register(KEPT)
        registry.register(_State(engine, disk))
        return Response(generate_latest(registry), mimetype=None, content_type=TYPE)
