"""What a clip's pictures can bear, in plain verdicts; and where to stand for better ones next time."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass
from typing import Literal

import proklisis.core.measures.library  # noqa: F401  declares the measures
from proklisis.core.camera.views import ONLY_3D, VIEW_WORDS
from proklisis.core.measures.registry import REGISTRY, on_the_ice
from proklisis.core.physics.optics import picture_width, slowest_shutter
from proklisis.core.playbook.schema import Playbook
from proklisis.core.readings.readings import VIEW_LIMIT_DEG
from proklisis.core.tracks.tracks import UNLEVELLED_U_DEG
from proklisis.core.uncertainty import interval_u

Grade = Literal["good", "fair", "poor", "unknown"]
#: A rider this many pixels tall is followed well (from the tracker's own accuracy).
TALL_PX = 300
#: A rider this many pixels tall is still usable (from the same).
SMALL_PX = 180
#: Blur (0 sharp … 1) up to which joints are sharp (house choice).
SHARP = 0.45
#: Blur beyond which they are smeared (house choice).
SMEARED = 0.62
#: Mean grey level of the rider (0 to 255) below which it is dark (house choice).
DARK = 45
#: Mean grey level above which it is glaring (house choice).
GLARE = 225
#: Width of a full-frame picture, which focal lengths are told for, millimetres.
SENSOR_MM = 36.0
#: Focal length of a usual phone's main lens on it, millimetres (common practice).
PHONE_MM = 26.0
#: How much a phone zooms before it only enlarges (common practice).
MOST_ZOOM = 5.0
#: The rider's share of the picture's height that is aimed at (house choice).
FILL = 0.45
#: How far a panning camera swings to either side, degrees (house choice).
SWING_DEG = 15.0
#: The nearest place to film from, metres (house choice).
NEAREST_M = 8.0
#: The farthest, metres (house choice).
FARTHEST_M = 60.0
#: Limbs of a rider who is followed well keep their length to this, and of one who is followed badly not even to that (rendered people).
STEADY_LIMBS, ROUGH_LIMBS = 0.038, 0.05
RATES = (60, 120, 240)
SHUTTERS = (60, 125, 250, 500, 1000, 2000, 4000)


@dataclass(frozen=True)
class Look:
    """What is known of a clip's pictures. Pixels are the clip's own; None where it is not known."""

    fps: float
    play_fps: float
    frames: int
    missing: int = 0
    doubled: int = 0
    rider_px: float | None = None
    rider_px_least: float | None = None
    picture_px: float = 720.0
    blur: float | None = None
    light: float | None = None
    #: A view, or empty where it is not known.
    view: str = "front"
    offset_deg: float = 0.0
    #: Four corners of a rectangle are marked on the ice.
    ice: bool = False
    levelled: bool = False
    roll_u_deg: float = UNLEVELLED_U_DEG
    #: How far the picture was found to be turned by the ride itself; None where that does not show.
    turned_deg: float | None = None
    lens: str = ""
    #: Degrees off the line of its view at which the body shows the camera to stand, and the standard uncertainty; None where
    #: nothing shows it.
    off_line_deg: tuple[float, float] | None = None
    #: By how much of their length the rider's limbs seem to stretch and shrink; None where no depths were fitted.
    strain: float | None = None
    #: What the picture says against the view that was said, as a sentence.
    doubt: str = ""


@dataclass(frozen=True)
class Verdict:
    """One thing about the pictures: how good, in words, what it hides, and what to do next time."""

    id: str
    title: str
    grade: Grade
    words: str
    hides: str = ""
    next_time: str = ""


def check(look: Look, book: Playbook) -> list[Verdict]:
    """Every verdict on a clip, in the order a coach would ask."""
    return [
        _rate(look),
        _whole(look),
        _sharp(look),
        _size(look),
        _light(look),
        _view(look, book),
        _level(look),
        _lens(look),
        *_followed(look),
    ]


def time_pm(fps: float) -> float:
    """±U of a time between two events read off frames, seconds: 2/(fps·√6) (JCGM 100, rectangular)."""
    return 2 * interval_u(fps)


def _rate(look: Look) -> Verdict:
    pm = time_pm(look.fps)
    slow = look.fps > 1.2 * look.play_fps
    words = f"Filmed at {look.fps:.4g} frames a second" + (
        f", played at {look.play_fps:.4g}." if slow else "."
    )
    hides = f"A time between two events can be read to ±{pm:.2g} s only."
    if look.fps >= 100:
        return Verdict(
            "rate",
            "Frame rate",
            "good",
            words,
            f"A time between two events can be read to ±{pm:.2g} s.",
        )
    if look.fps >= 50:
        return Verdict(
            "rate",
            "Frame rate",
            "fair",
            words,
            hides,
            "Film at 120 frames a second or more where times matter.",
        )
    return Verdict(
        "rate",
        "Frame rate",
        "poor",
        words,
        hides + " Fast movements fall between frames.",
        "Film at 60 frames a second at least, better 120.",
    )


def _whole(look: Look) -> Verdict:
    if not look.missing and not look.doubled:
        return Verdict(
            "whole", "All frames", "good", f"All {look.frames} frames are there, each once."
        )
    parts = []
    if look.missing:
        parts.append(f"frames are missing in {look.missing} place{'s' * (look.missing > 1)}")
    if look.doubled:
        parts.append(
            f"{look.doubled} frame{'s' * (look.doubled > 1)} show{'s' * (look.doubled == 1)} the one before again"
        )
    share = (look.missing + look.doubled) / look.frames
    words = " and ".join(parts)
    return Verdict(
        "whole", "All frames", "poor" if share > 0.05 else "fair", words[0].upper() + words[1:] + ".",
        "Times across these places are given as a range; nothing is read from a doubled frame.",
        "Send the camera's own file, not one that was recorded off a screen or converted.",
    )  # fmt: skip


def _sharp(look: Look) -> Verdict:
    if look.blur is None:
        return Verdict("sharp", "Sharpness", "unknown", "It was not read on this clip.")
    if look.blur <= SHARP:
        return Verdict("sharp", "Sharpness", "good", "The rider is sharp.")
    smeared = look.blur > SMEARED
    return Verdict(
        "sharp", "Sharpness", "poor" if smeared else "fair", "The rider is smeared." if smeared else "The rider is a little soft.",
        "Hands, poles and edges are read with a wider ±.", "Use a shorter shutter time, hold the focus on the rider, and wipe the lens.",
    )  # fmt: skip


def _size(look: Look) -> Verdict:
    if look.rider_px is None:
        return Verdict(
            "size",
            "Size of the rider",
            "unknown",
            "Nobody was followed on this clip.",
            next_time="Film closer.",
        )
    least = look.rider_px_least or look.rider_px
    words = (
        f"The rider is {look.rider_px:.0f} pixels tall, {look.rider_px / look.picture_px:.0%} of the picture"
        + (f"; {least:.0f} at the smallest." if least < 0.8 * look.rider_px else ".")
    )
    if look.rider_px >= TALL_PX:
        return Verdict("size", "Size of the rider", "good", words)
    small = look.rider_px < SMALL_PX
    return Verdict(
        "size", "Size of the rider", "poor" if small else "fair", words,
        "Joints are read to a few percent of the rider's height, so every angle has a wider ±.",
        f"Zoom in or stand closer, so that the rider fills about {FILL:.0%} of the picture's height.",
    )  # fmt: skip


def _light(look: Look) -> Verdict:
    if look.light is None:
        return Verdict("light", "Light", "unknown", "It was not read on this clip.")
    if look.light < DARK:
        return Verdict("light", "Light", "poor", "The rider is dark.", "Joints of one colour run together.", "Film with the sun behind you, and set the exposure on the rider.")  # fmt: skip
    if look.light > GLARE:
        return Verdict("light", "Light", "poor", "The rider is washed out.", "Edges of the body are lost.", "Set the exposure on the rider, one step darker.")  # fmt: skip
    return Verdict("light", "Light", "good", "The rider is well lit.")


def _view(look: Look, book: Playbook) -> Verdict:
    if look.view not in VIEW_WORDS:
        asked = (
            f"{look.doubt[:1].upper()}{look.doubt[1:]}."
            if look.doubt
            else "Nobody said from where it was filmed; the picture shows it when the rider is followed."
        )
        return Verdict(
            "view", "View", "poor" if look.doubt else "fair", asked, "Nothing is judged before this is settled." if look.doubt else "",
            "Answer the question on the Bench." if look.doubt else "",
        )  # fmt: skip
    off = abs(look.offset_deg)
    words = f"Seen {VIEW_WORDS[look.view]}" + (f", {off:.0f}° off it." if off >= 1 else ".")
    if look.off_line_deg is not None:
        stands, u = look.off_line_deg
        off = max(off, abs(stands))
        words += f" By the rider's body the camera stands {abs(stands):.0f} ± {2 * u:.0f}° off that line."
    if look.doubt:
        doubt = f"{look.doubt[:1].upper()}{look.doubt[1:]}."
        return Verdict(
            "view",
            "View",
            "poor",
            doubt,
            "Nothing is judged before this is settled.",
            "Answer the question on the Bench.",
        )
    hidden = [
        REGISTRY[m].title for m in judged(book) if not _shown(m, look.view, book.sideways, look.ice)
    ]
    hides = (
        f"It cannot show {_join([h[0].lower() + h[1:] for h in hidden[:5]])}{' and more' * (len(hidden) > 5)}."
        if hidden
        else ""
    )
    if look.strain is not None and (off > VIEW_LIMIT_DEG or look.view == "oblique"):
        return Verdict(
            "view", "View", "fair", f"{words} The rider is read in space.",
            "What lies along the line of sight is known less well: numbers are wider than from straight ahead, behind or beside.",
            "Stand in line with a view.",
        )  # fmt: skip
    if off > VIEW_LIMIT_DEG:
        return Verdict(
            "view",
            "View",
            "poor",
            words,
            "Angles in the plane of the picture are not given this far off.",
            "Stand in line with that view.",
        )
    if look.view == "oblique":
        if look.ice and book.family == "trace":
            return Verdict(
                "view",
                "View",
                "fair",
                f"{words} The trace is read by the four corners on the ice.",
                hides,
                "Film from the side too.",
            )
        corners = " For the trace, mark the four corners of a rectangle on the ice." * (
            book.family == "trace"
        )
        return Verdict(
            "view",
            "View",
            "poor",
            words,
            hides,
            f"Stand straight ahead, behind or beside.{corners}",
        )
    return Verdict(
        "view",
        "View",
        "good" if off <= 10 else "fair",
        words,
        hides,
        "" if off <= 10 else "Stand more in line with that view.",
    )


def _level(look: Look) -> Verdict:
    if not look.levelled and look.turned_deg is not None:
        words = (
            f"By the ride itself the picture is turned by {look.turned_deg:.1f} ± {2 * look.roll_u_deg:.1f}°; it was levelled so."
            if look.turned_deg
            else f"By the ride itself the picture stands upright, to ±{2 * look.roll_u_deg:.1f}°."
        )
        return Verdict(
            "level", "Level", "fair" if look.turned_deg else "good", words, "",
            "Hold the camera level." if look.turned_deg else "",
        )  # fmt: skip
    if not look.levelled:
        return Verdict(
            "level", "Level", "unknown", f"The camera is taken as level to ±{2 * look.roll_u_deg:.0f}°.",
            "Every lean has at least that ±. Mark the horizon or something plumb to narrow it.", "Hold the camera level; keep a pole or building in the picture.",
        )  # fmt: skip
    return Verdict("level", "Level", "good", f"Levelled by a mark, to ±{2 * look.roll_u_deg:.1f}°.")


def _followed(look: Look) -> list[Verdict]:
    """How well the body was followed, by limbs that should keep their length."""
    if look.strain is None:
        return []
    words = f"Limbs keep their length to {100 * look.strain:.0f} % from frame to frame"
    if look.strain <= STEADY_LIMBS:
        return [Verdict("body", "Following", "good", f"{words}: the rider is followed well.")]
    return [
        Verdict(
            "body", "Following", "fair" if look.strain <= ROUGH_LIMBS else "poor", f"{words}: the rider is followed roughly.",
            "Every number of the body is wider for it.", "Film closer and sharper, with nothing passing in front.",
        )
    ]  # fmt: skip


def _lens(look: Look) -> Verdict:
    if not look.lens:
        return Verdict(
            "lens", "Lens", "unknown", "Taken as a lens that keeps straight lines straight.",
            "A wide lens bends lines near the picture's edge and makes long things look longer.",
            "Film with the main lens, not the wide one, and keep the rider near the middle.",
        )  # fmt: skip
    return Verdict("lens", "Lens", "good", f"Corrected by {look.lens}.")


def judged(book: Playbook, wanted: Collection[str] = ()) -> list[str]:
    """Measures that a playbook's faults are judged by, in its order; only ``wanted`` ones where given."""
    used = dict.fromkeys(
        leaf.measure
        for f in book.faults.values()
        for leaf in f.when.leaves()
        if leaf.measure in REGISTRY and leaf.measure is not None
    )
    return [m for m in used if not wanted or m in wanted]


