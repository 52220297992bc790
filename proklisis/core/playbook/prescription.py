"""A judged run as ``prescription/1``: strengths, the main thing and why, its ladder, what cannot be told."""

from __future__ import annotations

from collections.abc import Collection
from typing import Literal

from proklisis.core.physics.rotation import judging_class
from proklisis.core.playbook import untold
from proklisis.core.playbook.beside import told_beside
from proklisis.core.playbook.choose import Choice, choose
from proklisis.core.playbook.conditions import as_said
from proklisis.core.playbook.follow import followed_up
from proklisis.core.playbook.gear import gear_rows
from proklisis.core.playbook.halves import weaker_half
from proklisis.core.playbook.intention import answered
from proklisis.core.playbook.judge import Evidence, FaultVerdict, Sheet, UnitVerdict, strengths
from proklisis.core.playbook.passes import Places
from proklisis.core.playbook.prepare import prepare
from proklisis.core.playbook.rivals import rivals
from proklisis.core.playbook.schema import Missed, Playbook
from proklisis.core.playbook.under import all_hold, apply_schools, chosen_schools, other_drills
from proklisis.core.playbook.words import (
    band_words,
    describe_evidence,
    listed,
    lower_first,
    phase_words,
    where_words,
)
from proklisis.core.shapes import prescription as shape
from proklisis.core.shapes.prescription import (
    CannotTell,
    Disagreement,
    Drill,
    Finding,
    GearRow,
    Limit,
    MainThing,
    Prescription,
    Target,
    VerdictWord,
)
from proklisis.core.shapes.run_sheet import RunSheet

UNSURE_CLOCK: Limit = {
    "observation": "rate", "text": "Only the file says at what rate it plays: times count as likely at the most until you confirm the rate.",
}  # fmt: skip


def prescribe(
    sheet: RunSheet, book: Playbook, dropped: Collection[str] = (), name: str = "sheet"
) -> Prescription:
    """Judge a checked run sheet and return the prescription (``prescription/1``), ready for JSON.

    ``dropped`` faults are left out as if they could not be there: a coach saw that they are not.
    """
    schools = chosen_schools(sheet, book)
    said = sheet
    full, not_now = book, other_drills(book, schools)
    book, school_cues = apply_schools(book, schools)
    done = prepare(sheet, book, schools)
    s = Sheet(done.sheet, book, done.under)
    choice = choose(s, dropped, name)
    return _Writer(s, choice, done.places, school_cues, not_now, full, said).written(
        untold.rows(s, done, choice.verdicts),
        [
            *(Limit(observation=x.observation, text=x.text) for x in done.limits),
            *([UNSURE_CLOCK] if s.unsure_clock else []),
        ],
    )


