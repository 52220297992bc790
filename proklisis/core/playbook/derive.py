"""Values that follow from others of the same sheet and from what the run was meant to be."""

from __future__ import annotations

from collections.abc import Callable

from proklisis.core.physics.rotation import air_time_needed
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.under import Under
from proklisis.core.shapes.run_sheet import Level, Observation, RunSheet, SheetMeasure
from proklisis.core.uncertainty import propagate

#: Turns a roll on a board is meant to have where the sheet does not say.
ONE_ROLL = 1.0
#: What follows from a last stroke on the side that was not wanted.
WRONG_STROKE = "last_stroke_wrong_side"
#: The fault that it is.
STROKE_FAULT = "stroke_plan_off"


def derived(sheet: RunSheet, book: Playbook, under: Under) -> RunSheet:
    """Return the sheet with derived values added where they are not given.

    ``air_margin``: air time − the air time that the planned rotations need at this rider's own
    rotation period. A spin that is itself slower than its band is not held against the lift: the
    need is then that of a spin at the band's edge.
    ``last_stroke_wrong_side``: the blade of the last stroke is not the wanted one, where the coach noted nothing of it.
    ``shortfall``, ``over_rotation``: planned − landed rotations in degrees, and landed − planned.
    """
    sheet = _with_last_strokes(sheet, book, under)
    ways: dict[str, tuple[tuple[str, ...], Callable[..., Callable[..., float]]]] = {
        "air_margin": (
            ("air_time", "rotation_period"),
            lambda planned, slowest: (
                lambda air, period: air - air_time_needed(planned, min(period, slowest))
            ),
        ),
        "shortfall": (("rotations",), lambda planned, _: lambda turns: 360.0 * (planned - turns)),
        "over_rotation": (("rotations",), lambda planned, _: lambda turns: turns - planned),
    }
    ways = {measure: way for measure, way in ways.items() if measure in book.measures}
    if not ways:
        return sheet
    by_id = {(m.id, m.segment): m for m in sheet.measures}
    more: dict[tuple[str, int | None], SheetMeasure] = {}
    for measure, (sources, way) in ways.items():
        for segment in {m.segment for m in sheet.measures if m.id == sources[0]}:
            planned = under.given(segment).get(
                "planned_rotations", ONE_ROLL if "over_rotation" in book.measures else None
            )
            # What is given for the whole run stands for each unit.
            found = [
                m
                for i in sources
                if (m := by_id.get((i, segment)) or by_id.get((i, None))) is not None
            ]
            if (
                len(found) < len(sources)
                or isinstance(planned, bool)
                or not isinstance(planned, int | float)
            ):
                continue
            slowest = _slowest_spin(sheet.level, book, under, segment)
            given = (measure, segment) in by_id or (measure, None) in by_id
            if not given or (measure == "air_margin" and found[1].value > slowest):
                v = propagate(way(planned, slowest), [m.value for m in found], [m.u for m in found])
                more[measure, segment] = SheetMeasure(
                    id=measure, segment=segment, value=v.value, u=v.u
                )
    kept = [m for m in sheet.measures if (m.id, m.segment) not in more]
    return sheet.model_copy(update={"measures": [*kept, *more.values()]})


def _slowest_spin(level: Level, book: Playbook, under: Under, segment: int | None) -> float:
    """Upper edge in seconds of the band of ``rotation_period`` in a unit, or infinity."""
    whens = [w for i in book.faults if (w := under.when(i, segment)) is not None]
    bands = (
        c.band_for(level)
        for w in whens
        for c in w.leaves()
        if c.measure == "rotation_period" and not c.hangs_on
    )
    return min((b[1] for b in bands if b is not None and b[1] is not None), default=float("inf"))


def _with_last_strokes(sheet: RunSheet, book: Playbook, under: Under) -> RunSheet:
    """The sheet with the last strokes held against the wanted ones; what the coach noted stands."""
    if WRONG_STROKE not in book.observations or any(
        book.noted.get(o.id) in (WRONG_STROKE, STROKE_FAULT) for o in sheet.observations
    ):
        return sheet
    rows = [
        (s.n, s.last_stroke, under.given(s.n).get("wanted_last_stroke"))
        for s in sheet.segments
        if s.last_stroke is not None
    ]
    more = [
        Observation(id=WRONG_STROKE, segment=n, seen=blade != wanted)
        for n, blade, wanted in rows
        if wanted is not None
    ]
    return (
        sheet.model_copy(update={"observations": [*sheet.observations, *more]}) if more else sheet
    )