def _shown(measure: str, view: str, board: bool, ice: bool = False) -> bool:
    m = REGISTRY[measure]
    views = m.seen_from(board)
    return not views or view in views or (ice and view == "oblique" and on_the_ice(m))


def _join(words: list[str]) -> str:
    return (
        words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}" if words else ""
    )


@dataclass(frozen=True)
class Plan:
    """Where to stand and how to set the camera. Distances in metres, ``shutter`` the n of 1/n s."""

    view: str
    shows: tuple[str, ...]
    distance_m: float
    height_m: float
    zoom: float
    across_m: float
    rider_px: float
    fps: int
    time_pm_s: float
    shutter: int
    blur_px: float
    words: tuple[str, ...]


def plans(book: Playbook, wanted: Collection[str] = (), speed_ms: float | None = None, stature_m: float = 1.75,
          picture_px: int = 1080) -> list[Plan]:  # fmt: skip
    """The fewest views that show all wanted measures, the one that shows most first, each with its settings.

    ``wanted``: measure ids; without them, all that the playbook judges by.
    """
    left = [m for m in judged(book, wanted) if ONLY_3D not in REGISTRY[m].seen_from(book.sideways)]
    speed, unit_s = speed_ms or book.speed_ms, book.unit_s
    out: list[Plan] = []
    while left and len(out) < 4:
        views = {
            v: [m for m in left if _shown(m, v, book.sideways)]
            for v in VIEW_WORDS
            if v not in ("oblique", ONLY_3D)
        }
        view = max(views, key=lambda v: len(views[v]))
        if not views[view]:
            break
        out.append(
            _plan(
                view,
                tuple(REGISTRY[m].title for m in views[view]),
                speed,
                unit_s,
                stature_m,
                picture_px,
            )
        )
        left = [m for m in left if m not in views[view]]
    return out