class _Writer:
    """Writes one prescription."""

    def __init__(
        self,
        s: Sheet,
        choice: Choice,
        places: Places,
        school_cues: dict[str, str],
        not_now: frozenset[str],
        full: Playbook,
        said: RunSheet,
    ) -> None:
        self.s, self.choice, self.places, self.said = s, choice, places, said
        self.book, self.full = s.book, full
        self.school_cues, self.not_now = school_cues, not_now

    def written(self, cannot_tell: list[CannotTell], limits: list[Limit]) -> Prescription:
        s, c = self.s, self.choice
        main = c.main
        followup = followed_up(s)
        moved = {
            (r["measure"], r["phase"]) for r in followup if r["verdict"] in ("better", "in_band")
        }
        better = [
            i
            for i, v in c.verdicts.items()
            if any((e.measure, e.phase) in moved for e in v.evidence)
        ]
        gear = gear_rows(s, main, c.present)
        return {
            "format": "prescription/1",
            "discipline": s.sheet.discipline,
            "level": s.level,
            "strengths": [{"id": i, "text": self.book.strengths[i].text} for i in strengths(s)[:3]],
            "intention": answered(s, c.verdicts, c.causes, cannot_tell, better, self._evidence),
            "main": None if main is None else self._main(main, gear, cannot_tell),
            "findings": [
                self._finding(i, v)
                for i, v in sorted(c.verdicts.items(), key=lambda x: self._order(x[1]))
                if v.status in ("present", "episode", "unclear")
            ],
            "disagreements": [d for i, v in c.verdicts.items() if (d := self._against(v))],
            "cues": [{"fault": i, "cue": self._cue(i)} for i in c.first],
            "drills": [*self._chosen_drill(), *(self._drill(i, d) for i in c.first for d in self._drills(i)), *self._easier()],
            "gear": gear,
            "cautions": self._cautions(),
            "retest": self._retest(main) if main else [],
            "followup": followup,
            "weaker_half": weaker_half(s, c.verdicts),
            "limits": limits,
            "beside": told_beside(s),
            "fairness": [f.text for f in self.book.fairness if any(all_hold(f.given, s.under.given(u)) for u in s.units())],
            "cannot_tell": cannot_tell,
            "unlock": untold.in_one_line(cannot_tell),
        }  # fmt: skip

    def _missed(self, i: str) -> Missed:
        return self.book.faults[i].missed(self.choice.verdicts[i].way)

    def _cue(self, i: str) -> str:
        chosen = self.said.chosen
        if i == self.choice.main and chosen.cue:
            return chosen.cue
        return self.school_cues.get(i, self._missed(i).cues[0])

    def _drills(self, i: str) -> list[str]:
        """The drills of a fault, without those of a school that is not chosen."""
        own = self._missed(i).drills
        kept = [d for d in own if d not in self.not_now and d != self.said.chosen.drill]
        return kept or ([] if self.said.chosen.drill else list(own[:1]))

    def _main(self, i: str, gear: list[GearRow], cannot_tell: list[CannotTell]) -> MainThing:
        v, chosen, own = self.choice.verdicts[i], self.said.chosen, self.choice.own
        by_coach = any((chosen.main, chosen.cue, chosen.drill))
        out: MainThing = {
            "fault": i, "side": v.side, "verdict": _sureness(v), "title": self._missed(i).title, "cue": self._cue(i),
            "why": _as_sure(v, self._why(i, gear)), "by": "coach" if by_coach else "software",
        }  # fmt: skip
        beside = rivals(self.s, self.choice, cannot_tell)
        if beside:
            out["rivals"] = beside
        if by_coach:
            cue = None if own is None else self.school_cues.get(own, self._missed(own).cues[0])
            out["would_be"] = None if own is None else {
                "fault": own, "side": self.choice.verdicts[own].side, "cue": cue,
                "drill": next((d for d in self._missed(own).drills if d not in self.not_now), None), "why": self._why(own, []),
            }  # fmt: skip
        return out

    def _order(self, v: FaultVerdict) -> tuple[int, int, int]:
        kinds = {"present": 1, "episode": 2, "unclear": 3}
        roots = self.choice.roots
        if v.fault == self.choice.main:
            return (-1, 0, 0)
        return (
            (0, roots.index(v.fault), 0)
            if v.fault in roots
            else (kinds.get(v.status, 4), v.order, 0)
        )

    def _finding(self, i: str, v: FaultVerdict) -> Finding:
        c = self.choice
        status: Literal["root", "symptom", "episode", "unclear"] = (
            "root" if i in c.roots else "symptom"
        )
        if v.status == "episode" or v.status == "unclear":
            status = v.status
        evidence = v.evidence if v.status != "unclear" else [e for u in v.units for e in u.evidence]
        if self.book.faults[i].role == "effect":
            evidence = sorted(evidence, key=lambda e: -e.severity)
        out: Finding = {
            "fault": i, "status": status, "verdict": _sureness(v), "side": v.side, "title": self._missed(i).title,
            "share": round(v.share, 3), "severity": round(v.severity, 3), "phase": v.phase,
            "explains": c.explains[i], "because_of": c.causes[i],
            "evidence": [self._evidence(e, i) for e in evidence],
        }  # fmt: skip
        if v.other_way and self.book.faults[i].above and self.book.faults[i].below:
            other = self.book.faults[i].missed("above" if v.way == "below" else "below")
            out["other_side"] = {"title": other.title, "units": v.other_way}
        against = self._against(v)
        if against is not None:
            out["eye"], out["measured"] = against["eye"], against["measured"]
        return out

    def _against(self, v: FaultVerdict) -> Disagreement | None:
        """Where the coach's eye and the measures differ on a fault, both with what they rest on."""
        units = [u for u in v.units if u.against is not None]
        if not units:
            return None
        seen = [u.p is not None and u.p > 0 for u in units]
        read = [u.against for u in units if u.against is not None]
        return {
            "fault": v.fault,
            "eye": {"seen": any(seen), "segments": [self.places.number(u.segment) for u in units]},
            "measured": {"there": any(r.fires for r in read), "evidence": [self._evidence(e, None) for r in read for e in r.evidence]},
        }  # fmt: skip

    def _evidence(self, e: Evidence, fault: str | None = None) -> shape.Evidence:
        out: shape.Evidence = {
            "measure": e.measure, "limb": e.limb, "segment": self.places.number(e.segment), "phase": e.phase,
            "value": round(e.value, 4), "u": round(e.u, 4), "band": list(e.band), "p": round(e.p, 4),
        }  # fmt: skip
        clip = self.places.clip(e.segment)
        if clip is not None:
            out["clip"] = clip
        if fault is not None and self.book.faults[fault].role == "effect":
            out["with"] = [
                j
                for j, v in self.choice.verdicts.items()
                if j != fault and any(u.segment == e.segment for u in v.fired)
            ]
        return out

    def _drill(self, fault: str, drill: str) -> Drill:
        d = self.full.drills[drill]
        return {
            "id": drill, "fault": fault, "title": d.title, "steps": [{"stage": x.stage, "text": x.text, "dose": x.dose} for x in d.steps],
            "sign": d.sign, "worse_first": self.book.faults[fault].worse_first,
        }  # fmt: skip

    def _chosen_drill(self) -> list[Drill]:
        drill, main = self.said.chosen.drill, self.choice.main
        return [self._drill(main, drill)] if drill and main else []

    def _easier(self) -> list[Drill]:
        """What makes a new movement easier to learn, with its reason in the rider's own count."""
        main = self.choice.main
        rope = as_said(self.said.conditions)
        return [
            {**self._drill(main, x.drill), "reason": x.reason.replace("{rope}", rope)}
            for x in self.book.easier if main and all_hold(x.given, self.s.under.given(None))
        ]  # fmt: skip

    def _cautions(self) -> list[str]:
        first = self.choice.first
        own = [c for i in first for c in self.book.faults[i].cautions]
        drills = [self.full.drills[d].caution for i in first for d in self._drills(i)]
        return list(dict.fromkeys([*own, *(c for c in drills if c), *self.book.cautions]))

    def _retest(self, main: str) -> list[Target]:
        """The band edges that were missed, once for each measure, with the weak side beside both."""
        v = self.choice.verdicts[main]
        targets: dict[tuple[str, str | None, str | None], Target] = {}
        for e in _bands_missed(v.units):
            key = (e.measure, e.limb, e.phase)
            targets.setdefault(
                key,
                {
                    "measure": e.measure,
                    "limb": e.limb,
                    "phase": e.phase,
                    "side": "both",
                    "target": list(e.band),
                },
            )
        out = list(targets.values())
        sides = set(filter(None, map(self.s.side_of, self.s.units())))
        if v.side != "both" and len(sides) > 1:
            out += [{**target, "side": v.side} for target in out]
        return out

    def _why(self, i: str, gear: list[GearRow]) -> str:
        """One sentence: what the numbers or the eye show, where, why it was so, and what follows from it."""
        s, c, v = self.s, self.choice, self.choice.verdicts[i]
        judged = [
            u
            for u in v.units
            if u.p is not None and (v.side == "both" or s.side_of(u.segment) == v.side)
        ]
        fired = [u for u in judged if u.fires]
        where = (
            where_words(self.book, len(fired), len(judged), v.side)
            if s.segments and fired and fired[0].segment
            else "on this run"
        )
        parts = [
            f"{self._missed(i).title} {where}{'' if any(u.evidence for u in fired) or not fired else ', seen by eye'}"
        ]
        evidence = _bands_missed(fired)
        if evidence:
            worst = max(evidence, key=lambda e: (e.severity, e.p))
            call = (
                judging_class(worst.value, worst.u)
                if worst.measure == "shortfall" and self.book.discipline == "figure_jump"
                else None
            )
            read = describe_evidence(self._evidence(worst), self.book.unit)
            broken = (
                f", where the pattern breaks first at the {phase_words(v.phase)}"
                if self.book.faults[i].when.pattern and v.phase
                else ""
            )
            parts.append(
                f"{lower_first(read)} where {band_words(worst.measure, worst.band)} is wanted"
                + (f" ({call})" if call else "")
                + broken
            )
        reasons = [j for j in c.causes[i] if self.book.faults[j].role == "reason"]
        if reasons:
            parts.append(
                "it comes with " + listed([lower_first(self.book.faults[j].title) for j in reasons])
            )
        if c.explains[i]:
            parts.append(
                "it explains: "
                + listed([lower_first(self._missed(j).title) for j in c.explains[i]])
            )
        first = next((g for g in gear if g.get("first")), None)
        if first is not None:
            parts.append(f"look at the gear first: {lower_first(first['text']).rstrip('.')}")
        return "; ".join(parts) + "."


def _as_sure(v: FaultVerdict, why: str) -> str:
    """A reason, worded as no more than likely where it is."""
    return why if _sureness(v) == "clear" else f"Likely, not certain: {lower_first(why)}"


def _sureness(v: FaultVerdict) -> VerdictWord:
    """How sure a finding is; what is absent or cannot be told is none."""
    return "unclear" if v.verdict == "absent" or v.verdict == "cannot_tell" else v.verdict


def _bands_missed(units: Collection[UnitVerdict]) -> list[Evidence]:
    """Evidence of bands that were missed, without the conditions that only set the scene."""
    return [e for u in units if u.fires for e in u.evidence if not e.inside]
