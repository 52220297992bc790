"""Readings by repeated draws: every family but the carved turn is measured this way.

Landmarks and the facts of the clip are drawn again and again from their uncertainties, the run is
split and measured again each time. The standard deviation over the draws, held between that of their
quartiles and three times it, is a number's standard uncertainty. That is the way of JCGM 101:2008 with twenty
draws in place of its many thousand: a deviation is then itself known to about a sixth. A measure is a plain function
of a figure and a unit, however crooked its formula.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from statistics import quantiles

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError, NotFollowed
from proklisis.core.measures import library
from proklisis.core.measures.registry import REGISTRY, TURN_PHASES, Measure
from proklisis.core.playbook.schema import Condition, Playbook
from proklisis.core.readings.readings import (
    SQUARE_IN_THE_CHANGE,
    Measured,
    Reading,
    Refusal,
    Series,
    refusal,
    unfollowed,
)
from proklisis.core.rider.figure import FACTS, RIDER_FACTS, Figure, build, scene_facts
from proklisis.core.signals import lowpass
from proklisis.core.splitting.splitter import Splitter
from proklisis.core.splitting.units import Boundary, Correct, Unit, side_per_frame
from proklisis.core.tracks.landmarks import BODY, DRIFTS
from proklisis.core.tracks.tracks import ClipFacts, Tracks
from proklisis.core.uncertainty import frame_time_u

Array = NDArray[np.float64]
DRAWS = 20
#: Draws of depths leave out that a whole pose may be guessed wrongly: what is read in space is so much wider (rendered people).
IN_SPACE = 1.5
#: Share of a network's error variance that lasts all through a clip (rendered people: half of a point's error does).
LASTING = 0.5
#: A share whose U is wider than this, in percent, is no reading (house choice).
WIDEST_SHARE = 50.0
#: A deviation over so few draws is taken together over these seconds about a frame (house choice).
STEADY_S = 0.2
#: Seed of the draws by which boundaries move for what their splitter is unsure of.
OWN_SEED = 41
#: Keys of a value: measure, unit number (0: the run), phase, limb.
Key = tuple[str, int, str | None, str | None]
#: (measure, limb or "") → (n,) values of every frame.
SeriesByLimb = dict[tuple[str, str], Array]


def drawn(tracks: Tracks, cutoff_hz: float, draws: int = DRAWS, seed: int = 0) -> list[Figure]:
    """Figures of the smoothed ``tracks`` with landmarks and facts moved as their ± allows."""
    if tracks.xyz is not None:
        return []
    facts, facts_u = scene_facts(tracks)
    rng, of_rider = np.random.default_rng(seed), np.random.default_rng([seed, 1])
    of_tracker = np.random.default_rng([seed, 2])
    out = []
    for _ in range(draws):
        noise = tracks.u[..., None] * rng.standard_normal(tracks.xy.shape)
        for name in DRIFTS:
            if name in tracks.index:
                noise[:, tracks.index[name]] = np.cumsum(noise[:, tracks.index[name]], axis=0)
        moved = np.where(np.isfinite(noise), noise, 0.0)
        moved = lowpass(moved, tracks.facts.fps, min(cutoff_hz, _slowest(tracks, cutoff_hz)))
        if tracks.facts.error_corr_s > 0:
            moved *= _kept(tracks, cutoff_hz)
            moved = _with_lasting(moved, tracks, of_tracker)
        changed = {k: facts[k] + facts_u[k] * rng.standard_normal() for k in FACTS}
        changed |= {k: facts[k] + facts_u[k] * of_rider.standard_normal() for k in RIDER_FACTS}
        out.append(
            build(
                replace(
                    tracks,
                    xy=tracks.xy + moved,
                    facts=_remarked(tracks.facts, rng),
                    in_space=None if tracks.in_space is None else tracks.in_space.drawn(rng),
                ),
                cutoff_hz,
                facts=changed,
            )
        )
    return out


def _with_lasting(moved: Array, tracks: Tracks, rng: np.random.Generator) -> Array:
    """Errors of which a part lasts all through the clip, where a network followed the body: it is no doubt of one unit but of all."""
    body = [k for k, n in enumerate(tracks.names) if n in BODY]
    out = moved.copy()
    lasting = rng.standard_normal((len(body), 2)) * LASTING**0.5
    u = tracks.u[:, body]
    out[:, body] *= (1 - LASTING) ** 0.5
    out[:, body] += np.where(np.isfinite(u), u, 0.0)[..., None] * lasting
    return out


def _remarked(facts: ClipFacts, rng: np.random.Generator) -> ClipFacts:
    """The facts with the corners of the ice marked again, as well as a hand marks them."""
    if facts.plane is None:
        return facts
    corners = np.asarray(facts.plane.corners) + facts.plane.u_px * rng.standard_normal((4, 2))
    return facts.model_copy(
        update={"plane": facts.plane.model_copy(update={"corners": tuple(map(tuple, corners))})}
    )


def _slowest(tracks: Tracks, cutoff_hz: float) -> float:
    """Cut-off that gives drawn errors the correlation time of the tracker's."""
    tau = tracks.facts.error_corr_s
    return cutoff_hz if tau <= 0 else 1.0 / (2 * np.pi * tau)


