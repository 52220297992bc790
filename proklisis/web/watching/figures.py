"""Figures for a server that collects them (Prometheus' text): requests, the database, and what waits, works and fails."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import suppress

from django.conf import settings
from django.db import DatabaseError
from django.db.models import Count
from django.http import Http404, HttpRequest, HttpResponse
from django_prometheus.exports import ExportToDjangoView
from prometheus_client.core import REGISTRY, GaugeMetricFamily
from prometheus_client.registry import Collector

from proklisis.web.watching.health import disk_free, queue


def figures(request: HttpRequest) -> HttpResponse:
    """All figures, for whoever knows ``PROKLISIS_METRICS_TOKEN``; nothing is here where none is set."""
    told = request.headers.get("Authorization", "").removeprefix("Bearer ")
    if not settings.METRICS_TOKEN or not secrets.compare_digest(
        told.encode(), settings.METRICS_TOKEN.encode()
    ):
        raise Http404
    collected: HttpResponse = ExportToDjangoView(request)
    return collected


class OfTheQueue(Collector):
    """Asked at each collecting, so that any web server tells the same."""

    def describe(self) -> list[GaugeMetricFamily]:
        return []

    def collect(self) -> Iterator[GaugeMetricFamily]:
        free = GaugeMetricFamily("proklisis_disk_free_bytes", "Room left where clips are kept")
        free.add_metric([], disk_free())
        yield free
        with suppress(DatabaseError):
            yield from _of_the_database()


def _of_the_database() -> Iterator[GaugeMetricFamily]:
    from procrastinate.contrib.django.models import ProcrastinateJob

    from proklisis.web.watching.models import Failure

    waiting = queue()
    workers = GaugeMetricFamily("proklisis_workers", "Workers that were heard of lately")
    workers.add_metric([], waiting.workers)
    oldest = GaugeMetricFamily("proklisis_oldest_waiting_seconds", "How long the oldest job waits")
    oldest.add_metric([], waiting.oldest.total_seconds())
    jobs = GaugeMetricFamily("proklisis_jobs", "Jobs in the queue", labels=["task", "status"])
    rows = ProcrastinateJob.objects.values_list("task_name", "status").annotate(n=Count("id"))
    for task, status, n in rows:
        jobs.add_metric([task, status], n)
    failed = GaugeMetricFamily("proklisis_failures", "What failed and was not put aside")
    failed.add_metric([], Failure.objects.count())
    yield from (workers, oldest, jobs, failed)


def register() -> None:
    """Add the queue's figures to the others, once."""
    with suppress(ValueError):
        REGISTRY.register(OfTheQueue())
