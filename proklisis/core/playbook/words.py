"""Numbers of a verdict as sentences: a value with its unit and ±, a band, a target."""

from __future__ import annotations

from datetime import date
from typing import TypedDict

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Band, Playbook
from proklisis.core.shapes.prescription import Evidence, Followed, FollowedWord, Read, Target
from proklisis.core.uncertainty import digits

UNIT_WORDS = {
    "deg": "°",
    "s": " s",
    "ratio": "",
    "pct": " %",
    "deg/s": "°/s",
    "m": " m",
    "m/s": " m/s",
    "hz": " per second",
}
#: What is taken away from a measure, beside other measures.
LESS = {"best": "own best", "wanted": "wanted"}
LIMBS = {"l": "left", "r": "right"}
NUMBERS = (
    "no",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
)


def count_words(n: int) -> str:
    """Small numbers in words, as a sentence has them."""
    return NUMBERS[n] if n < len(NUMBERS) else str(n)


def upper_first(text: str) -> str:
    """``text`` as a sentence begins."""
    return text[:1].upper() + text[1:]


def lower_first(text: str) -> str:
    """A sentence as it stands within another."""
    return text if text[1:2] in ("", " ") or text[1:2].isupper() else text[:1].lower() + text[1:]


def listed(words: list[str]) -> str:
    """a, b and c."""
    return (
        words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}" if words else ""
    )


def phase_words(phase: str) -> str:
    return phase.replace("_", " ")


def named(measure: str) -> tuple[str, str]:
    """Title and unit of a measure, of a quotient ``a/b`` or of a difference ``a-b``."""
    for sign, word in (("/", "÷"), ("-", "−")):
        first, _, second = measure.partition(sign)
        if second:
            unit = f" × {lower_first(REGISTRY[second].title)}" if sign == "/" else unit_words(first)
            return (
                f"{REGISTRY[first].title} {word} {LESS.get(second) or lower_first(REGISTRY[second].title)}",
                unit,
            )
    return REGISTRY[measure].title, unit_words(measure)


def unit_words(measure: str) -> str:
    """The unit as it stands behind a number: "°", " s"; a ratio of a named length says of which."""
    m = REGISTRY[measure]
    return f" {m.of}" if m.of else UNIT_WORDS[m.unit]


def describe_evidence(e: Evidence, unit: str = "unit") -> str:
    """A piece of evidence of a prescription: "Edge at the belly of turn 3 is 21 ± 4°", with U = 2u.

    ``unit`` is the discipline's own word for one of its units.
    """
    name, suffix = named(e["measure"])
    name += f" ({LIMBS.get(e['limb'], e['limb'])})" if e["limb"] else ""
    phase = f" at the {phase_words(e['phase'])}" if e["phase"] else ""
    turn = f" of {unit} {e['segment']}" if e["segment"] is not None else ""
    return f"{name}{phase}{turn} is {_with_spread(e['value'], e['u'])}{suffix}"


def _with_spread(value: float, u: float) -> str:
    return f"{digits(value, u)} ± {digits(2 * u, u)}" if u else digits(value, u)


def day_words(day: date) -> str:
    """A day as a sentence has it: "12 December"."""
    return f"{day.day} {day:%B}"


def value_words(measure: str, value: float, u: float) -> str:
    """ "21 ± 4°", with U = 2u."""
    return f"{_with_spread(value, u)}{named(measure)[1]}"


#: What became of a target, in words.
FOLLOWED = {
    "in_band": "in the band now",
    "better": "better",
    "no_change": "no change that can be told",
    "worse": "worse",
    "cannot_tell": "cannot be told",
}


class FollowedWords(TypedDict):
    """A target and what became of it; ``before`` and ``now`` are values with ±, empty where none was read."""

    target: str
    before: str
    now: str
    verdict: FollowedWord
    says: str


def followed_words(r: Followed) -> FollowedWords:
    """A row of a follow-up in words."""

    def read(v: Read | None) -> str:
        return "" if v is None else value_words(r["measure"], v["value"], v["u"])

    return {
        "target": target_words(r), "before": read(r["before"]), "now": read(r["now"]), "verdict": r["verdict"],
        "says": FOLLOWED[r["verdict"]],
    }  # fmt: skip


def target_words(target: Target) -> str:
    """A retest target in words: "Edge at the belly, left turns: at least 25°"."""
    name, _ = named(target["measure"])
    phase = f" at the {phase_words(target['phase'])}" if target["phase"] else ""
    limb = f", {LIMBS.get(target['limb'], target['limb'])}" if target["limb"] else ""
    side = "" if target["side"] == "both" else f", {phase_words(target['side'])} side"
    lo, hi = target["target"]
    return f"{name}{phase}{limb}{side}: {band_words(target['measure'], (lo, hi))}"


def band_words(measure: str, band: Band) -> str:
    """ "at least 25°", "at most 12°" or "-10 to 10°"."""
    _, unit = named(measure)
    lo, hi = band
    low, high = (None if x is None else f"{x:g}".replace("-", "−") for x in (lo, hi))
    if low is None:
        return f"at most {high}{unit}"
    if high is None:
        return f"at least {low}{unit}"
    return f"{low} to {high}{unit}"


def where_words(book: Playbook, fired: int, told: int, side: str) -> str:
    """ "in 3 of 5 left turns", "in 1 of 1 push"."""
    return f"in {fired} of {told} {'' if side == 'both' else phase_words(side) + ' '}{book.counted(told)}"
