"""From fault verdicts to one main cue: causes, ranking and the prescription.

A root is a present fault with no present ancestor in the graph of ``leads_to``. Roots are
ranked by severity × share × (1 + faults explained) × level weight × 1.5 for the rider's own
intention; safety goes first, and the earlier phase breaks a tie.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.physics.rotation import judging_class
from proklisis.core.playbook.derive import derived
from proklisis.core.playbook.judge import (
    Evidence,
    FaultVerdict,
    Sheet,
    blind,
    judge_fault,
    strengths,
)
from proklisis.core.playbook.schema import Band, Condition, Playbook, Range, SchoolOption
from proklisis.core.sheet import RunSheet
from proklisis.core.uncertainty import digits

INTENTION_WEIGHT = 1.5
MORE = 2
UNIT_WORDS = {"deg": "°", "s": " s", "ratio": "", "pct": " %", "deg/s": "°/s", "m": " m", "hz": " per second"}


def chosen_schools(sheet: RunSheet, book: Playbook) -> dict[str, str]:
    """Return question → option: the sheet's choice, else the default for the level."""
    return {q: sheet.schools.get(q, s.default_for(sheet.level)) for q, s in book.schools.items()}


def apply_schools(book: Playbook, chosen: dict[str, str]) -> tuple[Playbook, dict[str, str]]:
    """Return the playbook as the chosen schools change it, and fault → cue they replace."""
    options: list[SchoolOption] = [book.schools[q].options[o] for q, o in chosen.items()]
    faults = dict(book.faults)
    cues: dict[str, str] = {}
    for option in options:
        for fault in option.drops:
            faults.pop(fault, None)
        for shift in option.shifts:
            if shift.fault in faults:
                f = faults[shift.fault]
                faults[shift.fault] = f.model_copy(update={"when": _shifted(f.when, shift.measure, shift.by)})
        cues.update(option.cues)
    return book.model_copy(update={"faults": faults}), cues


def applicable(c: Condition, schools: dict[str, str], given: Mapping[str, object]) -> Condition | None:
    """Return the part of a condition that is judged on this run, or None when nothing of it is."""
    if any(schools.get(q) != option for q, option in c.school.items()):
        return None
    for key, wanted in c.given.items():
        value = given.get(key)
        if not (wanted.holds(value) if isinstance(wanted, Range) else value in wanted):
            return None
    parts = {name: [applicable(x, schools, given) for x in getattr(c, name)] for name in ("any", "all")}
    if c.all and None in parts["all"]:
        return None
    kept = tuple(x for x in parts["any"] if x is not None)
    if c.any and not kept:
        return None
    return c.model_copy(update={"any": kept, "all": tuple(x for x in parts["all"] if x is not None)})


def for_run(book: Playbook, schools: dict[str, str], sheet: RunSheet) -> Playbook:
    """Return the playbook with only what is judged under this run's schools and conditions."""
    given = {**book.condition_defaults, **sheet.conditions}
    whens = {i: applicable(f.when, schools, given) for i, f in book.faults.items()}
    faults = {i: f.model_copy(update={"when": whens[i]}) for i, f in book.faults.items() if whens[i] is not None}
    return book.model_copy(update={"faults": faults})


def _shifted(c: Condition, measure: str, by: float) -> Condition:
    if c.any or c.all:
        return c.model_copy(
            update={"any": tuple(_shifted(x, measure, by) for x in c.any),
                    "all": tuple(_shifted(x, measure, by) for x in c.all)}
        )  # fmt: skip
    if c.measure != measure or c.inside or c.band is None:
        return c

    def move(band: Any) -> Any:
        return tuple(None if x is None else x + by for x in band)

    band = {k: move(v) for k, v in c.band.items()} if isinstance(c.band, dict) else move(c.band)
    return c.model_copy(update={"band": band})


def ancestors(book: Playbook, fault: str) -> set[str]:
    """Every fault from which ``fault`` can follow."""
    out: set[str] = set()
    queue = [fault]
    while queue:
        here = queue.pop()
        for i, f in book.faults.items():
            if here in f.leads_to and i not in out:
                out.add(i)
                queue.append(i)
    return out


