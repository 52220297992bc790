"""How gates may stand (international alpine rules; values from memory)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class GateRule:
    """Metres: the width of a gate, and from one turning pole to the next."""

    width: tuple[float, float]
    apart: tuple[float, float | None]


GATES: dict[str, GateRule] = {
    "giant_slalom": GateRule((4.0, 8.0), (10.0, None)),
    "slalom": GateRule((4.0, 6.0), (6.0, 13.0)),
}


def set_problems(kind: str, width_m: float | None, apart_m: float) -> list[str]:
    """What is against the rules in one gate of a set, in words; empty when nothing is."""
    rule, out = GATES[kind], []
    if width_m is not None and not rule.width[0] <= width_m <= rule.width[1]:
        out.append(
            f"the gate is {width_m:g} m wide; {rule.width[0]:g} to {rule.width[1]:g} m is allowed"
        )
    if apart_m < rule.apart[0] or (rule.apart[1] is not None and apart_m > rule.apart[1]):
        most = f" to {rule.apart[1]:g}" if rule.apart[1] else ""
        out.append(
            f"the gates are {apart_m:g} m apart; {rule.apart[0]:g}{most or ' or more'} m is allowed"
        )
    return out
