"""What is counted of one process, for a monitoring system (Prometheus' text format)."""

from __future__ import annotations

import time
from collections.abc import Collection
from datetime import UTC, datetime

from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram, generate_latest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from hornfels.core.rights.roles import EVERYWHERE
from hornfels.store.models import DomainRow, JobRow

CONTENT_TYPE = "text/plain; version=0.0.4; charset=utf-8"
_METHODS = {"GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"}
_SECONDS = (0.005, 0.01, 0.025, 0.05, 0.1, 0.3, 1.0, 3.0, 10.0)


class Metrics:
    """Counters of this process, and what the database holds when it is asked."""

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        self._requests = Counter(
            "hornfels_requests",
            "Requests answered.",
            ("method", "status"),
            registry=self.registry,
        )
        self._seconds = Histogram(
            "hornfels_request_seconds",
            "From the head of a request to the head of its answer.",
            buckets=_SECONDS,
            registry=self.registry,
        )
        self.verdicts = Counter(
            "hornfels_verdicts", "Verdicts given to candidates.", registry=self.registry
        )
        self._jobs = Gauge("hornfels_jobs", "Jobs by state.", ("state",), registry=self.registry)
        self._ages = Gauge(
            "hornfels_directory_age_seconds",
            "Since a domain's directory was read.",
            ("domain",),
            registry=self.registry,
        )

    def answered(self, method: str, status: int, began: float) -> None:
        """A request was answered; `began` is of the monotonic clock."""
        self._requests.labels(method if method in _METHODS else "other", str(status)).inc()
        self._seconds.observe(time.monotonic() - began)

    def written(self, database: Session, domains: Collection[str]) -> bytes:
        """All of it by now, with the ages of those `domains`."""
        self._jobs.clear()
        for state, count in database.execute(
            select(JobRow.state, func.count()).group_by(JobRow.state)
        ):
            self._jobs.labels(state).set(count)
        self._ages.clear()
        now = datetime.now(UTC)
        for name, at in database.execute(select(DomainRow.dns_name, DomainRow.loaded_at)):
            if name in domains or EVERYWHERE in domains:
                self._ages.labels(name).set((now - at).total_seconds())
        return generate_latest(self.registry)