def _kept(tracks: Tracks, cutoff_hz: float) -> float:
    """Slow errors pass the smoothing whole: undo what the low-pass took from the drawn ones."""
    slow = min(cutoff_hz, _slowest(tracks, cutoff_hz))
    return float(np.sqrt(max(1.0, tracks.facts.fps / (2 * slow))))


def wanted_places(book: Playbook) -> dict[str, set[tuple[str | None, str | None]]]:
    """Measure → the (phase, limb) pairs that the playbook's bands ask for."""
    places: dict[str, set[tuple[str | None, str | None]]] = {m: set() for m in book.measures}
    conditions: Iterable[Condition] = (
        *(f.when for f in book.faults.values()),
        *(s.when for s in book.strengths.values()),
    )
    for condition in conditions:
        for leaf in condition.leaves():
            for name in (leaf.measure, leaf.over, leaf.minus):
                if name in places:
                    places[name].add((leaf.phase, leaf.limb))
    return places


class Plan:
    """Which values are read for a discipline, and which a figure cannot give."""

    def __init__(self, book: Playbook, measures: Iterable[Measure], figure: Figure) -> None:
        self.refused: list[Refusal] = []
        self.measures: list[tuple[Measure, list[tuple[str | None, str | None]]]] = []
        board = figure.sideways
        places = wanted_places(book)
        for m in measures:
            if m.id not in places or m.read is None:
                continue
            if m.id in book.by_hand:
                self.refused.append(
                    Refusal(
                        m.id,
                        "not_measured",
                        f"{m.title} is not read from tracks here: measure it by hand.",
                    )
                )
                continue
            lacking = [p for p in self._must(book, m) if p not in figure.points]
            why = refusal(m, figure) or (unfollowed(m, lacking) if lacking else None)
            if why:
                self.refused.append(why)
                continue
            pairs = places[m.id] or {(None, None)}
            self.measures.append(
                (m, sorted({p for pair in pairs for p in _spread(m, *pair, board)}, key=str))
            )

    @staticmethod
    def _must(book: Playbook, m: Measure) -> tuple[str, ...]:
        """Landmarks without which a measure would be read of something else: of the shins, say, in place of a board."""
        return book.needs.get(m.id, ()) + (m.board_points if book.sideways else ())

    def values(
        self, figure: Figure, units: list[Unit], series: SeriesByLimb | None = None
    ) -> dict[Key, float]:
        """Every value of one figure; what turns out not to be there is refused from now on.

        What is read in every frame is put into ``series`` too, where that is given.
        """
        out: dict[Key, float] = {}
        for m, pairs in list(self.measures):
            try:
                values, of_limb = _values(m, pairs, figure, units)
                out |= values
                if series is not None:
                    series |= {(m.id, limb or ""): x for limb, x in of_limb.items()}
            except NotFollowed as e:
                self.measures.remove((m, pairs))
                self.refused.append(unfollowed(m, e.args))
        return out


