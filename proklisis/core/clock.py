"""The clip's clock held against what was measured: load, fall, course and what a body can do."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from proklisis.core.clock_doubts import clock_doubt, course_doubt, fall_doubt, rate_doubt
from proklisis.core.doubts import Doubt, Doubtful
from proklisis.core.measures.load import clock_share
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.conditions import in_one_unit
from proklisis.core.playbook.words import lower_first, upper_first
from proklisis.core.readings.readings import Measured
from proklisis.core.splitting.flights import free_fall_scale, play_rate, scale_notes
from proklisis.core.splitting.splitter import Splitter
from proklisis.core.tracks.tracks import Tracks
from proklisis.core.uncertainty import Value


@dataclass(frozen=True)
class Clock:
    """What is known of a clip's rate.

    Attributes
    ----------
    sure : the picture itself, the coach, or positions in space bear it out
    plays_slower : how many times slower than life the clip seems to play, by the fall in the air
    fallen : pixels per metre by the fall of the body in the air, where one was long enough
    notes : what a coach should know of it, in sentences
    """

    sure: bool
    plays_slower: float | None = None
    fallen: Value | None = None
    notes: tuple[str, ...] = ()


def held_to_the_clock(tracks: Tracks, how: Splitter, got: Measured) -> Clock:
    """What bears the clip's rate out; Doubtful where something speaks against it and the coach is not sure."""
    fps = tracks.facts.fps
    share = clock_share(got.figure) if how.outside_foot else float("nan")
    _doubted(tracks, clock_doubt(share, fps))
    notes: tuple[str, ...] = ()
    slower = None
    fallen = free_fall_scale(got.figure, got.units) if how.free_flight else None
    if fallen is not None:
        slower = play_rate(fallen, got.figure.facts["scale"], tracks.facts.px_per_m_rel_u)
        if slower is not None:
            doubt = fall_doubt(slower, fps)
            _doubted(tracks, doubt)
            notes = (f"{upper_first(doubt.says)}.",)
        else:
            notes = scale_notes(got.figure, fallen)
    # After the fall, which tells too slow from too fast more surely than one odd flight does.
    paced = _paced(tracks, how, got)
    falls = fallen is not None and bool(np.isfinite(got.figure.facts["scale"])) and slower is None
    known = "rate" in tracks.facts.sure or tracks.xyz is not None
    return Clock(
        bool(np.isfinite(share)) or falls or paced or known,
        slower,
        fallen if got.figure.view not in (None, "above") else None,
        notes,
    )


def _paced(tracks: Tracks, how: Splitter, got: Measured) -> bool:
    """Whether the course bears out the clock; raise a doubt where it, or what a body can do, speaks against it."""
    boat, fps = in_one_unit(tracks.facts.conditions).get("boat_kmh"), tracks.facts.fps
    course = False
    if isinstance(boat, int | float) and not isinstance(boat, bool):
        course = tracks.facts.conditions.get("buoys") is True and len(got.units) > 1
        if course:
            crossing = float(np.median([u.end.t - u.start.t for u in got.units]))
            _doubted(tracks, course_doubt(crossing, float(boat), fps))
    if how.possible_s is not None and len(got.units) > 1:
        low, high = how.possible_s
        usual = float(np.median([u.end.t - u.start.t for u in got.units]))
        if not low <= usual <= high:
            pace = f"{usual:.2g} s from one to the next is {'quicker' if usual < low else 'slower'} than anybody goes"
            # What is between the two on a scale of ratios is usual; cameras slow down by powers of two.
            k = 2.0 ** round(float(np.log2(usual / np.sqrt(low * high))))
            _doubted(tracks, rate_doubt(k, pace, fps))
    for r in got.readings:
        m = REGISTRY[r.id]
        if m.unit != "s" or m.possible is None or m.possible[0] <= r.value <= m.possible[1]:
            continue
        k = 0.5 if r.value < m.possible[0] else 2
        beyond = f"{lower_first(m.title)} of {r.value:.2g} s is more than anybody can do"
        _doubted(tracks, rate_doubt(k, beyond, fps))
    return course


def _doubted(tracks: Tracks, doubt: Doubt | None) -> None:
    """Raise a doubt of the clock, unless the coach is sure of it."""
    if doubt is not None and "rate" not in tracks.facts.sure:
        raise Doubtful(doubt)
