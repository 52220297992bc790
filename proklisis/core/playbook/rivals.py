"""What cannot be told apart from the main thing, and what would part the two.

Another root may weigh as much within its ±. And a cause that leads to the main thing may be there without anybody
having been able to read it: the main thing is then perhaps only its sign.
"""

from __future__ import annotations

from collections.abc import Iterable
from math import hypot
from typing import NamedTuple

from scipy.stats import norm

from proklisis.core.playbook.causes import ancestors
from proklisis.core.playbook.choose import Choice
from proklisis.core.playbook.judge import LIKELY, Evidence, Sheet
from proklisis.core.playbook.words import lower_first, named, phase_words
from proklisis.core.shapes.prescription import CannotTell, Rival
from proklisis.core.uncertainty import digits

#: So many of each kind are named at the most (house choice).
MOST = 2


class _Weight(NamedTuple):
    """How much a root weighs, its standard uncertainty, and the reading that is loosest."""

    score: float
    u: float
    loosest: Evidence | None


def rivals(s: Sheet, choice: Choice, cannot_tell: Iterable[CannotTell]) -> list[Rival]:
    """Faults that could stand in the place of the main thing; none where a coach chose it."""
    main = choice.own
    if main is None or choice.main != main:
        return []
    untold = {c["fault"]: c["film_next"] for c in cannot_tell}
    return [*_as_heavy(s, choice, main), *_behind(s, choice, main, untold)]


def _title(s: Sheet, choice: Choice, fault: str) -> str:
    v = choice.verdicts.get(fault)
    return s.book.faults[fault].missed(v.way if v else None).title


def _as_heavy(s: Sheet, choice: Choice, main: str) -> list[Rival]:
    """Roots that come after the main thing with less than the probability from which anything is likely."""
    first, out = _weight(choice, main), list[Rival]()
    for i in choice.first[1:]:
        if i not in choice.ranks:
            continue  # the coach gives it beside
        if choice.ranks[i][0] != choice.ranks[main][0]:
            continue  # safety goes first, whatever weighs more
        other = _weight(choice, i)
        u = hypot(first.u, other.u)
        if u == 0 or norm.cdf((first.score - other.score) / u) >= LIKELY:
            continue
        loose = max((first, other), key=lambda w: w.u).loosest
        out.append({
            "fault": i, "title": _title(s, choice, i), "kind": "as_heavy",
            "says": f"As heavy, within the ±: {lower_first(_title(s, choice, i))}",
            "parts": f"A surer {_reading(loose)} would part the two" if loose else "",
        })  # fmt: skip
    return out[:MOST]


def _weight(choice: Choice, i: str) -> _Weight:
    """The units of a clip share its errors, so that their mean is no surer than one of them."""
    score = choice.ranks[i][1]
    missed = [e for e in choice.verdicts[i].evidence if not e.inside and e.severity > 0]
    if not missed:
        return _Weight(score, 0.0, None)
    shares = [e.u / _beyond(e) for e in missed]
    return _Weight(
        score,
        score * sum(shares) / len(shares),
        max(zip(shares, missed, strict=True), key=lambda x: x[0])[1],
    )


def _beyond(e: Evidence) -> float:
    """How far a value lies beyond its band, in the measure's unit."""
    lo, hi = e.band
    return max(lo - e.value if lo is not None else 0.0, e.value - hi if hi is not None else 0.0)


def _reading(e: Evidence) -> str:
    name, unit = named(e.measure)
    phase = f" at the {phase_words(e.phase)}" if e.phase else ""
    return f"{lower_first(name)}{phase} (now ± {digits(2 * e.u, e.u)}{unit})"


def _behind(s: Sheet, choice: Choice, main: str, untold: dict[str, str]) -> list[Rival]:
    """Causes of the main thing that lie too near the edge of their band, then those that nobody read, cheapest first."""
    above = {i for i in ancestors(s, choice.verdicts)[main] if s.book.faults[i].role == "cause"}
    unclear = [i for i, v in choice.verdicts.items() if v.status == "unclear" and i in above]
    out: list[Rival] = []
    for i in [*unclear, *(i for i in untold if i in above)][:MOST]:
        title = _title(s, choice, i)
        if i in untold:
            why, parts = "and not read", untold[i].rstrip(".")
        else:
            read = [e for u in choice.verdicts[i].units for e in u.evidence if not e.inside]
            loose = max(read, key=lambda e: e.u, default=None)
            why = "and too near the edge of its band to say"
            parts = f"A surer {_reading(loose)} would tell" if loose else ""
        out.append({
            "fault": i, "title": title, "kind": "behind",
            "says": f"Perhaps behind it, {why}: {lower_first(title)}", "parts": parts,
        })  # fmt: skip
    return out
