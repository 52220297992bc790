"""Values that follow from others of the same sheet and from what the run was meant to be."""

from __future__ import annotations

from proklisis.core.physics.rotation import air_time_needed
from proklisis.core.sheet import RunSheet, SheetMeasure
from proklisis.core.uncertainty import propagate


def derived(sheet: RunSheet) -> RunSheet:
    """Return the sheet with derived values added where they are not given.

    ``air_margin``: air time − the air time that the planned rotations need at this rider's own
    rotation period.
    """
    planned = sheet.conditions.get("planned_rotations")
    if sheet.discipline != "figure_jump" or isinstance(planned, bool) or not isinstance(planned, int | float):
        return sheet
    by_id = {(m.id, m.segment): m for m in sheet.measures}
    more = []
    for segment in {m.segment for m in sheet.measures}:
        air, period = by_id.get(("air_time", segment)), by_id.get(("rotation_period", segment))
        if air is None or period is None or ("air_margin", segment) in by_id:
            continue
        v = propagate(lambda a, p: a - air_time_needed(planned, p), [air.value, period.value], [air.u, period.u])
        more.append(SheetMeasure(id="air_margin", segment=segment, value=v.value, u=v.u))
    return sheet.model_copy(update={"measures": [*sheet.measures, *more]})
