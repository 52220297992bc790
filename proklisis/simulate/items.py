"""Items for training a coach's eye: a question, what is seen, and the truth that was put in.

What is true comes from what was simulated (the fault and its size, the boundaries of the units, where landmarks
stand), not from what the product would measure; only the chain and the cue are what the rules say of the exact run.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any

import numpy as np

from proklisis.core.errors import InputError
from proklisis.core.eye.lines import line_words, tilt_of
from proklisis.core.measures.lines import drawable, line_points
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Condition, Playbook
from proklisis.core.review import judge, playbook
from proklisis.core.shapes.run_sheet import Level, RunSheet
from proklisis.core.splitting.library import splitter
from proklisis.core.tracks.tracks import View
from proklisis.figures import figures
from proklisis.simulate.people import bodies
from proklisis.simulate.riders import RIDERS
from proklisis.simulate.run import Simulated, simulate
from proklisis.simulate.strip import Cells, Strip, rows_between

#: Sizes of faults, scales of the band beyond its edge, from just visible to plain.
SIZES = (0.4, 0.6, 0.9, 1.3, 1.9, 2.8)
#: A chain or a cue is asked of a fault that is plain.
PLAIN = 2.0
#: Seconds between cells of a loop, and where a moment is to be found.
LOOP_STEP_S, FRAME_STEP_S = 1 / 15, 1 / 30
#: Longest loop, seconds; most cells of one picture.
LONGEST_S, MOST_CELLS = 2.4, 48
UNITS = 4
FPS = 60.0
#: Ways of splitting whose units are flights, and when the axis in the air is looked at, s after take-off.
IN_THE_AIR, SET_S = ("jumps", "rolls"), 0.2
#: Choices beside the true one.
OTHERS = 3
#: Share of loops with no fault in them.
CLEAN_SHARE = 0.3
#: From this many scales on one side is clearly weaker (house choice).
CLEARLY = 1.2
VIEW_WORDS = ("front", "rear", "side_left", "side_right", "above")


@dataclass(frozen=True)
class Item:
    """One question with its pictures and its truth.

    Attributes
    ----------
    topic : what is trained: a fault, a measure, or the beginning of a unit
    size : how large the fault or the difference is, scales; 0 for none
    question, truth : plain data for the page, before and after the answer
    strips : what is seen, one or two
    """

    exercise: str
    discipline: str
    level: str
    view: str
    topic: str
    size: float
    question: dict[str, Any]
    truth: dict[str, Any]
    strips: list[Strip] = field(default_factory=list)


def make_item(exercise: str, discipline: str, seed: int, topic: str = "", size: float | None = None) -> Item | None:  # fmt: skip
    """One item, the same for the same seed; None where this seed gives none (another does).

    Parameters
    ----------
    topic : the fault or measure it is about; any where it is left out
    size : scales of the fault or difference; any of ``SIZES`` where it is left out
    """
    if exercise not in EXERCISES:
        raise InputError(f"{exercise!r} is no exercise", "eye", f"there are {', '.join(EXERCISES)}")
    book = playbook(discipline)
    rng = np.random.default_rng([seed, *exercise.encode(), *discipline.encode()])
    ask = _Asked(book, rng, int(rng.integers(1, 2**31)), topic, size)
    try:
        return EXERCISES[exercise](ask)
    except InputError:
        return None  # this fault at this size and level cannot be ridden


@dataclass
class _Asked:
    book: Playbook
    rng: np.random.Generator
    seed: int
    topic: str
    size: float | None

    def __post_init__(self) -> None:
        levels = ("novice", "intermediate", "advanced")
        self.body = int(self.rng.integers(bodies.how_many()))
        self.level: Level = levels[int(self.rng.integers(len(levels)))]  # type: ignore[assignment]

    def pick(self, of: list[Any]) -> Any:
        return of[int(self.rng.integers(len(of)))]

    def some_size(self) -> float:
        return self.size if self.size is not None else float(self.pick(list(SIZES)))

    def fault(self) -> str | None:
        """A fault that shows when it is drawn, at a level that knows it."""
        known = [f for f in figures(self.book.discipline) if f in self.book.faults]
        if self.topic:
            known = [f for f in known if f == self.topic]
        if not known:
            return None
        chosen: str = self.pick(known)
        levels = self.book.faults[chosen].levels
        if self.level not in levels:
            self.level = levels[0]
        return chosen

    def ride(self, faults: dict[str, float], view: View | None = None) -> Simulated:
        return simulate(
            self.book.discipline, faults, level=self.level, units=UNITS, view=view, fps=FPS, noise_px=0.0, seed=self.seed, body=self.body,
        )  # fmt: skip

    def moment(self) -> tuple[float, str]:
        """Which moment of a unit is to be found, seconds after its beginning, and what is seen there."""
        begins = splitter(self.book.split or "carve").begins
        if self.book.split in IN_THE_AIR and (self.topic == "after" or (not self.topic and self.rng.random() < 0.5)):  # fmt: skip
            return SET_S, f"{SET_S:g} s after {begins}"
        return 0.0, f"where {begins}"

    def loop(self, sim: Simulated, unit: int | None = None) -> Strip:
        """One unit of a run with a little before and after it."""
        start, end = self.unit(sim) if unit is None else _bounds(sim)[unit]
        before = 0.25 if end - start > 0.6 else 0.6
        first, last = start - before, min(end + before, start - before + LONGEST_S)
        step = max(LOOP_STEP_S, (last - first) / (MOST_CELLS - 1))
        return Cells(sim, rows_between(sim, first, last, step)).strip(self.seed)

    def unit(self, sim: Simulated) -> tuple[float, float]:
        bounds = _bounds(sim)
        return bounds[min(1 + int(self.rng.integers(2)), len(bounds) - 1)]

    def made(self, exercise: str, sim: Simulated, topic: str, size: float, question: dict[str, Any], truth: dict[str, Any], strips: list[Strip]) -> Item:  # fmt: skip
        seen = {"level": self.level, "view": str(sim.shot.view)}
        return Item(exercise, self.book.discipline, self.level, str(sim.shot.view), topic, size, {**question, **seen}, truth, strips)  # fmt: skip


def _bounds(sim: Simulated) -> list[tuple[float, float]]:
    """(start, end) of each unit, at the boundaries of the ride itself."""
    return [(u.start.t, u.end.t) for u in sim.truth().units]


def _frame(a: _Asked) -> Item | None:
    sim = a.ride({})
    later, begins = a.moment()
    starts = [s + later for s, _ in _bounds(sim)]
    when = float(a.pick(starts[1:]))
    lead = float(a.rng.uniform(0.35, 1.05))
    rows = rows_between(sim, when - lead, when - lead + (MOST_CELLS - 1) * FRAME_STEP_S, FRAME_STEP_S)  # fmt: skip
    t = sim.motion.t[rows]
    if not t[0] < when < t[-1]:
        return None
    strip = Cells(sim, rows).strip(a.seed)
    # Short cycles begin more than once in what is seen; each of them is right.
    ends = [float(np.interp(x, t, np.arange(len(t)))) for x in starts if t[0] <= x <= t[-1]]  # fmt: skip
    return a.made(
        "frame", sim, "after" if later else "begins", 1.0, {"ask": f"Stop {begins}."},
        {"frames": ends, "step_s": strip.step_s, "says": f"This is {begins}."}, [strip],
    )  # fmt: skip


def _angle(a: _Asked) -> Item | None:
    """A line to be drawn: along what a measure is read by, or the bend of a joint."""
    fault = a.fault() if a.rng.random() < 0.5 and not a.topic else None
    sim = a.ride({fault: a.some_size()} if fault else {})
    board = bool(sim.known.get("rider", {}).get("stance"))
    outside = "l"
    measures = [
        m for m in a.book.measures
        if drawable(m) and str(sim.shot.view) in REGISTRY[m].seen_from(board) and (not a.topic or m == a.topic)
    ]  # fmt: skip
    if not measures:
        return None
    measure = str(a.pick(measures))
    start, end = a.unit(sim)
    rows = rows_between(sim, start, end, LOOP_STEP_S)
    row = int(a.pick(rows))
    cells = Cells(sim, [row])
    names = line_points(measure, outside, REGISTRY[measure].limbs[0] if REGISTRY[measure].limbs else None)  # fmt: skip
    places = [cells.place(0, n) for n in names]
    if any(p is None for p in places):
        return None
    line = [[float(p[0]), float(p[1])] for p in places if p is not None]
    if min(math.dist(p, q) for p, q in pairwise(line)) < 0.05:
        return None  # it points at the camera
    bend = len(line) == 3
    title = REGISTRY[measure].title.lower()
    return a.made(
        "angle", sim, measure, 1.0,
        {"ask": f"Draw the line for {title}: {line_words(names)}.", "points": len(line), "measure": measure},
        {"line": line, "deg": tilt_of(line), "says": f"{'Bend' if bend else 'Tilt'} in the picture: {tilt_of(line):.1f}°."},
        [cells.strip(a.seed)],
    )  # fmt: skip


def _better(a: _Asked) -> Item | None:
    fault = a.fault()
    if fault is None:
        return None
    size = a.some_size()
    less = float(a.pick([0.0, 0.0, 0.4, 0.8]))
    worse = a.ride({fault: less + size})
    better = a.ride({fault: less} if less else {}, worse.shot.view)
    swapped = bool(a.rng.random() < 0.5)
    unit = min(1 + int(a.rng.integers(2)), len(_bounds(worse)) - 1)
    pair = [a.loop(worse, unit), a.loop(better, unit)]
    title = a.book.faults[fault].title
    return a.made(
        "better", worse, fault, size,
        {"ask": "Which is the better one?", "options": [{"id": "a", "title": "The first"}, {"id": "b", "title": "The second"}]},
        {"answer": "a" if swapped else "b", "fault": fault, "title": title,
         "says": f"The {'second' if swapped else 'first'} has more of “{title.lower()}”: {size:g} scales."},
        pair[::-1] if swapped else pair,
    )  # fmt: skip


def _fault(a: _Asked) -> Item | None:
    fault = a.fault()
    if fault is None:
        return None
    clean = bool(a.rng.random() < CLEAN_SHARE) if a.size is None else a.size == 0
    size = 0.0 if clean else a.some_size()
    wrong = a.ride({fault: size or SIZES[-1]})
    sim = a.ride({}, wrong.shot.view) if clean else wrong
    # What is there beside it, or follows from it, is no wrong answer, and is not offered.
    there = {f["fault"] for f in _judged(sim)["findings"]}
    if clean and there:
        return None
    beside = {x.to for x in a.book.faults[fault].links} | there | {fault}
    others = [f for f in figures(a.book.discipline) if f in a.book.faults and f not in beside and a.level in a.book.faults[f].levels]  # fmt: skip
    a.rng.shuffle(others)
    offered = [fault, *others[:OTHERS]]
    a.rng.shuffle(offered)
    options = [{"id": f, "title": a.book.faults[f].title} for f in offered]
    title = a.book.faults[fault].title
    return a.made(
        "fault", sim, fault, size,
        {"ask": "What is wrong here?", "options": [*options, {"id": "", "title": "Nothing"}]},
        {"answer": "" if clean else fault,
         "says": "Nothing: this rider is inside every band." if clean else f"{title}, {size:g} scales beyond its band."},
        [a.loop(sim)],
    )  # fmt: skip


def _judged(sim: Simulated) -> Any:
    return judge(RunSheet.model_validate(sim.truth_sheet()))


def _cause(a: _Asked) -> Item | None:
    """A root and what follows from it, to be put in order: all of them are ridden, so that all of them show."""
    known = figures(a.book.discipline)

    def follow(f: str) -> list[str]:
        return [x.to for x in a.book.faults[f].links if x.to in known and x.to != f]

    roots = [f for f in known if f in a.book.faults and follow(f) and (not a.topic or f == a.topic)]
    if not roots:
        return None
    fault = str(a.pick(roots))
    if a.level not in a.book.faults[fault].levels:
        a.level = a.book.faults[fault].levels[0]
    order = [fault, str(a.pick(follow(fault)))]
    further = [f for f in follow(order[1]) if f not in order]
    if further and a.rng.random() < 0.5:
        order.append(str(a.pick(further)))
    follows = order[1:]
    sim = a.ride({f: PLAIN if f == fault else SIZES[3] for f in order})
    shown = list(order)
    a.rng.shuffle(shown)
    names = {f: a.book.faults[f].title for f in order}
    before = [[p, q] for i, p in enumerate(order) for q in order[i + 1 :] if any(q == x.to for x in a.book.faults[p].links)]  # fmt: skip
    return a.made(
        "cause", sim, fault, PLAIN,
        {"ask": "These show here. Which causes which? The earliest first.", "options": [{"id": f, "title": names[f]} for f in shown]},
        {"order": order, "before": before, "says": f"{names[fault]} comes first; {' and '.join(names[f].lower() for f in follows)} follow{'s' if len(follows) == 1 else ''}."},
        [a.loop(sim)],
    )  # fmt: skip


def _cue(a: _Asked) -> Item | None:
    fault = a.fault()
    if fault is None:
        return None
    sim = a.ride({fault: PLAIN})
    found = _judged(sim)
    main = found["main"]
    if main is None:
        return None
    there = {f["fault"] for f in found["findings"]}
    cues = {f: x.cues[0] for f, x in a.book.faults.items() if x.cues}  # fmt: skip
    true = str(main["cue"])
    others = [c for f, c in cues.items() if f not in there and c != true]
    others = list(dict.fromkeys(others))
    a.rng.shuffle(others)
    offered = [true, *others[:OTHERS]]
    a.rng.shuffle(offered)
    return a.made(
        "cue", sim, main["fault"], PLAIN,
        {"ask": "Which one cue would you give?", "options": [{"id": str(k), "title": c} for k, c in enumerate(offered)]},
        {"answer": str(offered.index(true)), "says": f"The rules would say: “{true}”, for {a.book.faults[main['fault']].title.lower()}."},
        [a.loop(sim)],
    )  # fmt: skip


def _side(a: _Asked) -> Item | None:
    """One side with a fault and the other without."""
    if len(a.book.sides) != 2:
        return None
    fault = a.fault()
    if fault is None:
        return None
    size = a.some_size()
    weak = a.ride({fault: size})
    good = a.ride({}, weak.shot.view)
    sides = list(a.book.sides)
    k = int(a.rng.integers(2))
    of_side = {sides[k]: weak, sides[1 - k]: good}
    places = {s: _unit_of_side(of_side[s], s) for s in sides}
    if any(p is None for p in places.values()):
        return None
    words = [s.replace("_", " ") for s in sides]
    clearly = size >= CLEARLY
    options = [
        {"id": f"{s}:{how}", "title": f"{w}, {'clearly' if how == 'much' else 'a little'}"}
        for s, w in zip(sides, words, strict=True) for how in ("little", "much")
    ]  # fmt: skip
    title = a.book.faults[fault].title
    return a.made(
        "side", weak, fault, size,
        {"ask": "Which side is weaker, and by how much?", "options": options, "titles": words},
        {"answer": f"{sides[k]}:{'much' if clearly else 'little'}", "side": sides[k],
         "says": f"{words[k].capitalize()}: {title.lower()}, {size:g} scales beyond its band; the other side has nothing."},
        [a.loop(of_side[s], places[s]) for s in sides],
    )  # fmt: skip


def _unit_of_side(sim: Simulated, side: str) -> int | None:
    """Number of a unit that goes to a side, from 0; not the first, which has no run-up."""
    for k, u in enumerate(sim.truth().units):
        if k and side in (u.side, u.edge_side, u.hand_side, u.face):
            return k
    return None


def told_from(when: Condition, view: str, board: bool) -> bool:
    """Whether what a condition rests on can be measured from a view: one part of ``any`` does, of ``all`` each is needed."""
    if when.all:
        return all(told_from(part, view, board) for part in when.all)
    if when.parts:
        return any(told_from(part, view, board) for part in when.parts)
    measures = [m for m in (when.measure, when.over, when.minus) if m]
    return bool(measures) and all(not (seen := REGISTRY[m].seen_from(board)) or view in seen for m in measures)  # fmt: skip


def _view(a: _Asked) -> Item | None:
    fault = a.fault()
    if fault is None:
        return None
    size = SIZES[-1]
    wrong = a.ride({fault: size})
    board = bool(wrong.known.get("rider", {}).get("stance"))
    rider = RIDERS.get(a.book.discipline)
    views = [v for v in VIEW_WORDS if rider is None or v in (rider.view, *rider.views)] or list(VIEW_WORDS)  # fmt: skip
    view = str(a.pick(views))
    shows = {v for v in VIEW_WORDS if told_from(a.book.faults[fault].when, v, board)}
    sim = a.ride({fault: size}, view)  # type: ignore[arg-type]
    told = view in shows
    where = ", ".join(v.replace("_", " ") for v in VIEW_WORDS if v in shows) or "none of the usual views"  # fmt: skip
    title = a.book.faults[fault].title
    return a.made(
        "view", sim, fault, 1.0,
        {"ask": f"Can “{title.lower()}” be told from here?", "options": [{"id": "yes", "title": "Yes"}, {"id": "no", "title": "No"}]},
        {"answer": "yes" if told else "no", "says": f"{'Yes' if told else 'No'}: it shows from {where}."},
        [a.loop(sim)],
    )  # fmt: skip


EXERCISES: dict[str, Callable[[_Asked], Item | None]] = {
    "frame": _frame, "angle": _angle, "better": _better, "fault": _fault, "cause": _cause, "cue": _cue, "side": _side, "view": _view,
}  # fmt: skip
