"""What a camera can show of a rider, and where to stand."""

from __future__ import annotations

import math
from collections.abc import Mapping

from proklisis.core.physics.optics import (
    blur_px,
    picture_width,
    seen_tilt,
    slowest_shutter,
    true_tilt,
)
from proklisis.core.reckoner.declared import (
    Calculator,
    Known,
    Number,
    Plot,
    Quantities,
    quantity,
    rule,
)
from proklisis.core.reckoner.words import plain, with_u
from proklisis.core.uncertainty import interval_u

#: Rider from which the body is followed well, pixels high (measured on simulated clips).
ENOUGH_PX = 300.0
#: Blur from which joints are smeared, pixels (house choice).
BLURRED_PX = 3.0
#: A difference in time that shall be told where none is said: 0.13 from 0.15 s a turn, s (common practice).
TELL_S = 0.02


class CameraOf(Quantities):
    distance_m: Number = quantity("Distance to the rider", "m", gt=0, le=2000, span=(1.0, 500.0))
    zoom: Number = quantity("Zoom", default=1.0, gt=0, le=100, span=(0.5, 30.0))
    fov_deg: Number = quantity("Field of view across, at zoom 1", "deg", gt=0, lt=180, span=(5.0, 150.0))  # fmt: skip
    sensor_mm: Number = quantity("Sensor's width, in place of the field of view", "mm", gt=0, le=100, span=(2.0, 60.0))  # fmt: skip
    focal_mm: Number = quantity("Focal length at zoom 1", "mm", gt=0, le=3000, span=(1.0, 1000.0))
    width_px: Number = quantity("Picture's width", "px", fact="width_px", gt=0, le=20_000, span=(320.0, 8000.0))  # fmt: skip
    fps: Number = quantity("Frame rate", "hz", fact="fps", gt=0, le=1e5, span=(10.0, 2000.0))
    shutter_s: Number = quantity("Shutter", "s", gt=0, le=1, span=(1e-5, 0.2))
    rider_m: Number = quantity("Rider's height", "m", fact="height_m", gt=0, le=3, span=(0.5, 2.5))
    speed_ms: Number = quantity("Speed across the picture", "m/s", condition="speed_ms", gt=0, le=80, span=(0.5, 50.0))  # fmt: skip
    off_view_deg: Number = quantity("Camera off the ideal view", "deg", fact="view_offset_deg", ge=0, lt=90, span=(0.0, 85.0))  # fmt: skip
    tilt_deg: Number = quantity("Tilt to be read", "deg", ge=0, lt=90, span=(0.0, 89.0))
    tell_s: Number = quantity("Difference in time to be told", "s", default=TELL_S, gt=0, le=10, span=(0.001, 1.0))  # fmt: skip
    picture_m: Number = quantity("Picture's width at the rider", "m", gt=0)
    rider_px: Number = quantity("Rider in the picture", "px", gt=0)
    blur_px: Number = quantity("Motion blur", "px", ge=0)
    interval_u_s: Number = quantity("Standard uncertainty of an interval", "s", gt=0)
    tilt_seen_deg: Number = quantity("Tilt as it is seen", "deg", ge=0, lt=90)
    fps_needed: Number = quantity("Rate that tells the difference", "hz", gt=0)


def _picture(distance_m: float, fov_deg: float, zoom: float) -> float:
    return 2 * distance_m * math.tan(math.radians(fov_deg) / 2) / zoom


def _rate(tell_s: float) -> float:
    """Rate at which two intervals that differ by so much are told apart: U of their difference is as large."""
    one = interval_u(1.0)
    return 2 * math.sqrt(2) * one / tell_s


