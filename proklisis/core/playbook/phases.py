"""What the phases of a unit are, in a sentence each, for those who are new to the words."""

from __future__ import annotations

from collections.abc import Iterable

#: Phase → what it is. A word means the same in every discipline that has it, but where one says otherwise below.
WORDS = {
    "transition": "The change from one turn to the next: the edges are let go and set again.",
    "entry": "From the change of edges until the turn is under way.",
    "belly": "The middle third of the turn, where most of the load is carried.",
    "finish": "The last third, until the edges are let go.",
    "reposition": "The arms and the body come up and forward again, poles in the air.",
    "plant": "The poles meet the snow.",
    "drive": "From the plant on, body and arms push the poles.",
    "release": "The poles leave the snow.",
    "lead_in": "The last strokes before the drop.",
    "approach": "The way to what comes: the jump, the corner, the lip.",
    "lip": "The bow goes over the edge of the drop.",
    "fall": "The boat is in the air.",
    "landing": "First contact, and what follows it at once.",
    "run_out": "What the boat does after the landing.",
    "takeoff": "The last moment of contact.",
    "set": "The first fifth of a second in the air, in which the axis is found.",
    "spin": "The tight turning in the air.",
    "open": "The tight position is left.",
    "trace_in": "The arc into the loop.",
    "round": "The tight part, around the loop's far end.",
    "trace_out": "The arc out of the loop.",
    "touchdown": "The foot meets the ground or the ice.",
    "pressure": "The leg carries and pushes.",
    "push_end": "The last fifth of the push.",
    "recovery": "The foot is off the ground and comes back.",
    "seat_change": "The weight moves over to the inside of the corner.",
    "mid_corner": "The most lean.",
    "exit": "Out of the corner, on the throttle.",
    "stand_up": "The motorcycle comes upright.",
    "turn_in": "From the widest point toward the wakes.",
    "load": "The lean against the boat on the way to the wakes.",
    "edge_change": "The ski rolls from one edge to the other.",
    "reach": "The handle goes out to the hand that keeps it.",
    "pre_turn": "The last way to the ball.",
    "ball": "Around the buoy.",
    "take_off": "Down the face.",
    "bottom_turn": "The turn at the foot of the wave.",
    "climb": "Up the face.",
    "top_turn": "The turn at the top of the face.",
    "recover": "Down again to the next turn.",
    "roll_in": "Into the feature, wheels still on the ground before it.",
    "compress": "The lowest point, where the bicycle is pushed into the ground.",
    "roll_out": "Up and out of the feature.",
    "set_up": "Before the carve: unhooked, board flat and fast.",
    "carve_in": "The board is leaned into the arc.",
    "foot_change": "The feet change places.",
    "rig_change": "The rig swings round to the other side.",
    "power_up": "The sail is sheeted in again.",
}
#: Discipline → phases that mean something else there.
OTHERWISE = {"windsurf_gybe": {"open": "The sail opens as the board comes downwind."}}


def phase_words(discipline: str, phases: Iterable[str]) -> dict[str, str]:
    """Phase → its sentence, for those that have one."""
    words = {**WORDS, **OTHERWISE.get(discipline, {})}
    return {p: words[p] for p in phases if p in words}
