"""Ask-me-first: the few frames where one correction by hand would most reduce the doubt in the verdict.

Every reading that a fault is judged by is looked at in every unit: is it missing where others have it,
does it differ from the same side's other units by more than its ±, does its interval lie across the edge
of the band? What hangs on it weighs it: the main thing most, then its causes and effects, then
everything that would become a finding. The joint to look at is the one that is missing, or stands
elsewhere on the body than in the other units of its side.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm

from proklisis.core.measures.registry import REGISTRY, Measure
from proklisis.core.playbook.schema import Band, Condition, Playbook
from proklisis.core.playbook.under import apply_schools, chosen_schools
from proklisis.core.playbook.words import unit_words
from proklisis.core.readings.readings import Reading
from proklisis.core.review import Review, book_of
from proklisis.core.rider.mass import MIDPOINTS
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.splitting.units import Unit
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.outlier_rejection import figure_height
from proklisis.core.tracks.tracks import SOURCES
from proklisis.core.uncertainty import digits

Array = NDArray[np.float64]

#: Weight of what the main thing rests on (house choice).
MAIN = 1.0
#: Weight of what the main thing explains or comes from (house choice).
CHAIN = 0.6
#: Weight of what another finding rests on (house choice).
FINDING = 0.5
#: Weight of what no finding rests on (house choice).
QUIET = 0.35
#: Doubt of a reading that is missing (house choice).
MISSING = 0.5
#: The most doubt of a reading whose interval lies across a band's edge (house choice).
ACROSS = 0.6
#: A reading this many of its spreads from the others is doubted, fully at the second number.
ODD = (2.0, 5.0)
#: What being unlike the units of both sides counts, against those of its own side (house choice).
EVERY = 0.6
#: The doubt that is left of whatever the main thing rests on (house choice).
EVIDENCE = 0.2
#: Seconds to either side of a moment that count as it (house choice).
MOMENT_S = 0.08
#: Seconds to either side between which the bend of a joint's path is looked at (house choice).
BEND_S = 0.15
#: Two corrections of one joint nearer than this, seconds, are one; a mark answers what lies as near.
SAME_S = 0.25
#: So many of its joints marked answer a reading, whatever it says then.
ENOUGH = 3
#: The joints that stand for the whole body's middle.
OF_BODY = ("l_shoulder", "r_shoulder", "l_hip", "r_hip")
LEAST_GAIN = 0.03
#: What the coach's eye and the numbers see differently comes before everything else.
DIFFERS = 10.0


@dataclass(frozen=True)
class Question:
    """A joint to put right, or to confirm, in one frame, and what that would settle."""

    frame: int
    t: float
    landmark: str
    unit: int
    phase: str | None
    measure: str
    gain: float
    why: str
    settles: str


def ask_first(
    done: Review, sheet: RunSheet, prescription: Prescription, most: int = 10
) -> list[Question]:
    """The corrections that would settle most, the best first; empty where nothing is in doubt.

    ``done`` is the review that ``sheet`` and ``prescription`` were made from.
    """
    book, _ = apply_schools(book_of(sheet), chosen_schools(sheet, book_of(sheet)))
    weights = _weights(book, prescription)
    units = {u.n: u for u in done.units}
    readings: dict[tuple[str, str | None, str | None], dict[int, Reading]] = defaultdict(dict)
    for r in done.readings:
        if r.segment in units and np.isfinite(r.value) and np.isfinite(r.u):
            readings[r.id, r.phase, r.limb][r.segment] = r
    body = _Body(done)
    against = {
        (e["measure"], e["segment"])
        for d in prescription["disagreements"]
        for e in d["measured"]["evidence"]
    }
    found: list[Question] = []
    for fault_id, weight in weights.items():
        for leaf in book.faults[fault_id].when.leaves():
            band = None if leaf.measure is None else leaf.band_for(sheet.level)
            if leaf.measure is None or band is None or leaf.measure not in REGISTRY:
                continue
            for (measure, phase, limb), of_unit in list(readings.items()):
                if (
                    measure == leaf.measure
                    and leaf.phase in (None, phase)
                    and leaf.limb in (None, limb)
                ):
                    found += _about(
                        body,
                        leaf,
                        band,
                        REGISTRY[measure],
                        (phase, limb),
                        of_unit,
                        units,
                        weight,
                        book,
                        fault_id,
                        against,
                    )
    return _best(found, most)


def _weights(book: Playbook, prescription: Prescription) -> dict[str, float]:
    """Fault → how much hangs on its readings."""
    out = {i: QUIET for i, f in book.faults.items() if prescription["level"] in f.levels}
    main = prescription["main"]["fault"] if prescription["main"] else ""
    for f in prescription["findings"]:
        chain = f["fault"] in book.faults and (main in f["explains"] or main in f["because_of"])
        out[f["fault"]] = MAIN if f["fault"] == main else CHAIN if chain else FINDING
    return out


class _Body:
    """Where the joints stand on the body in the middle of each unit's phases."""

    def __init__(self, done: Review) -> None:
        self.done, self.tracks = done, done.tracks
        self.height = figure_height(self.tracks.xy, self.tracks.names)
        self.marked = self.tracks.source == SOURCES.index("marked")
        self._bends: dict[str, Array] = {}
        self.board = self.tracks.has("board_nose", "board_tail")

    def joints(self, m: Measure, unit: Unit, limb: str | None) -> list[str]:
        """The landmarks that a measure is read from in one unit, on one limb."""
        out: list[str] = []
        foot = unit.outside_foot or "l"
        for p in m.needs(self.board):
            p = p.replace("outside_", f"{foot}_").replace("inside_", "r_" if foot == "l" else "l_")
            out += MIDPOINTS.get(p, OF_BODY if p == "com" else (p,))
        found = [p for p in dict.fromkeys(out) if p in self.tracks.index and p in BODY]
        other = {"l": "r_", "r": "l_"}.get(self._side(limb, foot) or "", "-")
        return [p for p in found if not p.startswith(other)] or found

    def _side(self, limb: str | None, outside: str) -> str | None:
        """``l`` or ``r`` for a limb that is named by where it is."""
        front = {"regular": "l", "goofy": "r"}.get(self.tracks.facts.stance or "")
        first = {"outside": outside, "front": front}
        if limb in ("inside", "back"):
            return {"l": "r", "r": "l"}.get(first["outside" if limb == "inside" else "front"] or "")
        return first.get(limb or "", limb)

    def rows(self, unit: Unit, phase: str | None, at: float | None = None) -> NDArray[np.int64]:
        """Rows of a phase, or around the moment that a reading is of."""
        a, b = unit.phases.get(phase or "", (unit.start.t, unit.end.t))
        if not phase and at is not None:
            a, b = at - MOMENT_S, at + MOMENT_S
        return np.flatnonzero((self.tracks.t >= a) & (self.tracks.t <= b))

    def unmarked(
        self, joints: list[str], unit: Unit, phase: str | None, at: float | None
    ) -> list[str]:
        """The joints that no hand has been at around here; none when it has been at :data:`ENOUGH`."""
        rows = self.rows(unit, phase, at)
        if not len(rows):
            return []
        near = np.abs(self.tracks.t - self.tracks.t[rows[len(rows) // 2]]) <= SAME_S
        left = [p for p in joints if not self.marked[near, self.tracks.index[p]].any()]
        return left if len(joints) - len(left) < ENOUGH else []

    def place(self, joint: str, row: int) -> Array:
        """A joint's place relative to the middle of the hips, in heights of the figure."""
        hips = (self.tracks.point("l_hip")[row] + self.tracks.point("r_hip")[row]) / 2
        return np.asarray((self.tracks.point(joint)[row] - hips) / self.height)

    def bend(self, joint: str, row: int) -> float:
        """How far a joint is from between where it was and will be, beyond what is usual for it, in heights."""
        if joint not in self._bends:
            k = max(1, round(BEND_S * self.tracks.facts.fps))
            p = self.tracks.point(joint)
            off = np.full(len(p), np.nan)
            off[k : len(p) - k] = np.linalg.norm(
                p[k : len(p) - k] - (p[: len(p) - 2 * k] + p[2 * k :]) / 2, axis=1
            )
            self._bends[joint] = (
                np.nan_to_num(np.maximum(off - np.nanpercentile(off, 75), 0) / self.height)
                if np.isfinite(off).any()
                else np.zeros(len(p))
            )
        return float(self._bends[joint][row])

    def suspect(
        self, joints: list[str], unit: Unit, others: list[Unit], phase: str | None, at: float | None
    ) -> tuple[str, int, bool] | None:
        """The joint to look at, its row, and whether it is missing there."""
        rows = self.rows(unit, phase, at)
        if not len(rows) or not joints:
            return None
        middle = int(rows[len(rows) // 2])
        for p in joints:
            gone = rows[~np.isfinite(self.tracks.point(p)[rows, 0])]
            if len(gone) > len(rows) / 4:
                return p, int(gone[np.argmin(np.abs(gone - middle))]), True
        places = {
            p: [self.place(p, int(r[len(r) // 2])) for o in others if len(r := self.rows(o, phase))]
            for p in joints
        }
        usual = {p: [v for v in of if np.isfinite(v).all()] for p, of in places.items()}
        odd = {
            p: float(np.linalg.norm(self.place(p, middle) - np.median(v, axis=0))) if v else 0.0
            for p, v in usual.items()
        }
        odd = {p: (v if np.isfinite(v) else 1.0) + self.bend(p, middle) for p, v in odd.items()}
        if max(odd.values()) < 1e-9:
            odd = {p: float(self.tracks.u[middle, self.tracks.index[p]]) for p in joints}
        return max(odd, key=lambda p: odd[p]), middle, False


def _about(
    body: _Body, leaf: Condition, band: Band, m: Measure, where: tuple[str | None, str | None], of_unit: dict[int, Reading],
    units: dict[int, Unit], weight: float, book: Playbook, fault_id: str, against: set[tuple[str, int | None]],
) -> list[Question]:  # fmt: skip
    """Questions about one measure's readings in one phase."""
    phase, limb = where
    out = []
    for n, unit in units.items():
        if leaf.side is not None and leaf.side not in unit.sides().values():
            continue
        peers = [o for o in units.values() if o.n != n and o.finest_side == unit.finest_side]
        values = np.array([of_unit[o.n].value for o in peers if o.n in of_unit])
        r = of_unit.get(n)
        every = np.array([v.value for k, v in of_unit.items() if k != n])
        doubt, why = _doubt(r, values, every, band, leaf.scale or _width(band), m)
        if weight == MAIN and r is not None and doubt < EVIDENCE:
            doubt, why = EVIDENCE, f"the verdict rests on {_words(r, m)}"
        if (m.id, n) in against:
            doubt, why = (
                DIFFERS,
                f"your eye and {_words(r, m) if r is not None else 'the numbers'} do not agree",
            )
        if doubt <= 0:
            continue
        at = None if r is None else r.t
        suspect = body.suspect(
            body.unmarked(body.joints(m, unit, limb), unit, phase, at), unit, peers, phase, at
        )
        if suspect is None:
            continue
        joint, row, gone = suspect
        place = (
            f"at the {phase.replace('_', ' ')} of {book.unit} {n}"
            if phase
            else f"in {book.unit} {n}"
        )
        if gone:
            why = "the point is lost there"
        out.append(
            Question(
                int(body.tracks.frames[row]), float(body.tracks.t[row]), joint, n, phase, m.id, weight * doubt,
                f"{m.title}{f' {limb}' if limb else ''} {place}: {why}",
                f"whether “{book.faults[fault_id].title}” holds in {book.unit} {n}",
            )
        )  # fmt: skip
    return out


def _words(r: Reading, m: Measure) -> str:
    return f"{digits(r.value, r.u)} ± {digits(2 * r.u, r.u)}{unit_words(m.id)}"


def _doubt(
    r: Reading | None, others: Array, every: Array, band: Band, scale: float, m: Measure
) -> tuple[float, str]:
    """How much one reading is in doubt, 0 to 1, and why."""
    if r is None:
        return (
            (MISSING, "it cannot be read there, as it can in the others")
            if len(others)
            else (0.0, "")
        )
    lo, hi = band
    inside = norm.cdf(hi if hi is not None else np.inf, r.value, max(r.u, 1e-9)) - norm.cdf(
        lo if lo is not None else -np.inf, r.value, max(r.u, 1e-9)
    )
    # A ± many times the band's scale comes from more than one joint's place.
    across = ACROSS * 4 * float(inside * (1 - inside)) * min(1.0, 0.5 * scale / max(r.u, 1e-9))
    if r.u < 1e-6:
        across = 0.0  # a count has no edge to lie across
    # The other side may well differ, so that all units together tell less.
    of_all, middle_of_all = _odd(r, every, scale)
    odd, middle = max(_odd(r, others, scale), (EVERY * of_all, middle_of_all))
    if odd >= across:
        return (
            odd,
            f"{_words(r, m)} is unlike the others, about {digits(middle, r.u)}{unit_words(m.id)}",
        )
    return across, f"{_words(r, m)} lies across the edge of what is wanted"


def _odd(r: Reading, others: Array, scale: float) -> tuple[float, float]:
    """How unlike the others a reading is, 0 to 1, and their middle."""
    if len(others) < 2:
        return 0.0, 0.0
    middle = float(np.median(others))
    spread = max(1.4826 * float(np.median(np.abs(others - middle))), 0.15 * scale, r.u)
    return float(
        np.clip((abs(r.value - middle) / spread - ODD[0]) / (ODD[1] - ODD[0]), 0, 1)
    ), middle


def _width(band: Band) -> float:
    lo, hi = band
    return (
        float(hi - lo)
        if lo is not None and hi is not None
        else max(abs(lo or 0.0), abs(hi or 0.0), 1e-6)
    )


def _best(found: list[Question], most: int) -> list[Question]:
    """One question a joint and place, with what all of them would gain; the best first."""
    out: list[Question] = []
    for q in sorted(found, key=lambda q: -q.gain):
        same = next(
            (k for k, o in enumerate(out) if o.landmark == q.landmark and abs(o.t - q.t) <= SAME_S),
            None,
        )
        if same is None:
            out.append(q)
        elif out[same].measure != q.measure:
            out[same] = replace(out[same], gain=out[same].gain + q.gain / 2)
    return [q for q in sorted(out, key=lambda q: -q.gain) if q.gain >= LEAST_GAIN][:most]