def prescribe(sheet: RunSheet, book: Playbook, dropped: Collection[str] = ()) -> dict[str, Any]:
    """Judge a run sheet and return the prescription (``prescription/1``), ready for JSON.

    ``dropped`` faults are left out as if they could not be there: a coach saw that they are not.
    """
    schools = chosen_schools(sheet, book)
    book, school_cues = apply_schools(book, schools)
    book = for_run(book, schools, sheet)
    sheet = derived(sheet, book)
    s = Sheet(sheet, book)
    verdicts = {i: v for i, f in book.faults.items() if i not in dropped and (v := judge_fault(s, i, f)) is not None}
    present = {i for i, v in verdicts.items() if v.status == "present"}
    causes = {i: sorted(ancestors(book, i) & present) for i in verdicts}
    explains = {i: [j for j in verdicts if j in present and i in causes[j]] for i in verdicts}
    roots = [i for i in verdicts if i in present and not causes[i]]

    def rank(i: str) -> tuple[bool, float, int]:
        v, f = verdicts[i], book.faults[i]
        score = v.severity * v.share * (1 + len(explains[i])) * f.weight.get(s.level, 1.0)
        # A rider works on a thing when the root is that thing or explains it.
        if set(sheet.intention.faults) & {i, *explains[i]}:
            score *= INTENTION_WEIGHT
        return (f.safety, round(score, 6), -v.order)

    roots.sort(key=rank, reverse=True)
    chosen = roots[: 1 + MORE]
    main = roots[0] if roots else None

    def cue(i: str) -> str:
        return school_cues.get(i, book.faults[i].cues[0])

    return {
        "format": "prescription/1",
        "discipline": sheet.discipline,
        "level": sheet.level,
        "strengths": [{"id": i, "text": book.strengths[i].text} for i in strengths(s)[:3]],
        "main": None if main is None else {
            "fault": main, "side": verdicts[main].side, "cue": cue(main),
            "why": _why(s, book, verdicts[main], explains[main]),
        },
        "findings": [
            _finding(i, v, roots, explains[i], causes[i])
            for i, v in sorted(verdicts.items(), key=lambda x: _finding_order(x[1], roots))
            if v.status in ("present", "episode", "unclear")
        ],
        "cues": [{"fault": i, "cue": cue(i)} for i in chosen],
        "drills": [_drill(book, i, d) for i in chosen for d in book.faults[i].drills],
        "gear": [{"text": g.text, "because_of": g.observation} for g in book.gear if s.observed.get(g.observation)],
        "cautions": _cautions(book, chosen),
        "retest": _retest(verdicts[main], sorted(set(filter(None, map(s.side_of, s.units()))))) if main else [],
        "cannot_tell": [
            {"fault": i, "reason": reason, "film_next": words}
            for i, v in verdicts.items() if v.status == "cannot_tell"
            for reason, words in [blind(s, book.faults[i])]
        ],
    }  # fmt: skip


def _finding_order(v: FaultVerdict, roots: list[str]) -> tuple[int, int]:
    kinds = {"present": 1, "episode": 2, "unclear": 3}
    return (0, roots.index(v.fault)) if v.fault in roots else (kinds.get(v.status, 4), v.order)


def _finding(i: str, v: FaultVerdict, roots: list[str], explains: list[str], because: list[str]) -> dict[str, Any]:
    status = v.status if v.status != "present" else ("root" if i in roots else "symptom")
    evidence = v.evidence if v.status != "unclear" else [e for u in v.units for e in u.evidence]
    return {
        "fault": i, "status": status, "verdict": v.verdict, "side": v.side,
        "share": round(v.share, 3), "severity": round(v.severity, 3), "phase": v.phase,
        "explains": explains, "because_of": because,
        "evidence": [_evidence(e) for e in evidence],
    }  # fmt: skip


def _evidence(e: Evidence) -> dict[str, Any]:
    return {
        "measure": e.measure, "limb": e.limb, "segment": e.segment, "phase": e.phase,
        "value": round(e.value, 4), "u": round(e.u, 4), "band": list(e.band), "p": round(e.p, 4),
    }  # fmt: skip


def _drill(book: Playbook, fault: str, drill: str) -> dict[str, Any]:
    d = book.drills[drill]
    return {
        "id": drill, "fault": fault, "title": d.title, "steps": [step.model_dump() for step in d.steps],
        "sign": d.sign, "worse_first": book.faults[fault].worse_first,
    }  # fmt: skip


def _cautions(book: Playbook, chosen: list[str]) -> list[str]:
    own = [c for i in chosen for c in book.faults[i].cautions]
    drills = [book.drills[d].caution for i in chosen for d in book.faults[i].drills]
    return list(dict.fromkeys([*own, *(c for c in drills if c), *book.cautions]))