def _values(
    m: Measure, pairs: list[tuple[str | None, str | None]], figure: Figure, units: list[Unit]
) -> tuple[dict[Key, float], dict[str | None, Array]]:
    """A measure's values, and its series by limb where it is read in every frame."""
    assert m.read is not None  # a plan holds only what can be read
    out: dict[Key, float] = {}
    series: dict[str | None, Array] = {}
    for phase, limb in pairs:
        more = () if limb is None else (limb,)
        if m.over == "run":
            out[m.id, 0, None, limb] = float(m.read(figure, units, *more))
            continue
        if m.each_frame and limb not in series:
            series[limb] = series_of(m, figure, more)
        for u in units:
            if u.limb is not None and limb in ("l", "r") and limb != u.limb:
                continue
            out[m.id, u.n, phase, limb] = _value(m, figure, u, phase, more, series.get(limb))
    return out, series


def _spread(
    m: Measure, phase: str | None, limb: str | None, board: bool
) -> list[tuple[str | None, str | None]]:
    """The pairs to read where a band names no limb, or names a phase that the measure has not."""
    if m.at_once and m.over == "unit":
        phase = m.phases[0] if len(m.phases) == 1 else None
    elif m.phases and m.phases != TURN_PHASES and phase is None:
        return [p for own in m.phases for p in _spread(m, own, limb, board)]
    if limb is None and m.limbs:
        return [(phase, x) for x in (("front", "back") if board else ("l", "r"))]
    return [(phase, limb)]


def series_of(m: Measure, figure: Figure, more: tuple[str, ...]) -> Array:
    """(n,) a measure in every frame, toward the inside of its own turn where it has a side."""
    assert m.read is not None
    result = m.read(figure, *more)
    value = result[0] if isinstance(result, tuple) else result
    return np.asarray(value * figure.side if m.signed and figure.side.any() else value)


def _own_u(
    m: Measure, figure: Figure, unit: Unit | None, phase: str | None, limb: str | None
) -> float:
    """What a measure itself says that it cannot know of a value, beside the landmarks' noise."""
    if not m.each_frame or unit is None:
        return 0.0
    more = () if limb is None else (limb,)
    series = _own_series(m, figure, limb)
    if series is None:
        return 0.0
    own = _value(replace(m, stat="mean"), figure, unit, phase, more, series)
    return own if np.isfinite(own) else 0.0


def _own_series(m: Measure, figure: Figure, limb: str | None) -> Array | None:
    """(n,) what a measure itself says that it cannot know of each frame; None where it says nothing."""
    more = () if limb is None else (limb,)
    result = figure.once(f"{m.id} {limb}", lambda: m.read(figure, *more))  # type: ignore[misc]
    return result[1] if isinstance(result, tuple) else None


def _value(
    m: Measure,
    figure: Figure,
    unit: Unit,
    phase: str | None,
    more: tuple[str, ...],
    series: Array | None,
) -> float:
    if series is None:
        assert m.read is not None
        of = (figure, unit, phase) if m.over == "phase" else (figure, unit)
        return float(m.read(*of, *more))
    if phase is not None and (
        phase not in unit.phases or (phase == "transition" and m.id in SQUARE_IN_THE_CHANGE)
    ):
        return float("nan")
    a, b = unit.phases[phase] if phase is not None else (unit.start.t, unit.end.t)
    i, j = np.searchsorted(figure.t, [a - 1e-9, b + 1e-9])
    piece = series[i : max(j, i + 1)]
    seen = piece[np.isfinite(piece)]
    if len(seen) * 2 < len(piece) or not len(seen):
        return float("nan")
    if m.stat == "max":
        return float(seen.max())
    return float(seen.min() if m.stat == "min" else seen.mean())


def with_u(figure: Figure, draws: list[Figure], plan: Plan, units: list[Unit]) -> list[Reading]:
    """Readings of units whose boundaries are already known."""
    base = plan.values(figure, units)
    spread = [plan.values(replace(moved, side=figure.side), units) for moved in draws]
    return _readings(
        figure,
        plan,
        units,
        base,
        {k: [s[k] for s in spread if np.isfinite(s[k])] for k in base},
        len(draws),
    )


