"""What every map is drawn with: a sketch that collects lines, marks and areas, and knows its own bounds."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError
from proklisis.core.playbook.bands import WantedBand
from proklisis.core.readings.readings import Reading
from proklisis.core.rider.figure import Figure
from proklisis.core.shapes.run_map import MapArea, MapAxis, MapLine, MapMark, RunMap
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
#: A line has no more places than this.
PLACES = 80
#: Room around what is drawn, as a share of it.
ROOM = 0.06


@dataclass(frozen=True)
class Measured:
    """What a map is drawn from.

    Attributes
    ----------
    widths : (measure, limb or "") → its value in every frame
    bands : the bands that hold in each unit
    """

    figure: Figure
    units: list[Unit]
    readings: list[Reading]
    sheet: RunSheet
    widths: dict[tuple[str, str], Array]
    bands: dict[int, list[WantedBand]]

    def reading(self, measure: str, unit: int | None, phase: str | None = None) -> Reading | None:
        """A value of a unit that can be shown, or None."""
        for r in self.readings:
            if r.id == measure and r.segment == unit and phase in (None, r.phase):
                return r if np.isfinite(r.value) and np.isfinite(r.u) else None
        return None

    def band(self, measure: str, unit: int) -> tuple[float | None, float | None] | None:
        """What is wanted of a measure in a unit, or None."""
        return next((b.band for b in self.bands.get(unit, []) if b.measure == measure), None)

    def frames(self, a: float, b: float) -> NDArray[np.int64]:
        """Numbers of at most :data:`PLACES` frames within [a, b] seconds, evenly apart."""
        found = np.flatnonzero((self.figure.t >= a - 1e-9) & (self.figure.t <= b + 1e-9))
        if len(found) <= PLACES:
            return found
        return np.asarray(found[np.linspace(0, len(found) - 1, PLACES).round().astype(int)])


def no_map(why: str) -> InputError:
    """What is raised where a map cannot be drawn; its words are shown in its place."""
    return InputError(why)


@dataclass
class Sketch:
    """A map that is being drawn."""

    title: str
    x: tuple[str, str]
    y: tuple[str, str]
    equal: bool = False
    lines: list[MapLine] = field(default_factory=list)
    marks: list[MapMark] = field(default_factory=list)
    areas: list[MapArea] = field(default_factory=list)
    says: list[str] = field(default_factory=list)
    x_ticks: tuple[Sequence[float], Sequence[str]] = ((), ())
    y_ticks: tuple[Sequence[float], Sequence[str]] = ((), ())
    #: Bounds that are wanted whatever is drawn: (x from, x to), (y from, y to).
    least: tuple[tuple[float, float] | None, tuple[float, float] | None] = (None, None)
    scale_words: str = ""
    scale_bar: float | None = None
    #: Standard uncertainty of what the drawing rests on, along x and y, beside what draws tell.
    model_u: tuple[float, float] = (0.0, 0.0)

    def line(
        self, places: Array, *, unit: Unit | None = None, kind: Literal["path", "strong", "body", "plain", "usual"] = "path",
        width: Array | None = None, t: Array | None = None, words: str = "",
    ) -> None:  # fmt: skip
        """Add a line through (n, 2) places; those that are not finite are left out."""
        seen = np.isfinite(places).all(axis=1)
        if seen.sum() < 2:
            return

        def rounded(x: Array | None, digits: int) -> list[float]:
            return [] if x is None else [round(float(v), digits) if np.isfinite(v) else 0.0 for v in x[seen]]  # fmt: skip

        self.lines.append({
            "unit": unit.n if unit else None, "side": unit.side if unit else None, "kind": kind,
            "at": [[round(float(a), 4), round(float(b), 4)] for a, b in places[seen]],
            "u": [], "width": rounded(width, 3), "t": rounded(t, 4), "words": words,
        })  # fmt: skip

    def mark(
        self, at: Sequence[float] | Array, *, unit: Unit | None = None, kind: Literal["dot", "ring", "gate", "tick", "costs"] = "dot",
        t: float | None = None, words: str = "", u: tuple[float, float] = (0.0, 0.0),
    ) -> None:  # fmt: skip
        """Add a mark, unless its place is not known; ``u`` is the U that a reading puts it there with."""
        if not np.isfinite(list(at)).all():
            return
        self.marks.append({
            "unit": unit.n if unit else None, "side": unit.side if unit else None, "kind": kind,
            "at": [round(float(v), 4) for v in at], "u": [round(v, 4) for v in u],
            "t": None if t is None else round(float(t), 4), "words": words,
        })  # fmt: skip

    def area(self, at: Sequence[Sequence[float]], kind: Literal["wanted", "zone", "water"], words: str) -> None:  # fmt: skip
        self.areas.append(
            {"at": [[float(a), float(b)] for a, b in at], "kind": kind, "words": words}
        )

    def done(self) -> RunMap:
        drawn = [p for line in self.lines for p in line["at"]] + [m["at"] for m in self.marks]
        if not drawn:
            raise no_map("Nothing of this run could be measured that its map is drawn from.")
        (x0, y0), (x1, y1) = np.min(drawn, axis=0), np.max(drawn, axis=0)
        x, y = (
            _axis(lo, hi, least, words, ticks)
            for lo, hi, least, words, ticks in (
                (x0, x1, self.least[0], self.x, self.x_ticks), (y0, y1, self.least[1], self.y, self.y_ticks),
            )
        )  # fmt: skip
        return {
            "title": self.title, "x": x, "y": y, "equal": self.equal, "scale_bar": self.scale_bar,
            "scale_words": self.scale_words, "areas": self.areas, "lines": self.lines, "marks": self.marks,
            "says": self.says, "lacking": "",
        }  # fmt: skip


def softened(drawn: Sketch, again: Sequence[Sketch]) -> None:
    """Give every place its U: twice the deviation of the same place on the maps that were drawn ``again``, with the model's."""

    def wide(spots: list[Any]) -> Any:
        return np.round(2 * np.hypot(np.std(spots, axis=0, ddof=1), drawn.model_u), 4).tolist()

    lines = [_by_place(m.lines) for m in again]
    for key, line in _by_place(drawn.lines).items():
        same = [x[key]["at"] for x in lines if key in x and len(x[key]["at"]) == len(line["at"])]
        if len(same) > 1 and line["kind"] != "plain":
            line["u"] = wide(same)
    marks = [_by_place(m.marks) for m in again]
    for key, mark in _by_place(drawn.marks).items():
        spots = [x[key]["at"] for x in marks if key in x]
        if len(spots) > 1 and mark["kind"] != "tick":
            # Where a reading says the place, every drawing has it alike: its own U counts.
            mark["u"] = np.maximum(wide(spots), mark["u"]).tolist()