def _says(k: Known, u: Mapping[str, float]) -> list[str]:
    out = []
    if "rider_px" in k:
        few = k["rider_px"] < ENOUGH_PX
        out.append(f"The rider is {with_u(k['rider_px'], u['rider_px'], 'px')} high" + (f"; from {ENOUGH_PX:g} px on the body is followed well: stand at {plain(k['distance_m'] * k['rider_px'] / ENOUGH_PX)} m, or zoom in {plain(ENOUGH_PX / k['rider_px'])} times." if few else ", enough to follow the body well."))  # fmt: skip
    elif "picture_m" in k:
        out.append(f"The picture is {with_u(k['picture_m'], u['picture_m'], 'm')} wide at the rider.")  # fmt: skip
    if "blur_px" in k:
        longest = slowest_shutter(k["speed_ms"], k["picture_m"] / k["width_px"])
        out.append(f"Moving across, it smears {with_u(k['blur_px'], u['blur_px'], 'px')}" + (f": take 1/{math.ceil(1 / longest)} s or faster." if k["blur_px"] > BLURRED_PX else "."))  # fmt: skip
    if "interval_u_s" in k:
        out.append(f"A time read off frames is good to ±{plain(2 * k['interval_u_s'], 2)} s; {plain(k['tell_s'])} s is told from {plain(k['fps_needed'])} frames a second on.")  # fmt: skip
    if "tilt_seen_deg" in k:
        out.append(f"Seen {plain(k['off_view_deg'])}° off, {with_u(k['tilt_deg'], u['tilt_deg'], 'deg')} of tilt shows as {with_u(k['tilt_seen_deg'], u['tilt_seen_deg'], 'deg')}.")  # fmt: skip
    return out


CAMERA = Calculator(
    id="camera", title="Camera", doc="How large and how sharp the rider will be, how finely times are read, and what standing off the line does to a tilt.",
    formula="picture = 2·distance·tan(field of view/2) ÷ zoom = distance × sensor ÷ focal length ÷ zoom; rider px = rider ÷ picture × width; blur = speed × shutter × width ÷ picture; u = 1/(fps·√6); tan(seen) = tan(tilt)·cos(off); rate: 2·√2·u = difference",
    source="central projection; an interval read by frames as in JCGM 100, 4.3.7",
    of=CameraOf, answers=("rider_px", "picture_m", "blur_px", "interval_u_s", "tilt_seen_deg", "fps_needed"),
    rules=(
        rule("fov_deg", lambda sensor_mm, focal_mm: math.degrees(2 * math.atan(sensor_mm / (2 * focal_mm)))),
        rule("picture_m", lambda distance_m, sensor_mm, focal_mm, zoom: picture_width(distance_m, sensor_mm, focal_mm) / zoom),
        rule("picture_m", _picture),
        rule("picture_m", lambda rider_m, rider_px, width_px: rider_m * width_px / rider_px),
        rule("rider_px", lambda rider_m, width_px, picture_m: rider_m * width_px / picture_m),
        rule("distance_m", lambda picture_m, fov_deg, zoom: picture_m * zoom / (2 * math.tan(math.radians(fov_deg) / 2))),
        rule("blur_px", lambda speed_ms, shutter_s, picture_m, width_px: blur_px(speed_ms, shutter_s, picture_m / width_px)),
        rule("shutter_s", lambda blur_px, speed_ms, picture_m, width_px: blur_px * picture_m / width_px / speed_ms),
        rule("interval_u_s", lambda fps: interval_u(fps)),
        rule("fps", lambda interval_u_s: interval_u(1.0) / interval_u_s),
        rule("tilt_seen_deg", lambda tilt_deg, off_view_deg: seen_tilt(tilt_deg, off_view_deg)),
        rule("tilt_deg", lambda tilt_seen_deg, off_view_deg: true_tilt(tilt_seen_deg, off_view_deg)),
        rule("fps_needed", _rate),
    ),
    says=_says,
    cautions=lambda k: ["Stand where no rider, boat or falling ski can reach you."] if k.get("distance_m", 99) < 10 else [],
    example={"distance_m": "30 m", "zoom": "3", "fov_deg": "69", "width_px": "1920", "fps": "120", "shutter_s": "1/1000 s", "rider_m": "1.7 m", "speed_ms": "12 m/s", "off_view_deg": "15", "tilt_deg": "40"},
    plots=(Plot("distance_m", "rider_px", ("fov_deg", "zoom", "width_px", "rider_m")), Plot("distance_m", "picture_m", ("fov_deg", "zoom")), Plot("off_view_deg", "tilt_seen_deg", ("tilt_deg",)), Plot("fps", "interval_u_s"), Plot("tell_s", "fps_needed"),),
)  # fmt: skip