def by_draws(
    smooth: Tracks, cutoff_hz: float, how: Splitter, book: Playbook, correct: Correct, draws: int
) -> Measured:
    """Split and measure smoothed tracks; the draws give every boundary and value its uncertainty.

    ``correct`` is done to the boundaries that are found and to those of every draw. InputError where those
    that are found cannot be corrected so.
    """
    figure = build(smooth, cutoff_hz)
    plan = Plan(book, library.ALL, figure)
    moved_figures = drawn(smooth, cutoff_hz, draws)
    found = correct(how.cuts(figure, how.signal(figure)))
    units = how.units(figure, found)
    figure = _stood(how, figure, units)
    in_frames: SeriesByLimb = {}
    base = plan.values(figure, units, in_frames)
    moves = _Moves(in_frames)
    spread: dict[Key, list[float]] = {key: [] for key in base}
    times: list[list[float]] = [[] for _ in found]
    rng = np.random.default_rng(OWN_SEED)
    for moved in moved_figures:
        its_own = _moved_by_their_own(how.cuts(moved, how.signal(moved)), figure.fps, rng)
        cuts = _corrected(its_own, correct)
        if len(cuts) != len(found):
            # This draw sees another number of units: take the found ones, moved by nothing.
            cuts = found
        else:
            for k, b in enumerate(cuts):
                times[k].append(b.t)
        its = how.units(moved, cuts)
        if len(its) != len(units):
            continue
        its_frames: SeriesByLimb = {}
        values = plan.values(_stood(how, moved, its), its, its_frames)
        moves.add(its_frames)
        for key, v in values.items():
            if key in spread and np.isfinite(v):
                spread[key].append(v)
    found = [_timed(b, times[k], figure.fps, len(moved_figures)) for k, b in enumerate(found)]
    units = how.units(figure, found)
    readings = _readings(figure, plan, units, base, spread, len(moved_figures))
    return Measured(figure, found, units, readings, plan.refused, moves.series(figure, plan, draws))


class _Moves:
    """By how much every frame's value moves over the draws, as running sums: a long clip's draws need not be kept."""

    def __init__(self, base: SeriesByLimb) -> None:
        self.base = base
        self.sums = {key: np.zeros((3, len(x))) for key, x in base.items()}

    def add(self, moved: SeriesByLimb) -> None:
        for key, x in moved.items():
            if key not in self.sums:
                continue
            by = x - self.base[key]
            if REGISTRY[key[0]].unit == "deg":
                by = (by + 180.0) % 360.0 - 180.0
            by = np.where(np.isfinite(by), by, np.nan)
            seen = np.isfinite(by)
            self.sums[key] += np.where(seen, [np.ones_like(by), by, by**2], 0.0)

    def series(self, figure: Figure, plan: Plan, draws: int) -> dict[tuple[str, str], Series]:
        """Every measure's series with its u; nothing in frames that few draws see."""
        known = {m.id for m, _ in plan.measures}
        out = {}
        for (measure_id, limb), value in self.base.items():
            if measure_id not in known or not draws:
                continue
            m = REGISTRY[measure_id]
            n, total, squares = self.sums[measure_id, limb]
            enough = n >= max(2.0, draws / 2)
            count = np.where(enough, n, np.nan)
            mean = total / count
            var = np.maximum(squares / count - mean**2, 0.0) * count / (count - 1)
            u = np.sqrt(_running_mean(var, max(1, round(STEADY_S * figure.fps))))
            own = _own_series(m, figure, limb or None)
            if own is not None:
                u = np.hypot(u, own)
            if figure.in_space:
                if m.unit in ("deg", "ratio"):
                    value = value - mean
                u = u * IN_SPACE
            u = np.hypot(u, m.model_u)
            out[measure_id, limb] = Series(np.where(enough, value, np.nan), u)
        return out


def _running_mean(x: Array, n: int) -> Array:
    """(m,) mean of the ``n`` values about each one that are not NaN; NaN stays NaN."""
    seen = np.isfinite(x)
    kernel = np.ones(n)
    total = np.convolve(np.where(seen, x, 0.0), kernel, "same")[: len(x)]
    count = np.convolve(seen.astype(float), kernel, "same")[: len(x)]
    return np.where(seen, total / np.maximum(count, 1), np.nan)