def _plan(
    view: str,
    shows: tuple[str, ...],
    speed: float,
    unit_s: float,
    stature_m: float,
    picture_px: int,
) -> Plan:
    beside = view.startswith("side")
    # Beside, two units are passed within the swing; ahead or behind, the rider's size may halve over two units.
    run_m = 2 * speed * unit_s
    distance = run_m / 2 / math.tan(math.radians(SWING_DEG)) if beside else 1.5 * run_m
    distance = min(max(distance, NEAREST_M), FARTHEST_M)
    height = stature_m / FILL
    zoom = min(max(picture_width(distance, SENSOR_MM, PHONE_MM) * 9 / 16 / height, 1.0), MOST_ZOOM)
    across = picture_width(distance, SENSOR_MM, PHONE_MM * zoom)
    metres_per_px = across * 9 / 16 / picture_px
    # A panning camera takes the rider's own speed away; limbs still move at about a third of it across the picture.
    moving = max(speed / 3, 2.0)
    shutter = next(
        (n for n in SHUTTERS if 1 / n <= slowest_shutter(moving, metres_per_px)), SHUTTERS[-1]
    )
    fps = next((r for r in RATES if time_pm(r) <= 0.015 * max(unit_s, 1.0)), RATES[-1])
    rider_px = stature_m / metres_per_px
    aim = {
        "front": "ahead of the run, where the rider comes straight at you", "rear": "behind, in line with the run",
        "side_left": "at the rider's left, square to the run", "side_right": "at the rider's right, square to the run",
        "above": "above, looking straight down, as from a bridge, a lift or a drone where it is allowed",
    }[view]  # fmt: skip
    up = distance if view == "above" else 1.0
    words = (
        f"Stand {distance:.0f} m away, {aim}.",
        "Hold the camera level with the rider's hips, about a metre above the surface they ride on." if view != "above" else "Keep the camera's long side along the run.",
        f"Zoom to {zoom:.1f}× of a phone's main lens, so that the picture is {across:.0f} m across and the rider about {rider_px:.0f} pixels tall.",
        f"Film at {fps} frames a second: times come to ±{time_pm(fps):.2g} s.",
        f"Shutter 1/{shutter} s or shorter, so that no joint is smeared over more than {moving / shutter / metres_per_px:.1f} pixels.",
        "Stand where nobody can run into you, and follow the rules of the place.",
    )  # fmt: skip
    return Plan(
        view,
        shows,
        distance,
        up,
        zoom,
        across,
        rider_px,
        fps,
        time_pm(fps),
        shutter,
        moving / shutter / metres_per_px,
        words,
    )
