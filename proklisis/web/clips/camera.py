"""What a coach marks of the camera on a run, and what it makes of the clip's facts."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from rest_framework import serializers

from proklisis.core.camera.calibrate import (
    lens_from_lines,
    lens_from_view,
    level_from_line,
    scale_from_length,
)
from proklisis.core.camera.projection import undistort_radial
from proklisis.core.errors import InputError
from proklisis.core.rider.ground import check_plane, metres_per_px
from proklisis.core.tracks.by_hand import hand_u
from proklisis.core.tracks.tracks import SOURCES, Plane, Tracks
from proklisis.web.runs.models import Run

PRESETS = {
    "normal": (69.0, False, "a phone's main lens"),
    "wide": (106.0, False, "a phone's wide lens"),
    "action": (120.0, True, "a wide action lens"),
}
#: How well a coach says by hand how askew a picture is, degrees.
HAND_ROLL_U = 1.0
#: Two points of the scene, marked in one frame and carried through the others with the ground.
SCENE = {"surface": ("surface_a", "surface_b"), "fall": ("fall_a", "fall_b")}


class Points(serializers.ListField):
    child = serializers.ListField(
        child=serializers.FloatField(min_value=-10000, max_value=20000), min_length=2, max_length=2
    )


class LevelSerializer(serializers.Serializer[Any]):
    by = serializers.ChoiceField(["horizon", "plumb", "hand"])
    frame = serializers.IntegerField(min_value=0, required=False)
    points = Points(required=False)
    roll_deg = serializers.FloatField(min_value=-45, max_value=45, required=False)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        if attrs["by"] == "hand" and "roll_deg" not in attrs:
            raise serializers.ValidationError({"roll_deg": "Say by how many degrees."})
        return attrs


class LensSerializer(serializers.Serializer[Any]):
    by = serializers.ChoiceField([*PRESETS, "view", "lines"])
    across_deg = serializers.FloatField(required=False)
    fisheye = serializers.BooleanField(required=False)
    lines = serializers.ListField(child=Points(), required=False)


class ScaleSerializer(serializers.Serializer[Any]):
    """A known length in one frame; or the fall of the body in the air, which the software has read itself."""

    by = serializers.ChoiceField(["length", "fall"], required=False)
    frame = serializers.IntegerField(min_value=0, required=False)
    points = Points(required=False)
    metres = serializers.FloatField(required=False)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        if attrs.get("by") != "fall":
            for name in ("frame", "points", "metres"):
                if name not in attrs:
                    raise serializers.ValidationError({name: "This field is required."})
        return attrs


class SceneLineSerializer(serializers.Serializer[Any]):
    frame = serializers.IntegerField(min_value=0)
    points = Points(min_length=2, max_length=2)


class PlaneSerializer(serializers.Serializer[Any]):
    """Four corners of a rectangle on the ice, one after the other, and its first two sides."""

    frame = serializers.IntegerField(min_value=0)
    points = Points(min_length=4, max_length=4)
    sides_m = serializers.ListField(
        child=serializers.FloatField(min_value=0.05, max_value=200), min_length=2, max_length=2
    )


class CameraSerializer(serializers.Serializer[Any]):
    """Marks of the camera in pixels of the upright clip; a part that is null is taken back."""

    level = LevelSerializer(required=False, allow_null=True)
    lens = LensSerializer(required=False, allow_null=True)
    scale = ScaleSerializer(required=False, allow_null=True)
    surface = SceneLineSerializer(required=False, allow_null=True)
    fall = SceneLineSerializer(required=False, allow_null=True)
    plane = PlaneSerializer(required=False, allow_null=True)


def camera_facts(
    camera: dict[str, Any], width: int, height: int
) -> tuple[dict[str, Any], dict[str, str]]:
    """Facts of the clip from the marks, and each part in words. InputError where a mark cannot be."""
    facts: dict[str, Any] = {}
    words: dict[str, str] = {}
    if level := camera.get("level"):
        if level["by"] == "hand":
            roll, u = float(level.get("roll_deg", 0.0)), HAND_ROLL_U
        else:
            found = level_from_line(level.get("points", []), width, plumb=level["by"] == "plumb")
            roll, u = found.roll_deg, found.u_deg
        facts |= {"roll_deg": roll, "roll_u_deg": u}
        words["level"] = f"The picture is turned by {roll:.1f} ± {2 * u:.1f}°."
    if given := camera.get("lens"):
        if given["by"] == "lines":
            lens = lens_from_lines(given.get("lines", []), width, height)
            words["lens"] = (
                f"The lens shifts points at the side edges by {abs(lens.k1) * 12.5:.1f} % of the picture's width; the marks are straight to {lens.u_px:.1f} pixels."
            )
        else:
            across, fisheye, name = PRESETS.get(
                given["by"],
                (given.get("across_deg") or 0.0, bool(given.get("fisheye")), "the stated view"),
            )
            lens = lens_from_view(across, width, fisheye)
            words["lens"] = f"Taken as {name}, {across:.0f}° across."
        facts |= {"focal_px": lens.focal_px, "k1": lens.k1, "k2": lens.k2}
    if scale := camera.get("scale"):
        if scale.get("by") == "fall":
            px, rel, how = scale["px_per_m"], scale["rel_u"], "by the fall of the body in the air"
        else:
            px, rel = scale_from_length(scale["points"], scale["metres"], width)
            how = "where it was marked"
        facts |= {"px_per_m": px, "px_per_m_rel_u": rel}
        words["scale"] = f"{px:.0f} ± {2 * rel * px:.0f} pixels a metre {how}."
    if plane := camera.get("plane"):
        check_plane(
            given := Plane(corners=plane["points"], sides_m=plane["sides_m"], u_px=hand_u(width))
        )
        a, b = plane["sides_m"]
        words["plane"] = (
            f"A rectangle of {a:g} × {b:g} m is marked on the ice in frame {plane['frame']}; a place in its middle is known "
            f"to ± {200 * given.u_px * metres_per_px(given):.0f} cm. It is used where the clip is filmed obliquely."
        )
    for part, what in (("surface", "surface"), ("fall", "fall line")):
        if camera.get(part):
            words[part] = (
                f"The {what} is marked in frame {camera[part]['frame']} and goes with the ground."
            )
    return facts, words


def with_scene(tracks: Tracks, camera: dict[str, Any]) -> Tracks:
    """Tracks with the surface, the fall line and the corners on the ice, carried along by the ground's movement in the picture."""
    names, xy, u, source = list(tracks.names), tracks.xy, tracks.u, tracks.source
    drift = (
        tracks.point("scene_drift") if "scene_drift" in tracks.index else np.zeros((len(tracks), 2))
    )

    def row_of(part: str) -> int:
        row = int(np.searchsorted(tracks.frames, camera[part]["frame"]))
        if row >= len(tracks):
            raise InputError(
                f"there is no frame {camera[part]['frame']}",
                part,
                f"frames go from 0 to {tracks.frames[-1]}",
            )
        return row

    if plane := camera.get("plane"):
        f = tracks.facts
        corners = undistort_radial(
            np.asarray(plane["points"], float),
            f.focal_px or f.width,
            np.array([f.width, f.height]) / 2,
            f.k1,
            f.k2,
        )
        corners = corners - np.nan_to_num(drift[row_of("plane")])
        tracks = tracks.with_facts(
            plane={
                "corners": corners.tolist(),
                "sides_m": plane["sides_m"],
                "u_px": hand_u(f.width),
            }
        )
    for part, points in SCENE.items():
        mark = camera.get(part)
        if not mark:
            continue
        row = row_of(part)
        for name, point in zip(points, mark["points"], strict=True):
            path = np.asarray(point, float) + drift - drift[row]
            if name in names:
                k = names.index(name)
                xy, u = np.delete(xy, k, axis=1), np.delete(u, k, axis=1)
                source = np.delete(source, k, axis=1)
                names.remove(name)
            names.append(name)
            xy = np.concatenate([xy, path[:, None]], axis=1)
            u = np.concatenate([u, np.full((len(tracks), 1), hand_u(tracks.facts.width))], axis=1)
            source = np.concatenate(
                [source, np.full((len(tracks), 1), SOURCES.index("marked"), np.uint8)], axis=1
            )
    if tuple(names) == tracks.names:
        return tracks
    return replace(tracks, names=tuple(names), xy=xy, u=u, source=source)


def fall_scale(run: Run) -> tuple[float, float] | None:
    """Pixels per metre and their standard uncertainty by the fall in the air, as last worked out."""
    found = run.result.bench.get("fallen") if hasattr(run, "result") else None
    # In a clip that plays slower than life everything falls too slowly.
    if not found or found[0] <= 0 or run.result.bench.get("plays_slower"):
        return None
    return float(found[0]), float(found[1])


def checked(run: Run, camera: dict[str, Any]) -> dict[str, Any]:
    """The run's marks with these parts changed; a part that is null is taken back."""
    merged = {k: v for k, v in {**run.camera, **camera}.items() if v is not None}
    if (camera.get("scale") or {}).get("by") == "fall":
        if (fallen := fall_scale(run)) is None:
            raise InputError(
                "no flight on this clip is long enough to give a scale",
                "scale",
                "mark a known length",
            )
        merged["scale"] = {"by": "fall", "px_per_m": fallen[0], "rel_u": fallen[1] / fallen[0]}
    camera_facts(merged, run.clip.width, run.clip.height)
    return merged