def _stood(how: Splitter, figure: Figure, units: list[Unit]) -> Figure:
    return how.stood(replace(figure, side=side_per_frame(figure.t, units)), units)


def _moved_by_their_own(
    cuts: list[Boundary], fps: float, rng: np.random.Generator
) -> list[Boundary]:
    """A draw's boundaries, moved by what their splitter itself is unsure of besides what frames and points are."""
    out = []
    for b in cuts:
        own = float(np.sqrt(max(b.u**2 - frame_time_u(fps) ** 2, 0.0)))
        out.append(replace(b, t=b.t + own * float(rng.standard_normal())) if own > 0 else b)
    return sorted(out, key=lambda b: b.t)


def _corrected(cuts: list[Boundary], correct: Correct) -> list[Boundary]:
    """A draw's boundaries as the coach has them; none where they lie too near a coach's own."""
    try:
        return correct(cuts)
    except InputError:
        return []


def _readings(
    figure: Figure,
    plan: Plan,
    units: list[Unit],
    base: dict[Key, float],
    spread: dict[Key, list[float]],
    draws: int,
) -> list[Reading]:
    by_id = {m.id: m for m, _ in plan.measures}
    number = {u.n: u for u in units}
    readings: list[Reading] = []
    between: dict[str, Measure] = {}
    for (measure_id, n, phase, limb), v in base.items():
        m, unit = by_id[measure_id], number.get(n)
        if not np.isfinite(v):
            continue
        values = spread[measure_id, n, phase, limb]
        if draws and len(values) < draws / 2:
            continue  # too seldom there to be believed
        u = float(np.hypot(_robust_sd(values), _clock_u(m, figure.fps, v))) if draws else 0.0
        u = float(np.hypot(u, _own_u(m, figure, unit, phase, limb))) if draws else 0.0
        if figure.in_space and values and m.unit in ("deg", "ratio"):
            # What noise along the line of sight adds on the whole, as to a bend, it adds to every draw once more.
            v -= float(np.mean(values)) - v
        if figure.in_space:
            u *= IN_SPACE
        if m.unit == "pct" and 2 * u > WIDEST_SHARE:
            between[m.id] = m
            continue
        a, b = (unit.phases.get(phase or "", (unit.start.t, unit.end.t))) if unit else (0.0, 0.0)
        readings.append(Reading(measure_id, v, float(np.hypot(u, m.model_u)) if draws else 0.0, unit.n if unit else None,
                                phase, limb, (a + b) / 2 if unit else None))  # fmt: skip
    known = {r.id for r in readings}
    plan.refused += [
        Refusal(i, "blur", f"{m.title} is known no better here than as something between nothing and all.")
        for i, m in between.items() if i not in known
    ]  # fmt: skip
    return readings


def _timed(b: Boundary, times: list[float], fps: float, draws: int) -> Boundary:
    """A boundary with the standard uncertainty of its time over the draws; one that few draws find is not to be trusted."""
    if not draws or b.source == "coach":
        return replace(b, u=frame_time_u(fps) if not b.u else b.u)
    # What a splitter is unsure of by itself has moved the draws.
    u = float(np.hypot(_robust_sd(times), frame_time_u(fps)))
    return replace(b, u=max(u, b.u), confidence=min(b.confidence, max(len(times) / draws, 0.05)))


def _robust_sd(values: list[float]) -> float:
    """Standard deviation that one odd draw cannot blow up: at least what the quartiles say, and at most three times that."""
    if len(values) < 3:
        return 0.0
    low, _, high = quantiles(values, n=4, method="inclusive")
    quartile, sd = (high - low) / 1.349, float(np.std(values, ddof=1))
    return min(max(sd, quartile), 3 * quartile) if quartile > 0 else sd


def _clock_u(m: Measure, fps: float, value: float) -> float:
    """What the frame rate alone leaves open of a time, or a rate, that is read off frames."""
    u = 2**0.5 * frame_time_u(fps)
    return u if m.unit == "s" else u * value**2 if m.unit == "hz" else 0.0
