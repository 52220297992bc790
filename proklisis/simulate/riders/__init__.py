"""Simulated riders, one module per discipline."""

from __future__ import annotations

from proklisis.simulate.score import Rider

RIDERS: dict[str, Rider] = {}
