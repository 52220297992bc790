"""How a simulated skier skis: the clean values of a level, and faults put in on purpose.

Every fault moves a target of the rider to the playbook's own band edge plus so many scales,
so the simulator and the judgement cannot drift apart.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.schema import Condition, Playbook
from proklisis.core.shapes.run_sheet import Level

DEFAULT_STRENGTH = 1.5


@dataclass(frozen=True)
class Style:
    """Targets at the belly of a turn unless said otherwise; degrees, ratios or metres per second."""

    edge: float
    leg_lean: float
    angulation: float
    speed: float
    turn_time: float = 1.35
    edge_at_change: float | None = (
        None  # edge at the end of the transition, where it is not a sine's
    )
    sharpness: float = 1.0  # 1: tilt follows a sine; larger: thrown from side to side
    shoulder_tilt: float = 5.0
    separation: float = 8.0
    separation_at_change: float | None = (
        None  # still turned out of the turn that ends, where it is not square
    )
    scissor: float = 1.0
    weight_entry: float = 76.0
    weight_belly: float = 82.0
    stance: float = 1.15
    boot_growth: float = 1.08
    skid: float = 3.0
    fall_line_at: float | None = None  # share of the turn at which the skis point down the hill
    heading_swing: float | None = None  # heading change over the whole turn, where not the path's
    knee_flex: float = 28.0
    flex_range: float = 21.0
    change_flex: float | None = None  # knee flexion right at the change, a short stretch
    hip_flex_at_change: float | None = None
    hip_fore: float = 0.02
    hip_fore_early: float = 0.03  # through the transition and entry
    trunk_pitch_early: float = 0.0  # added to the trunk's pitch through transition and entry
    hand_fore: float = 1.15
    elbow_fore: float = 0.62
    plant_fore: float = 1.5
    hand_inside: float | None = None  # the inside hand, where it is not as the other
    hand_outside: float | None = None  # the outside hand, where it is not as the other
    twice: bool = False  # the edge is let go and set again in the belly
    rise_room: float = 0.55  # through gates
    slow_gate: float = 0.0  # seconds that every third turn takes longer
    gate_at: float = 0.60  # share of the change of direction that is done at the gate
    view: str = field(default="front")


#: Clean riders: every value well inside the playbook's band for the level (house choice).
CLEAN: dict[Level, Style] = {
    "novice": Style(edge=24, leg_lean=20, angulation=9, speed=6.5, turn_time=1.5),
    "intermediate": Style(edge=36, leg_lean=31, angulation=13, speed=9.0, turn_time=1.4),
    "advanced": Style(edge=51, leg_lean=45, angulation=18, speed=13.5, turn_time=1.4),
    "elite": Style(edge=65, leg_lean=57, angulation=23, speed=20.0, turn_time=1.4),
}


def missed(condition: Condition, measure: str, level: Level, strength: float) -> float:
    """Value of ``measure`` that lies ``strength`` scales outside its band at a level."""
    for leaf in condition.leaves():
        if leaf.measure == measure and not leaf.inside:
            band = leaf.band_for(level)
            if band is None:
                raise InputError(
                    f"this fault is not judged at level {level}", "--level", "choose a higher level"
                )
            lo, hi = band
            scale = leaf.scale_for(level)
            return lo - strength * scale if lo is not None else (hi or 0.0) + strength * scale
    raise KeyError(measure)


Inject = Callable[[Style, Callable[[str], float]], Style]


def _low_edge(s: Style, v: Callable[[str], float]) -> Style:
    edge = v("edge")
    lean = min(max(edge + 10.0, 13.0), s.leg_lean)
    return replace(s, edge=edge, leg_lean=lean, angulation=min(s.angulation, lean - 3.0))


def _flat(s: Style, v: Callable[[str], float]) -> Style:
    start = 9.0
    return replace(s, edge=start + v("edge_gain"), edge_at_change=start, leg_lean=21.0,
                   angulation=min(s.angulation, 15.0), knee_flex=58.0)  # fmt: skip


def _thrown(s: Style, v: Callable[[str], float]) -> Style:
    edge = max(s.edge, 42.0)
    sharp = v("edge_rate") * s.turn_time / (3.14159 * edge)
    return replace(s, edge=edge, leg_lean=max(s.leg_lean, 36.0), angulation=max(s.angulation, 15.0),
                   sharpness=sharp * 1.05, weight_entry=v("weight_outside"))  # fmt: skip


def _pivot(s: Style, v: Callable[[str], float]) -> Style:
    return replace(
        s,
        fall_line_at=max(v("time_to_fall_line"), 0.1),
        heading_swing=v("swing_in_half_second") * 1.12,
    )


def _stands(s: Style, v: Callable[[str], float]) -> Style:
    return replace(s, knee_flex=88.0, flex_range=14.0, change_flex=8.0,
                   hip_flex_at_change=max(v("hip_flex"), 4.0), view="side_left")  # fmt: skip


def _banking(s: Style, v: Callable[[str], float]) -> Style:
    # Below zero it would be the hip hanging out, which is another fault.
    return replace(s, angulation=max(v("angulation"), 2.3))


def _hips(s: Style, v: Callable[[str], float]) -> Style:
    return replace(s, hip_fore_early=v("hip_fore_aft"), view="side_left")


def _late_front(s: Style, v: Callable[[str], float]) -> Style:
    return replace(
        s, hip_fore_early=v("com_fore_aft") - 0.02, trunk_pitch_early=-14.0, view="side_left"
    )


def _simple(target: str, measure: str, **also: object) -> Inject:
    def inject(s: Style, v: Callable[[str], float]) -> Style:
        return replace(s, **{target: v(measure), **also})  # type: ignore[arg-type]

    return inject


def _block(s: Style, v: Callable[[str], float]) -> Style:
    # Below zero the shoulders would turn in, which is another fault.
    return replace(s, separation=0.6, view="above")


def _stiff(s: Style, v: Callable[[str], float]) -> Style:
    # The pelvis rolls from foot to foot and bends the outside knee by about 9° of its own.
    return replace(s, flex_range=v("flex_range") + 2.0, view="side_left")


def _hands(s: Style, v: Callable[[str], float]) -> Style:
    return replace(s, hand_fore=v("hand_fore"), elbow_fore=0.5 * v("elbow_fore"), view="side_left")


def _outer_hand(s: Style, v: Callable[[str], float]) -> Style:
    # The measure counts in whole arms, the style in upper arms.
    return replace(s, hand_outside=v("outside_hand_sweep") / ARM_SHARE, view="side_left")


#: Upper arm ÷ whole arm, of the simulated skier.
ARM_SHARE = 0.56
#: Every fault of ``alpine_carve`` that is measured; the others rest on the coach's eye.
INJECT: dict[str, Inject] = {
    "early_pivot": _pivot,
    "low_edge": _low_edge,
    "edge_stays_flat": _flat,
    "skid": _simple("skid", "skid_angle", view="above"),
    "thrown_in": _thrown,
    "inside_weight": _simple("weight_belly", "weight_outside"),
    "scissor_open": _simple("scissor", "scissor"),
    "wide_feet": _simple("boot_growth", "boot_gap_growth"),
    "upper_body_leads": _simple("separation", "separation", view="above"),
    "no_counter": _block,
    "stays_countered": _simple("separation_at_change", "separation", view="above"),
    "hip_out": _simple("angulation", "angulation"),
    "banking": _banking,
    "not_level": _simple("shoulder_tilt", "shoulder_tilt"),
    "hips_behind": _hips,
    "late_front_pressure": _late_front,
    "stands_tall": _stands,
    "hands_behind": _hands,
    "late_pole": _simple("plant_fore", "pole_plant_fore", view="side_left"),
    "hooked_finish": _simple("fall_line_at", "turn_shape"),
    "stiff_stance": _stiff,
}


#: What gates add.
INJECT_GATES: dict[str, Inject] = {
    "too_much_room": _simple("rise_room", "rise_room", view="front"),
    "time_lost_at_gate": _simple("slow_gate", "gate_time", view="front"),
    "turn_twice": lambda s, v: replace(s, twice=True, view="front"),
    "late_line": _simple("gate_at", "direction_done_at_gate", view="front"),
    "outside_hand_lags": _outer_hand,
    "inside_hand_back": _simple("hand_inside", "hand_fore", view="side_left"),
}


def injectable(discipline: str) -> dict[str, Inject]:
    """Fault → how it is put in, for a discipline of turns on skis."""
    return {**INJECT, **INJECT_GATES} if discipline == "alpine_gates" else INJECT


def styled(book: Playbook, level: Level, faults: dict[str, float]) -> Style:
    """Return a clean style of a level with ``faults`` (id → strength in scales) put in."""
    style = CLEAN[level]
    for fault, strength in faults.items():
        if fault not in book.faults:
            raise InputError(f"the fault {fault!r} is not known in {book.discipline}", "--fault",
                             nearest(fault, book.faults))  # fmt: skip
        able = injectable(book.discipline)
        if fault not in able:
            raise InputError(f"the fault {fault!r} rests on the coach's eye and cannot be simulated", "--fault",
                             f"choose one of {', '.join(able)}")  # fmt: skip
        condition = book.faults[fault].when

        def value(
            measure: str, condition: Condition = condition, strength: float = strength
        ) -> float:
            return missed(condition, measure, level, strength)

        style = able[fault](style, value)
    return style
