"""What cannot be told, why, and what would tell it, cheapest first.

One place says it for every screen and answer. What the clip's own analysis refused is passed on as it is; for a sheet
written by hand the view, the frame rate and the ± say it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from proklisis.core.camera.views import ONLY_3D, in_views
from proklisis.core.measures.registry import REGISTRY, Measure
from proklisis.core.playbook import front_foot
from proklisis.core.playbook.conditions import KINDS
from proklisis.core.playbook.judge import FaultVerdict, Sheet
from proklisis.core.playbook.prepare import Prepared, points_in_words
from proklisis.core.playbook.schema import Condition, Fault
from proklisis.core.playbook.words import count_words, listed
from proklisis.core.shapes.prescription import CannotTell, UntoldReason
from proklisis.core.tracks.landmarks import BODY

#: Frames a second that times of the trade want (common practice).
FAST_FPS = 120
#: Units that rest on times.
OF_TIME = ("s", "hz", "deg/s")
EYE = "Look for it yourself and note it; only the eye tells."


@dataclass(frozen=True)
class Why:
    """Why something cannot be told and what would tell it; ``presses`` marks of ``points``, or a ``view``."""

    reason: UntoldReason
    words: str
    presses: int = 0
    points: tuple[str, ...] = ()
    view: str | None = None

    @property
    def cost(self) -> tuple[int, int]:
        """A word is cheaper than marks, marks are cheaper than another film."""
        return (2 if self.view else 1 if self.presses else 0, self.presses)


def rows(s: Sheet, done: Prepared, verdicts: dict[str, FaultVerdict]) -> list[CannotTell]:
    """The ``cannot_tell`` rows of a prescription."""
    whys = {
        i: why(s, done, i, s.book.faults[i])
        for i, v in verdicts.items()
        if v.status == "cannot_tell"
    }
    return [
        {
            "fault": i, "reason": w.reason, "film_next": w.words,
            "unlock": {
                "presses": w.presses, "points": list(w.points), "view": w.view,
                "also_unlocks": [j for j, other in whys.items() if j != i and _same(w, other)],
            },
        }
        for i, w in sorted(whys.items(), key=lambda x: x[1].cost)
    ]  # fmt: skip


def _same(a: Why, b: Why) -> bool:
    """Whether what tells the first tells the second too."""
    if a.view or b.view:
        return a.view is not None and a.view == b.view
    return (
        bool(b.points) and set(b.points) <= set(a.points)
        if a.presses
        else not b.presses and a.words == b.words and a.words != EYE
    )


def why(s: Sheet, done: Prepared, fault_id: str, fault: Fault) -> Why:
    """Why a fault cannot be told on this run, by the part of it that is cheapest to settle."""
    when = next((w for u in s.units() if (w := s.under.when(fault_id, u)) is not None), fault.when)
    waits = list(dict.fromkeys(key for leaf in when.leaves() for key in leaf.hangs_on))
    leaves = [leaf for leaf in when.leaves() if leaf.measure]
    if not leaves:
        return Why("not_measured", EYE) if not waits else Why("not_measured", ask_for(waits))
    ways = [
        _of_measure(s, done, REGISTRY[i], leaf)
        for leaf in leaves
        for i in (leaf.measure, leaf.over, leaf.minus)
        if i
    ]
    missing = [w for w in ways if w is not None]
    if waits and not missing:
        return Why("not_measured", ask_for(waits))
    if not missing:
        few = any(leaf.less_best for leaf in leaves)
        side = next((leaf.side for leaf in leaves if leaf.side), None)
        if side is not None and front_foot.unknown(s.sheet, s.book):
            return Why("not_measured", front_foot.ASK)
        words = (
            f"It takes three {s.book.units} of a kind."
            if few
            else "Read it in the phases that it is judged in."
        )
        return Why("not_measured", words)
    # All parts of a whole are needed: the dearest of them says what it costs.
    return max(missing, key=lambda w: w.cost) if when.all else min(missing, key=lambda w: w.cost)


def ask_for(keys: Iterable[str]) -> str:
    """ "Say the rope of this run." """
    titles = [(KINDS[k].title if k in KINDS else k.replace("_", " ")).lower() for k in keys]
    return f"Say the {listed(titles)} of this run ({', '.join(keys)})."


def _of_measure(s: Sheet, done: Prepared, m: Measure, leaf: Condition) -> Why | None:
    """Why a measure is not there; None where it was read well enough."""
    refused = done.refused.get(m.id)
    views = m.seen_from(s.book.sideways)
    if refused is not None:
        points = tuple(p for p in refused.points if p not in BODY)
        view = next((v for v in views if v != ONLY_3D), None) if refused.reason == "view" else None
        return Why(refused.reason, refused.words, _presses(s, points), points, view)
    if m.id in s.by_measure:
        return _rough(s, m, leaf)
    clip = s.sheet.clip
    if clip.view is not None and views and clip.view not in views:
        return Why("view", f"Film it {in_views(views)}.", view=views[0])
    points = tuple(p for p in m.needs(s.book.sideways) if p not in BODY and p != "scene_drift")
    if points:
        presses = _presses(s, points)
        return Why(
            "not_measured",
            f"Mark {points_in_words(points)}: {count_words(presses)} presses.",
            presses,
            points,
        )
    return Why(
        "not_measured",
        f"Read {m.title[:1].lower()}{m.title[1:]} on film taken {in_views(views)}."
        if views
        else f"Read {m.title[:1].lower()}{m.title[1:]} on the film.",
    )


def _rough(s: Sheet, m: Measure, leaf: Condition) -> Why | None:
    lo, hi = leaf.band_for(s.level) or (None, None)
    read = [row for of_unit in s.by_measure[m.id].values() for row in of_unit]
    if lo is None or hi is None or not all(2 * row.u > hi - lo for row in read):
        return None
    clip = s.sheet.clip
    if clip.fps is not None and clip.fps < FAST_FPS and m.unit in OF_TIME:
        return Why(
            "frame_rate",
            f"Film at {FAST_FPS} frames a second or more: {clip.fps:g} a second leave too wide a ±.",
            view=clip.view or "any",
        )
    return Why(
        "blur",
        "Film closer, with a short shutter and a steady camera: the ± is wider than what is wanted.",
        view=clip.view or "any",
    )


def _presses(s: Sheet, points: Iterable[str]) -> int:
    """One mark of each point in each unit."""
    return len(list(points)) * max(1, len(s.segments))


def in_one_line(cannot_tell: list[CannotTell]) -> str:
    """The cheapest unlocks as one sentence, "" where none is known."""
    best: list[str] = []
    marks = [c for c in cannot_tell if c["unlock"]["presses"] and not c["unlock"]["view"]]
    views = [c for c in cannot_tell if c["unlock"]["view"] and c["reason"] == "view"]
    settled: set[str] = set()
    if marks:
        top = max(
            marks, key=lambda c: (len(c["unlock"]["also_unlocks"]) + 1) / c["unlock"]["presses"]
        )
        settled = {top["fault"], *top["unlock"]["also_unlocks"]}
        best.append(
            f"{count_words(top['unlock']['presses'])} presses on {points_in_words(top['unlock']['points'])} {_settle(len(settled))}"
        )
    left = [c for c in views if c["fault"] not in settled]
    if left:
        top = max(left, key=lambda c: len(c["unlock"]["also_unlocks"]))
        n = len({top["fault"], *top["unlock"]["also_unlocks"]} - settled)
        view = top["unlock"]["view"]
        sides = ("side_left", "side_right")
        where = in_views(sides if view in sides else (view or "any",))
        best.append(
            f"film {where} next time to settle {count_words(n)}{' more' if settled else ' ' + ('fault' if n == 1 else 'faults')}"
        )
    line = "; ".join(best)
    return f"{line[:1].upper()}{line[1:]}." if line else ""


def _settle(n: int) -> str:
    return f"{'settles' if n == 1 else 'settle'} {count_words(n)} {'fault' if n == 1 else 'faults'}".replace(
        "settles", "settle"
    )
