"""Who is in the demo and what their runs show. All of it is made up."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from proklisis.simulate.render.outfit import Colour, Outfit, outfit

CLIPS = Path(__file__).parent / "clips"
CLUB = "Lanternfell"
#: Who logs in to Hazel's own page: name for logging in, name, password.
HAZEL = ("hazel", "Hazel Pemberwick", "snowlight-26")
COACH = ("ottilie", "Ottilie Marrable", "snowlight-26")
#: Username and name of those who help; they cannot log in with a password.
HELPERS = (("alder", "Alder Hale"), ("liesel", "Liesel Brandt"))


@dataclass(frozen=True)
class Laps:
    """One film of a session with several riders in it."""

    key: str
    title: str
    discipline: str
    riders: tuple[str, ...]
    faults: tuple[dict[str, float], ...]
    goes: int
    seed: int


LAPS = Laps(
    "laps",
    "Laps at the hall",
    "alpine_carve",
    ("wren", "bram", "corin"),
    ({"hip_out": 1.8}, {"stands_tall": 1.8}, {}),
    6,
    15,
)


@dataclass(frozen=True)
class Part:
    """A rider and the one run that is filmed of them at the snow hall."""

    key: str
    jacket: Colour
    name: str
    number: int
    colours: str
    level: str
    born: int
    height_cm: float
    view: str
    seed: int
    title: str
    intention: str
    faults: dict[str, float] = field(default_factory=dict)
    intention_faults: tuple[str, ...] = ()
    #: What the coach noted by eye for the whole run.
    seen: tuple[str, ...] = ()
    guardian_consent: bool = False
    #: Tracks are shipped with the clip, so that the run opens at once.
    ready: bool = False
    discipline: str = "alpine_carve"
    stance: str = ""
    #: The tracks were handed in with the clip, gear and scene marked by hand, and not made from pictures.
    handed_in: bool = False
    units: int = 8
    fps: float = 60.0
    #: Which of the people rides, see ``simulate/people``.
    body: int = 0

    def outfit(self) -> Outfit:
        """The seed's outfit in the jacket that the rider's colours name."""
        return replace(outfit(self.seed), jacket=self.jacket, sleeve=(0.93, 0.91, 0.86))


def _elsewhere(key: str, discipline: str, jacket: Colour, name: str, number: int, colours: str, level: str, born: int, height_cm: float,
               seed: int, title: str, intention: str, fault: str | None, **more: Any) -> Part:  # fmt: skip
    """A rider at one of the week's other places; their clip came with tracks marked by hand."""
    faults = {fault: 1.6} if fault else {}
    return Part(
        key, jacket, name, number, colours, level, born, height_cm, "", seed, title, intention, faults, discipline=discipline,
        ready=True, handed_in=True, guardian_consent=born > 2008, **{"units": 3, "fps": 30.0, **more},
    )  # fmt: skip


@dataclass(frozen=True)
class Again:
    """A run of a rider whom the club has filmed all season: so many days ago, with the coach's own cue if they gave one."""

    part: Part
    days_ago: int
    gear: dict[str, Any]
    cue: str = ""
    #: The Script of the newest run is not written yet.
    approved: bool = True
    #: So many steps of the ladder they have done.
    ticked: int = 0


def _hazel(number: int, seed: int, title: str, fault: str | None) -> Part:
    return Part(
        f"hazel-{number}", (0.16, 0.44, 0.52), "Hazel Pemberwick", 33, "blue-green jacket", "intermediate", 1991, 168, "front", seed,
        title, "carve both sides alike", {fault: 1.6} if fault else {}, ready=True, handed_in=True, units=5, fps=30.0, body=19,
    )  # fmt: skip


#: One rider's season: a cue that worked at once, one that changed nothing twice, and the next that did.
SEASON: tuple[Again, ...] = (
    Again(_hazel(1, 301, "Snow hall, lane 2, first evening", "hip_out"), 46, {"bindings": "on the middle mark"}, ticked=3),
    Again(_hazel(2, 302, "Snow hall, lane 2", "not_level"), 32, {"bindings": "on the middle mark"}, ticked=1),
    Again(_hazel(3, 303, "Snow hall, lane 1", "not_level"), 21, {"bindings": "on the middle mark"}),
    Again(_hazel(4, 304, "Snow hall, lane 1, new set-up", "not_level"), 10, {"bindings": "1 cm forward", "felt": "quicker into the turn"},
          ticked=2, cue="Keep both hands on one long tray."),
    Again(_hazel(5, 305, "Snow hall, lane 2, pre-season test", None), 1, {"bindings": "1 cm forward"}, approved=False),
)  # fmt: skip

#: Another rider with what one of the cast has, so that both can be answered together.
ALIKE: tuple[Part, ...] = (
    _elsewhere("sigrid", "snowboard", (0.72, 0.36, 0.20), "Sigrid Amberley", 29, "rust jacket", "intermediate", 1990, 172, 222,
               "Snow hall, lane 3, run 2", "softer legs on the toe edge", "straight_legs", stance="regular", units=5, fps=60.0, body=11),
)  # fmt: skip