def _by_place(drawn: list[Any]) -> dict[tuple[Any, ...], Any]:
    """Lines or marks by unit and kind, and which of that kind they are."""
    out: dict[tuple[Any, ...], Any] = {}
    seen: Counter[tuple[Any, ...]] = Counter()
    for x in drawn:
        key = x["unit"], x["kind"]
        out[*key, seen[key]] = x
        seen[key] += 1
    return out


def lacking(title: str, why: str) -> RunMap:
    """A map that cannot be drawn, and why."""
    none: MapAxis = {"title": "", "unit": "", "lo": 0.0, "hi": 1.0, "ticks": [], "words": []}
    return {
        "title": title, "x": none, "y": none, "equal": False, "scale_bar": None, "scale_words": "", "areas": [], "lines": [],
        "marks": [], "says": [], "lacking": why,
    }  # fmt: skip


def _axis(
    lo: float, hi: float, least: tuple[float, float] | None, words: tuple[str, str], ticks: tuple[Sequence[float], Sequence[str]]
) -> MapAxis:  # fmt: skip
    if least is not None:
        lo, hi = min(lo, least[0]), max(hi, least[1])
    room = ROOM * max(hi - lo, 1e-6)
    return {
        "title": words[0], "unit": words[1], "lo": round(float(lo - room), 4), "hi": round(float(hi + room), 4),
        "ticks": [float(v) for v in ticks[0]], "words": list(ticks[1]),
    }  # fmt: skip


def share(x: Array) -> Array:
    """A signal as a width: 0 at its least, 1 at its greatest."""
    lo, hi = float(np.nanmin(x)), float(np.nanmax(x))
    return np.asarray((x - lo) / (hi - lo) if hi > lo else np.full(len(x), 0.5))


def round_length(length: float) -> float:
    """A round number near a third of a length, for a scale bar."""
    if not np.isfinite(length) or length <= 0:
        return 1.0
    rough = length / 3
    ten = 10.0 ** np.floor(np.log10(rough))
    return float(max((k * ten for k in (1, 2, 5, 10) if k * ten <= rough), default=ten))
