"""The Telling that stands ready for a judged run: the coach only talks over it, or sends it silent with captions."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from math import hypot, sqrt

from proklisis.core.comparing.best import BEFORE, best_units
from proklisis.core.comparing.sides import Side
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.words import (
    FollowedWords,
    band_words,
    describe_evidence,
    followed_words,
    target_words,
    upper_first,
    value_words,
)
from proklisis.core.readings.readings import Reading
from proklisis.core.review import nothing_found
from proklisis.core.shapes.comparison import BestUnit
from proklisis.core.shapes.prescription import Drill, Evidence, Prescription
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.shapes.telling import Act, Passage, Telling
from proklisis.core.splitting.units import Unit
from proklisis.core.telling.captions import reading_s
from proklisis.core.telling.seen import Seen
from proklisis.core.uncertainty import normal_cdf

#: So many pieces of evidence are shown.
MOST = 3
#: Seconds of the run that lead up to a piece of evidence, and how fast they play.
BEFORE_S, SLOW = 0.7, 0.25
#: How fast the best unit plays.
HALF = 0.5


def propose(
    sheet: RunSheet,
    book: Playbook,
    prescription: Prescription,
    units: Sequence[Unit],
    readings: Sequence[Reading],
    seen: Seen,
    has_figure: Callable[[str], bool],
    film_again: str = "",
) -> Telling:
    """Tell a run: its best unit, each piece of evidence at its frame, the figure, the drill, the target.

    ``film_again`` is the day of the next clip as it is to be read; empty where none is set.
    """
    made = _Made(book, prescription, units, readings, seen)
    made.opening(sheet)
    made.since_last_time()
    made.intention()
    main = prescription["main"]
    if main is None:
        made.add("none", nothing_found(prescription), [])
    else:
        made.evidence()
        why: list[Act] = []
        if has_figure(main["fault"]):
            why = [{"act": "figure", "at_s": 0.0, "until_s": 1800.0, "fault": main["fault"]}]
        made.add("why", main["why"], why)
        drill = next((d for d in prescription["drills"] if d["fault"] == main["fault"]), None)
        made.cue(main["cue"], drill)
        if prescription["retest"]:
            targets = "; ".join(target_words(t) for t in prescription["retest"][:2])
            on = f" on {film_again}" if film_again else ""
            made.add("target", f"Next time{on}: {targets}.", [])
    return {
        "format": "telling/1",
        "discipline": prescription["discipline"],
        "passages": made.passages,
    }


class _Made:
    def __init__(
        self, book: Playbook, prescription: Prescription, units: Sequence[Unit], readings: Sequence[Reading], seen: Seen
    ) -> None:  # fmt: skip
        self.book, self.prescription, self.seen = book, prescription, seen
        self.units = {u.n: u for u in units}
        self.readings = {(r.id, r.segment, r.phase, r.limb): r for r in readings}
        self.passages: list[Passage] = []

    def add(self, name: str, caption: str, acts: list[Act], plays_s: float = 0.0) -> None:
        """One passage, as long as its pictures play and its words take to read."""
        length = round(max(plays_s, reading_s(caption)), 2)
        for act in acts:
            if act["act"] != "stop" and act["act"] != "play":
                act["until_s"] = min(act["until_s"], length)
        self.passages.append({"id": name, "caption": caption, "length_s": length, "acts": acts})

    def opening(self, sheet: RunSheet) -> None:
        """The best unit, with what is good."""
        ranked = best_units(Side(sheet, ""), self.book)
        # One that was badly seen may be anything: it is not shown as the best.
        best = min(ranked, key=lambda b: b["score"] + b["u"], default=None)
        unit = self.units.get(best["segment"]) if best else next(iter(self.units.values()), None)
        good = " ".join(s["text"] for s in self.prescription["strengths"][:2])
        if unit is None:
            if good:
                self.add("good", good, [{"act": "stop", "at_s": 0.0, "frame": 0}])
            return
        first, last = self.seen.at(unit.start.t), self.seen.at(unit.end.t)
        said = ""
        if best and _stands_out(best, [b for b in ranked if b is not best]):
            said = f"{upper_first(self.book.unit)} {unit.n} comes nearest to what is wanted."
        plays = float(self.seen.t[last] - self.seen.t[first]) / HALF
        self.add(
            "good",
            f"{good} {said}".strip() or f"{upper_first(self.book.unit)} {unit.n}.",
            [{"act": "play", "at_s": 0.0, "frame": first, "to_frame": last, "speed": HALF}],
            plays + 0.5,
        )

    def since_last_time(self) -> None:
        """What became of the targets that were set before this run."""
        rows = [followed_words(r) for r in self.prescription["followup"]][:2]
        if rows:
            said = [f"{r['target']}: {r['says']}{_then_and_now(r)}" for r in rows]
            self.add("since", f"Since last time. {'; '.join(said)}.", [])

    def intention(self) -> None:
        meant = self.prescription["intention"]
        if meant is not None and meant["answer"] != "cannot_tell":
            begin = f"You were trying: {meant['text']}. " if meant["text"] else ""
            self.add("intention", f"{begin}{meant['why']}", [])

    def evidence(self) -> None:
        """The surest pieces of evidence of the main thing, in the order of the run, each at its frame with its line."""
        main = self.prescription["main"]
        assert main is not None
        found = next(
            (f for f in self.prescription["findings"] if f["fault"] == main["fault"]), None
        )
        pieces = [(e, r) for e in (found["evidence"] if found else []) if (r := self._read(e))]
        pieces = sorted(pieces, key=lambda x: -x[0]["p"])[:MOST]
        for k, (e, t) in enumerate(sorted(pieces, key=lambda x: x[1])):
            at = self.seen.at(t)
            first = self.seen.at(t - BEFORE_S)
            plays = float(self.seen.t[at] - self.seen.t[first]) / SLOW
            words = f"{describe_evidence(e, self.book.unit)}; wanted {band_words(e['measure'], (e['band'][0], e['band'][1]))}."
            caption = f"{main['title']}. {words}" if k == 0 else words
            acts: list[Act] = []
            if first < at:
                acts.append({"act": "play", "at_s": 0.0, "frame": first, "to_frame": at, "speed": SLOW})  # fmt: skip
            acts.append({"act": "stop", "at_s": round(plays, 3), "frame": at})
            acts.append({
                "act": "measure", "at_s": round(plays, 3), "until_s": 1800.0, "measure": e["measure"], "unit": e["segment"],
                "limb": e["limb"], "words": value_words(e["measure"], e["value"], e["u"]),
            })  # fmt: skip
            self.add(f"evidence-{k + 1}", caption, acts, plays + 2.0)

    def _read(self, e: Evidence) -> float | None:
        """When a piece of evidence was read, seconds; None where it has no moment or no line."""
        if e["segment"] is None or e["measure"] not in REGISTRY or "clip" in e:
            return None
        r = self.readings.get((e["measure"], e["segment"], e["phase"], e["limb"]))
        return None if r is None else r.t

    def cue(self, cue: str, drill: Drill | None) -> None:
        lines = [f"{x['text']} ({x['dose']})" for x in drill["steps"]] if drill else []
        caption = f"{cue} Practise it so: {drill['title']}. It works when: {drill['sign']}" if drill else cue  # fmt: skip
        card: Act = {"act": "card", "at_s": 0.0, "until_s": 1800.0, "title": cue, "lines": lines}
        self.add("cue", caption, [card], 3.0 + 1.2 * len(lines))


def _then_and_now(r: FollowedWords) -> str:
    return f" ({r['before']} then, {r['now']} now)" if r["before"] and r["now"] else ""


def _stands_out(best: BestUnit, others: Sequence[BestUnit]) -> bool:
    """Whether a unit is better than the others are on average, beyond doubt."""
    if not others:
        return False
    mean = sum(b["score"] for b in others) / len(others)
    u = hypot(best["u"], sqrt(sum(b["u"] ** 2 for b in others)) / len(others))
    return normal_cdf((mean - best["score"]) / u) >= BEFORE if u > 0 else mean > best["score"]