CAST: tuple[Part, ...] = (
    Part(
        "wren", (0.88, 0.50, 0.10), "Wren Hallowell", 7, "orange jacket", "intermediate", 2013, 158, "front", 102, "Snow hall, lane 2, run 1",
        "let the hip come inside", {"hip_out": 1.6}, ("hip_out",), guardian_consent=True, ready=True,
        seen=("looks_ahead",),
        body=20,
    ),
    Part(
        "bram", (0.12, 0.38, 0.66), "Bram Oldacre", 23, "blue jacket", "intermediate", 1979, 183, "front", 103, "Snow hall, lane 2, run 1",
        "quieter shoulders", {"not_level": 1.6}, ("not_level",),
        body=7,
    ),
    Part(
        "isolde", (0.16, 0.50, 0.28), "Isolde Fenwick", 41, "green jacket", "intermediate", 1996, 169, "front", 104, "Snow hall, lane 1, run 2",
        "more grip in the steeper half", {"edge_stays_flat": 1.6},
        body=18,
    ),
    Part(
        "corin", (0.46, 0.20, 0.54), "Corin Tarrant", 12, "purple jacket", "intermediate", 1958, 176, "rear", 105, "Snow hall, lane 1, run 3",
        "keep what works", {},
        seen=("clean_tracks",),
        body=13,
    ),
    _elsewhere("maren", "alpine_gates", (0.80, 0.20, 0.24), "Maren Tolliver", 3, "red jacket", "intermediate", 2009, 166, 201,
               "Snow hall, gates, run 2", "be earlier at the gate", "late_line", units=6, fps=60.0, body=8),
    _elsewhere("piet", "snowboard", (0.20, 0.55, 0.58), "Piet Overby", 18, "teal jacket", "intermediate", 2001, 181, 202,
               "Snow hall, lane 3, run 1", "softer legs on the toe edge", "straight_legs", stance="regular", units=5, fps=60.0, body=1),
    _elsewhere("greta", "double_pole", (0.85, 0.75, 0.20), "Greta Lindwall", 27, "yellow jacket", "advanced", 1988, 171, 203,
               "Snow hall, flat track", "more from the poles", "plant_behind", units=5, fps=60.0, body=6),
    _elsewhere("lumi", "figure_loop", (0.55, 0.30, 0.62), "Lumi Ashgrove", 5, "violet top", "intermediate", 1994, 163, 204,
               "Ice hall, corner B", "rounder loops", "free_leg_early", body=2),
    _elsewhere("tobin", "figure_jump", (0.18, 0.22, 0.48), "Tobin Farrow", 9, "navy top", "advanced", 1999, 174, 205,
               "Ice hall, double and a half", "land it on the outside edge", "takeoff_tilt_away", fps=60.0, body=3),
    _elsewhere("saskia", "speed_skate", (0.90, 0.40, 0.20), "Saskia Brandt", 14, "orange suit", "advanced", 1997, 172, 206,
               "Ice hall, second corner", "a quicker tempo", "late_exit", units=6, fps=60.0, body=22),
    _elsewhere("ned", "inline_start", (0.30, 0.60, 0.30), "Ned Quillfeather", 31, "green jacket", "novice", 1962, 178, 207,
               "Roller track, first hour", "stand up straight", "v_too_wide", units=6, fps=60.0, body=19),
    _elsewhere("abel", "moto_stance", (0.75, 0.15, 0.15), "Abel Thorne", 44, "red jersey", "intermediate", 1990, 184, 208,
               "Roller track, gravel corner", "elbows up", "sits_far_back", body=15),
    _elsewhere("fenna", "trail_stance", (0.25, 0.45, 0.30), "Fenna Rook", 16, "moss jersey", "intermediate", 1993, 168, 209,
               "River park, three rollers", "heels down", "heels_up", fps=60.0, body=14),
    _elsewhere("odile", "slalom_ski", (0.10, 0.45, 0.65), "Odile Hartwin", 22, "blue vest", "intermediate", 1984, 170, 210,
               "Cable lake, 18.25 m, pass 3", "hold the edge longer", "edge_change_early", stance="regular", units=4, body=10),
    _elsewhere("caspian", "windsurf_gybe", (0.88, 0.62, 0.18), "Caspian Dell", 8, "amber vest", "intermediate", 1976, 186, 211,
               "Cable lake, 17 knots", "plane out of the gybe", "upright_change", body=13),
    _elsewhere("zora", "kite_roll", (0.60, 0.16, 0.42), "Zora Lindqvist", 19, "magenta vest", "advanced", 1995, 169, 212,
               "Cable lake, west bay", "finish the roll", "torso_stays", stance="regular", body=12),
    _elsewhere("juno", "surf_turn", (0.15, 0.50, 0.45), "Juno Maretti", 11, "green suit", "intermediate", 2000, 167, 213,
               "River park, standing wave", "stay low through the bottom turn", "stands_tall", stance="regular", body=0),
    _elsewhere("rolf", "drop_boof", (0.92, 0.55, 0.12), "Rolf Eckhart", 37, "orange vest", "intermediate", 1970, 180, 214,
               "River park, lower ledge", "land flat", "leans_back", body=9),
)  # fmt: skip
