"""Every way of splitting a run, by the name that a playbook gives in ``split``. A new one is a module here and a line below."""

from __future__ import annotations

from proklisis.core.splitting import (
    board,
    carve,
    drops,
    flights,
    loops,
    poling,
    rope,
    sails,
    steps,
    waves,
    wheels,
)
from proklisis.core.splitting.splitter import Splitter
from proklisis.core.splitting.turns import SHORTEST_TURN_S
from proklisis.core.splitting.unlean import unlean

SPLITTERS: dict[str, Splitter] = {
    "carve": Splitter(
        "Tilt of the body", "°", "the skis lie flat between two turns", carve.carve_signal, carve.carve_cuts, carve.carve_units, 4.0, 8.0, SHORTEST_TURN_S,
        closed_form=True, outside_foot=True, stood=unlean, upright_by="balance", facing=True,
    ),
    "poling": Splitter(
        "Height of the pole tips", "leg lengths", "the poles touch down", poling.poling_signal, poling.poling_cuts, poling.poling_units, 6.0, 10.0, 0.4,
        marks=("l_pole_tip", "r_pole_tip"), upright_by="level_ground", facing=True,
        # Common practice: 0.8 to 1.8 s a cycle from a sprint to a slow climb.
        possible_s=(0.55, 3.0),
    ),
    "steps": Splitter(
        "Left foot over right foot", "leg lengths", "a foot touches down", steps.steps_signal, steps.steps_cuts, steps.steps_units, 5.0, 8.0, 0.2, upright_by="level", facing=True,
    ),
    "corners": Splitter(
        "Hips over the feet", "leg lengths", "the rider is half way down from standing to sitting", wheels.seat_signal, wheels.corner_cuts, wheels.corner_units, 4.0, 6.0, 0.3, upright_by="level_ground", facing=True,
    ),
    "features": Splitter(
        "Height over the trail", "leg lengths", "the bike begins to roll down", wheels.trail_signal, wheels.feature_cuts, wheels.feature_units, 4.0, 6.0, 0.2, facing=True,
    ),
    "board_turns": Splitter(
        "Tilt of the body", "°", "the board lies flat between two turns", board.board_signal, board.board_cuts, board.board_units, 4.0, 8.0, 0.25,
    ),
    "jumps": Splitter(
        "Lower foot over the ground", "leg lengths", "the skate leaves the ice", flights.flight_signal, flights.flight_cuts, flights.flight_units, 8.0, 14.0, 0.18, free_flight=True, upright_by="level",
    ),
    "rolls": Splitter(
        "Lower foot over the water", "leg lengths", "the board leaves the water", flights.flight_signal, flights.flight_cuts, flights.flight_units, 6.0, 10.0, 0.18,
        # Open water does not stand still behind the rider, as ice does.
        needs=("surface_a", "surface_b"), marks=("surface_a", "surface_b"),
    ),
    "waves": Splitter(
        "Height on the face", "of the face", "the rider starts down the face", waves.wave_signal, waves.wave_cuts, waves.wave_units, 4.0, 8.0, 0.4,
        marks=("trough", "lip_top"),
    ),
    "drops": Splitter(
        "Speed of the fall", "trunk lengths a second", "the boat begins to fall", drops.drop_signal, drops.drop_cuts, drops.drop_units, 6.0, 8.0, 0.1,
        marks=("bow", "stern"),
    ),
    "crossings": Splitter(
        "Lateral position", "wakes", "the skier is widest out and turns in", rope.rope_signal, rope.rope_cuts, rope.rope_units, 6.0, 8.0, 0.6,
        marks=("wake_l", "wake_r"),
    ),
    "loops": Splitter(
        "Turning of the trace", "°/s", "the blade comes to where its trace will cross", loops.loop_signal, loops.loop_cuts, loops.loop_units, 6.0, 8.0, 0.35,
    ),
    "gybes": Splitter(
        "Course off straight downwind", "°", "the board comes to 120° off the wind, going in", sails.gybe_signal, sails.gybe_cuts, sails.gybe_units, 5.0, 8.0, 0.5,
        needs=("board_nose", "board_tail"), marks=("board_nose", "board_tail"),
    ),
}  # fmt: skip


def splitter(name: str) -> Splitter:
    """Return the splitter of that name; KeyError when there is none."""
    return SPLITTERS[name]