def _missed(v: FaultVerdict) -> list[Evidence]:
    """Evidence of bands that were missed, without the conditions that only set the scene."""
    return [e for e in v.evidence if not e.inside]


def _retest(v: FaultVerdict, sides: list[str]) -> list[dict[str, Any]]:
    """The band edges that were missed, once for each measure, with the weak side beside both."""
    targets: dict[tuple[str, str | None, str | None], dict[str, Any]] = {}
    for e in _missed(v):
        key = (e.measure, e.limb, e.phase)
        targets.setdefault(key, {"measure": e.measure, "limb": e.limb, "phase": e.phase, "side": "both", "target": list(e.band)})
    out = list(targets.values())
    if v.side != "both" and len(sides) > 1:
        out += [{**target, "side": v.side} for target in out]
    return out


def _why(s: Sheet, book: Playbook, v: FaultVerdict, explains: list[str]) -> str:
    """One sentence: what the numbers show, where, and what follows from it."""
    fault = book.faults[v.fault]
    told = [u for u in v.units if u.p is not None and (v.side == "both" or s.side_of(u.segment) == v.side)]
    fired = [u for u in told if u.fires]
    unit = book.unit + ("s" if len(told) != 1 else "")
    side = "" if v.side == "both" else f"{v.side} "
    where = f"in {len(fired)} of {len(told)} {side}{unit}" if s.segments and fired and fired[0].segment else "on this run"
    parts = [f"{fault.title} {where}"]
    evidence = _missed(v)
    if evidence:
        worst = max(evidence, key=lambda e: (e.severity, e.p))
        call = judging_class(worst.value) if worst.measure == "shortfall" and book.discipline == "figure_jump" else None
        read = describe(worst, book.unit)
        parts.append(f"{read[0].lower()}{read[1:]} where {describe_band(worst)} is wanted" + (f" ({call})" if call else ""))
    if explains:
        parts.append("it explains " + ", ".join(book.faults[i].title[0].lower() + book.faults[i].title[1:] for i in explains))
    return "; ".join(parts) + "."


def describe(e: Evidence, unit: str = "unit") -> str:
    """Say a piece of evidence: Edge at the belly of turn 3 is 21 ± 4°, with U = 2u.

    ``unit`` is the discipline's own word for its units.
    """
    return describe_evidence(_evidence(e), unit)


def _named(measure: str) -> tuple[str, str]:
    """Title and unit of a measure, of a quotient ``a/b`` or of a difference ``a-b``."""
    for sign, word in (("/", "÷"), ("-", "−")):
        first, _, second = measure.partition(sign)
        if second:
            unit = "" if sign == "/" else UNIT_WORDS[REGISTRY[first].unit]
            return f"{REGISTRY[first].title} {word} {REGISTRY[second].title.lower()}", unit
    return REGISTRY[measure].title, UNIT_WORDS[REGISTRY[measure].unit]


def describe_evidence(e: dict[str, Any], unit: str = "unit") -> str:
    """The same for a piece of evidence as a prescription holds it."""
    name, suffix = _named(e["measure"])
    phase = f" at the {e['phase'].replace('_', ' ')}" if e["phase"] else ""
    turn = f" of {unit} {e['segment']}" if e["segment"] is not None else ""
    spread = f" ± {digits(2 * e['u'], e['u'])}" if e["u"] else ""
    return f"{name}{phase}{turn} is {digits(e['value'], e['u'])}{spread}{suffix}"


def describe_band(e: Evidence) -> str:
    return band_words(e.measure, e.band)


def target_words(target: dict[str, Any]) -> str:
    """A retest target in words: "Edge at the belly, left turns: at least 25°"."""
    name, _ = _named(target["measure"])
    phase = f" at the {target['phase'].replace('_', ' ')}" if target["phase"] else ""
    limb = f", {target['limb']}" if target["limb"] else ""
    side = "" if target["side"] == "both" else f", {target['side']} side"
    lo, hi = target["target"]
    return f"{name}{phase}{limb}{side}: {band_words(target['measure'], (lo, hi))}"


def band_words(measure: str, band: Band) -> str:
    """ "at least 25°", "at most 12°" or "-10 to 10°"."""
    _, unit = _named(measure)
    lo, hi = band
    low, high = (None if x is None else f"{x:g}".replace("-", "−") for x in (lo, hi))
    if low is None:
        return f"at most {high}{unit}"
    if high is None:
        return f"at least {low}{unit}"
    return f"{low} to {high}{unit}"
