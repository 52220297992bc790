"""The answer to what the rider was trying to do on this run."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, Literal

from proklisis.core.playbook.judge import CLEAR, FaultVerdict, Sheet
from proklisis.core.playbook.words import describe_evidence, lower_first, phase_words, where_words
from proklisis.core.shapes.prescription import Evidence, Intention

Answer = Literal["done", "partly", "not_yet", "cannot_tell"]
HEAD: dict[Answer, str] = {
    "done": "Done",
    "partly": "Partly",
    "not_yet": "Not yet",
    "cannot_tell": "Cannot be told",
}
#: Share of units in which a fault must be clearly absent for the thing to be done.
CLEAN = 0.8


def answered(
    s: Sheet,
    verdicts: Mapping[str, FaultVerdict],
    causes: Mapping[str, Iterable[str]],
    cannot_tell: Iterable[Mapping[str, Any]],
    better: Iterable[str],
    evidence: Callable[[Any], Evidence],
) -> Intention | None:
    """``intention`` of a prescription; None where the rider said nothing.

    ``better``: faults that moved the right way against the last run; ``evidence`` writes one piece as JSON.
    """
    said = s.sheet.intention
    if not said.faults and not said.text:
        return None
    if not said.faults:
        return {
            "text": said.text,
            "answer": "cannot_tell",
            "why": f"{HEAD['cannot_tell']}: say which faults it is about.",
        }
    untold = {c["fault"]: c["film_next"] for c in cannot_tell}
    answers: list[tuple[Answer, str]] = [
        _one(
            s,
            i,
            verdicts.get(i),
            list(causes.get(i, ())),
            untold.get(i),
            i in set(better),
            evidence,
        )
        for i in said.faults
    ]
    kinds = {a for a, _ in answers}
    answer: Answer = (
        kinds.pop()
        if len(kinds) == 1
        else "partly"
        if kinds - {"cannot_tell", "done"}
        else "cannot_tell"
    )
    return {
        "text": said.text,
        "answer": answer,
        "why": f"{HEAD[answer]}: {'; '.join(dict.fromkeys(words for _, words in answers))}.",
    }


def _one(
    s: Sheet,
    i: str,
    v: FaultVerdict | None,
    causes: list[str],
    untold: str | None,
    better: bool,
    evidence: Callable[[Any], Evidence],
) -> tuple[Answer, str]:
    title = lower_first(s.book.faults[i].title) if i in s.book.faults else i.replace("_", " ")
    if v is None:
        return "cannot_tell", f"{title} is not judged under this level, school or conditions"
    if v.status == "cannot_tell":
        return (
            "cannot_tell",
            f"{title}: {lower_first((untold or '').rstrip('.?'))}"
            if untold
            else f"{title} was not read",
        )
    judged = [u for u in v.units if u.p is not None]
    fired = [u for u in judged if u.fires]
    read = [e for u in (fired or judged) for e in u.evidence]
    number = (
        f" ({lower_first(describe_evidence(evidence(max(read, key=lambda e: (e.severity, e.p))), s.book.unit))})"
        if read
        else ""
    )
    if v.status == "unclear":
        return "cannot_tell", f"{title} lies too near the band's edge to say{number}"
    if v.status == "present":
        where = (
            where_words(s.book, len(fired), len(judged), "both") if s.segments else "on this run"
        )
        hinders = [c for c in causes if c in s.book.faults]
        by = f"; {lower_first(s.book.faults[hinders[0]].title)} hinders it" if hinders else ""
        if v.side != "both" and any(not u.fires and s.side_of(u.segment) != v.side for u in judged):
            return (
                "partly",
                f"{title} is there on the {phase_words(v.side)} side only, {where}{number}{by}",
            )
        return (
            "partly" if better else "not_yet"
        ), f"{title} {where}{number}{', less than on the last run' if better else ''}{by}"
    if fired:
        return "partly", f"{title} {where_words(s.book, len(fired), len(judged), 'both')}{number}"
    clean = sum((u.p or 0.0) <= 1 - CLEAR for u in judged)
    if clean >= CLEAN * len(judged):
        return (
            "done",
            f"{title} in none of {len(judged)} {s.book.counted(len(judged))}{number}"
            if s.segments
            else f"{title} is not there{number}",
        )
    if clean:
        return (
            "partly",
            f"{title} is clearly absent in {clean} of {len(judged)} {s.book.counted(len(judged))}{number}",
        )
    return "cannot_tell", f"{title} is likely absent, and no {s.book.unit} shows it clearly{number}"
