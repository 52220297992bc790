"""Readings with uncertainties from formulas (JCGM 100): turns on two skis, fast enough for a morning's film.

A measure is evaluated once in every frame; what its points' noise and the clip's facts add follows from its
derivatives, and means over phases from how long errors last.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

import numpy as np

from proklisis.core.errors import NotFollowed
from proklisis.core.measures import library
from proklisis.core.playbook.schema import Playbook
from proklisis.core.readings.of_units import Run, unit_readings
from proklisis.core.readings.readings import (
    SQUARE_IN_THE_CHANGE,
    Measured,
    Reading,
    Refusal,
    Series,
    refusal,
    unfollowed,
)
from proklisis.core.readings.sampled import Plan, drawn, with_u
from proklisis.core.readings.trace import Trace, build_trace
from proklisis.core.rider.figure import CAMERA_FACTS, FACTS, Figure, build, scene_facts
from proklisis.core.splitting.splitter import Splitter
from proklisis.core.splitting.units import Correct, Unit, side_per_frame
from proklisis.core.tracks.tracks import Tracks


def in_closed_form(
    smooth: Tracks, cutoff_hz: float, how: Splitter, book: Playbook, correct: Correct, draws: int
) -> Measured:
    """Split and measure smoothed tracks; only what is read at gates is drawn, ``draws`` times."""
    figure = build(smooth, cutoff_hz)
    found = correct(how.cuts(figure, how.signal(figure)))
    units = how.units(figure, found)
    side = side_per_frame(figure.t, units)
    figure = how.stood(replace(figure, side=side), units)
    facts, facts_u = scene_facts(smooth)
    # Only the camera moves points; the other facts are looked up as a measure is read.
    shifted = {
        name: how.stood(build(smooth, cutoff_hz, side, changed), units)
        if name in CAMERA_FACTS
        else replace(figure, facts=changed)
        for name, changed in uncertain_facts(facts, facts_u).items()
    }
    traces, refused = build_traces(figure, shifted, book.measures)
    per_unit, refused_units = unit_readings(Run(figure, traces, units, how.signal(figure).graded))
    readings = phase_readings(traces, units) + per_unit
    plan = Plan(book, [m for m in library.ALL if m.at_gates], figure)
    if any(name.startswith("gate_") for name in smooth.names) and plan.measures:
        readings += with_u(figure, drawn(smooth, cutoff_hz, draws), plan, units)
    series = {key: Series(trace.value, trace.frame_u()) for key, trace in traces.items()}
    return Measured(figure, found, units, readings, refused + refused_units + plan.refused, series)


def build_traces(
    figure: Figure, shifted: dict[str, Figure], wanted: Collection[str]
) -> tuple[dict[tuple[str, str], Trace], list[Refusal]]:
    """Evaluate the ``wanted`` measures that this figure can show; list the others with reasons."""
    traces: dict[tuple[str, str], Trace] = {}
    refused: list[Refusal] = []
    for m in library.ALL:
        if m.id not in wanted:
            continue
        why = refusal(m, figure)
        if why:
            refused.append(why)
        elif m.each_frame:
            try:
                traces |= {
                    (m.id, limb): build_trace(m, figure, shifted, limb) for limb in m.limbs or ("",)
                }
            except NotFollowed as e:
                refused.append(unfollowed(m, e.args))
    return traces, refused


def uncertain_facts(
    facts: dict[str, float], facts_u: dict[str, float]
) -> dict[str, dict[str, float]]:
    """Return, for each fact with an uncertainty, the facts with that one moved by its u."""
    return {
        name: {**facts, name: facts[name] + facts_u[name]}
        for name in FACTS
        if facts_u[name] > 0 and np.isfinite(facts[name])
    }


def phase_readings(traces: dict[tuple[str, str], Trace], units: list[Unit]) -> list[Reading]:
    """Mean of every trace over each of its phases in each unit."""
    out = []
    for (measure_id, limb), trace in traces.items():
        for phase in trace.measure.phases:
            way = -1.0 if phase == "transition" and measure_id in SQUARE_IN_THE_CHANGE else 1.0
            a, b = np.array([unit.phases[phase] for unit in units]).reshape(-1, 2).T
            values, us = trace.wholes(a, b)
            rows = zip(
                units, (way * values).tolist(), us.tolist(), ((a + b) / 2).tolist(), strict=True
            )
            out += [
                Reading(measure_id, v, u, unit.n, phase, limb or None, t)
                for unit, v, u, t in rows
                if np.isfinite(v)
            ]
    return out
