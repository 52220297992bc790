"""A Telling laid out in time: which frame is shown when, what lies over it, what is read and heard."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping
from typing import Any

import numpy as np

from proklisis.core.errors import InputError
from proklisis.core.measures.lines import line_points
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.shapes.telling import (
    Act,
    Caption,
    Drawn,
    Heard,
    Mark,
    Measured,
    Overlay,
    PairOver,
    PairShown,
    Passage,
    Played,
    Stretch,
    Telling,
)
from proklisis.core.telling.seen import Seen

#: Frames a second of a told film.
FPS = 30
#: Limbs of an outline, as pairs of points.
LIMBS = (
    ("l_shoulder", "r_shoulder"), ("l_hip", "r_hip"), ("l_shoulder", "l_hip"), ("r_shoulder", "r_hip"),
    ("l_shoulder", "l_elbow"), ("l_elbow", "l_wrist"), ("r_shoulder", "r_elbow"), ("r_elbow", "r_wrist"),
    ("l_hip", "l_knee"), ("l_knee", "l_ankle"), ("r_hip", "r_knee"), ("r_knee", "r_ankle"),
)  # fmt: skip


def played(telling: Telling, seen: Seen) -> Played:
    """Lay a Telling out. Raises InputError for an act beyond the run's frames, or of a measure that is not known."""
    _check(telling, seen)
    stretches = _stretches(telling, seen)
    overlays: list[Overlay] = []
    captions: list[Caption] = []
    heard: list[Heard] = []
    begin = 0.0
    for p in telling["passages"]:
        end = begin + p["length_s"]
        for act in p["acts"]:
            if act["act"] == "stop" or act["act"] == "play":
                continue
            over = {"from_s": begin + act["at_s"], "to_s": min(begin + act["until_s"], end)}
            if over["to_s"] > over["from_s"]:
                overlays.append(_overlay(act, over, stretches, seen))
        if p["caption"].strip():
            captions.append({"from_s": begin, "to_s": end, "text": p["caption"].strip()})
        sound = p.get("sound")
        if sound and sound["to_s"] > sound["from_s"]:
            to = min(sound["to_s"], sound["from_s"] + p["length_s"])
            heard.append({"at_s": begin, "recording": sound["recording"], "from_s": sound["from_s"], "to_s": to})  # fmt: skip
        begin = end
    return {
        "length_s": begin, "stretches": stretches, "overlays": overlays, "captions": captions, "heard": heard,
    }  # fmt: skip


def fitted(telling: Telling, seen: Seen) -> Telling:
    """A Telling of a clip that was cut since, as far as it can still be shown: frames beyond the last are the last."""
    last = seen.last()

    def fit(act: Act) -> Act:
        said: dict[str, Any] = dict(act)
        for key in ("frame", "to_frame"):
            if key in said:
                said[key] = min(said[key], last)
        if "rows" in said:
            said["rows"] = [r for r in said["rows"] if r["frame"] <= last]
        return said  # type: ignore[return-value]

    def shown(act: Act) -> bool:
        if act["act"] == "pair":
            return act["rows"][0]["frame"] <= last
        return act["act"] != "measure" or act["measure"] in REGISTRY

    passages: list[Passage] = [
        {**p, "acts": [fit(a) for a in p["acts"] if shown(a)]} for p in telling["passages"]
    ]
    return {**telling, "passages": passages}


def frame_at(stretches: list[Stretch], t: float, times: Seen) -> int:
    """The frame that is shown ``t`` seconds after the Telling's begin."""
    if not stretches:
        return 0
    k = max(bisect_right([s["from_s"] for s in stretches], t) - 1, 0)
    s = stretches[k]
    if s["speed"] == 0:
        return s["frame"]
    way = (t - s["from_s"]) * s["speed"]
    at = float(times.t[s["frame"]]) + way
    return min(times.at(at), s["to_frame"])


def film_rows(lay: Played, seen: Seen) -> list[int]:
    """The frame of the run in each frame of a told film, at the middle of its time."""
    count = max(1, round(lay["length_s"] * FPS))
    return [frame_at(lay["stretches"], (i + 0.5) / FPS, seen) for i in range(count)]


def _check(telling: Telling, seen: Seen) -> None:
    for i, p in enumerate(telling["passages"]):
        for j, act in enumerate(p["acts"]):
            where = f"passages.{i}.acts.{j}"
            said: Mapping[str, Any] = act
            for key in ("frame", "to_frame"):
                if said.get(key, 0) > seen.last():
                    raise InputError(
                        f"frame {said[key]} is beyond the run's last, {seen.last()}", f"{where}.{key}", "choose a frame of the run"
                    )  # fmt: skip
            if act["act"] == "play" and act["to_frame"] < act["frame"]:
                raise InputError("it ends before it begins", f"{where}.to_frame", "play forward")
            if act["act"] == "pair":
                _check_rows(act, seen, where)
            if act["act"] == "measure" and act["measure"] not in REGISTRY:
                raise InputError(f"{act['measure']!r} is no measure", f"{where}.measure", "choose one that was read")  # fmt: skip


def _check_rows(act: PairShown, seen: Seen, where: str) -> None:
    own = [r["frame"] for r in act["rows"]]
    if own != sorted(set(own)):
        raise InputError("its frames do not go forward", f"{where}.rows", "put them in order")
    if own[-1] > seen.last():
        raise InputError(
            f"frame {own[-1]} is beyond the run's last, {seen.last()}",
            f"{where}.rows",
            "choose a frame of the run",
        )
    if any(b[k] <= 0 for r in act["rows"] for b in (r["box"], r["other_box"]) for k in (2, 3)):
        raise InputError(
            "a part of the picture has no size", f"{where}.rows", "give left, top, width and height"
        )


def _stretches(telling: Telling, seen: Seen) -> list[Stretch]:
    out: list[Stretch] = []
    begin = 0.0

    def put(at: float, frame: int, to: int, speed: float) -> None:
        if out:
            last = out[-1]
            last["to_s"] = min(last["to_s"], at) if last["speed"] else at
            if last["to_s"] <= last["from_s"]:
                out.pop()
            elif last["to_s"] < at:  # it played to its end and stands
                out.append({"from_s": last["to_s"], "to_s": at, "frame": last["to_frame"], "to_frame": last["to_frame"], "speed": 0.0})  # fmt: skip
        end = at + float(seen.t[to] - seen.t[frame]) / speed if speed else at
        out.append({"from_s": at, "to_s": end, "frame": frame, "to_frame": to, "speed": speed})

    for p in telling["passages"]:
        for act in sorted(p["acts"], key=lambda a: a["at_s"]):
            at = begin + min(act["at_s"], p["length_s"])
            if act["act"] == "stop":
                put(at, act["frame"], act["frame"], 0.0)
            elif act["act"] == "play":
                put(at, act["frame"], act["to_frame"], act["speed"])
        begin += p["length_s"]
    if not out or out[0]["from_s"] > 0:
        first = out[0]["frame"] if out else 0
        out.insert(0, {"from_s": 0.0, "to_s": out[0]["from_s"] if out else begin, "frame": first, "to_frame": first, "speed": 0.0})  # fmt: skip
    last = out[-1]
    if last["speed"] and last["to_s"] < begin:
        out.append({"from_s": last["to_s"], "to_s": begin, "frame": last["to_frame"], "to_frame": last["to_frame"], "speed": 0.0})  # fmt: skip
    else:
        last["to_s"] = begin
    return [s for s in out if s["to_s"] > s["from_s"]]


def _shown(stretches: list[Stretch], over: dict[str, float], seen: Seen) -> list[int]:
    """The frames that are shown while something lies over the picture."""
    out: set[int] = set()
    for s in stretches:
        a, b = max(s["from_s"], over["from_s"]), min(s["to_s"], over["to_s"])
        if b <= a and not (s["from_s"] <= over["from_s"] < s["to_s"]):
            continue
        first, last = (frame_at([s], t, seen) for t in (a, max(a, b)))
        out |= set(range(first, last + 1))
    return sorted(out)


def _overlay(act: Act, over: dict[str, float], stretches: list[Stretch], seen: Seen) -> Overlay:
    out: Overlay = {
        "from_s": over["from_s"],
        "to_s": over["to_s"],
        "marks": {},
        "figure": "",
        "title": "",
        "lines": [],
    }
    if act["act"] == "figure":
        out["figure"] = act["fault"]
    elif act["act"] == "card":
        out["title"], out["lines"] = act["title"], list(act["lines"])
    elif act["act"] == "ghost":
        limbs: list[Mark] = [
            {"kind": "body", "points": [act["joints"][a], act["joints"][b]], "words": "", "tone": "ghost"}
            for a, b in LIMBS if a in act["joints"] and b in act["joints"]
        ]  # fmt: skip
        out["marks"] = {act["frame"]: limbs}
    elif act["act"] == "pair":
        out["pair"] = _beside(act, _shown(stretches, over, seen))
    elif act["act"] == "measure":
        for frame in _shown(stretches, over, seen):
            out["marks"][frame] = _line(act, frame, seen)
    elif act["act"] == "draw":
        frames = _shown(stretches, over, seen)
        out["marks"] = {frame: _drawn(act, frame, seen) for frame in frames}
    return out


def _beside(act: PairShown, frames: list[int]) -> PairOver:
    """The other half of each frame, evenly between the rows of an act and as at their ends beyond them."""
    rows = act["rows"]
    own = np.array([r["frame"] for r in rows], float)
    other = np.array([r["other"] for r in rows], float)
    boxes = {k: np.array([r[k] for r in rows], float) for k in ("box", "other_box")}

    def at(values: Any, frame: int) -> float:
        return float(np.interp(frame, own, values))

    def box(key: str, frame: int) -> list[float]:
        return [round(at(boxes[key][:, k], frame), 1) for k in range(4)]

    return {
        "run": act["run"], "made": act["made"], "mirror": act["mirror"], "words": list(act["words"]),
        "at": {
            f: {"other": round(at(other, f)), "box": box("box", f), "other_box": box("other_box", f)} for f in frames
        },
    }  # fmt: skip


def _line(act: Measured, frame: int, seen: Seen) -> list[Mark]:
    side = seen.outside.get(act["unit"] or 0) or "l"
    points = [seen.point(n, frame) for n in line_points(act["measure"], side, act["limb"])]
    line = [[round(float(x), 1) for x in p] for p in points if p is not None]
    if len(line) < 2:
        return [{"kind": "text", "points": [], "words": act["words"], "tone": "measure"}]
    return [{"kind": "line", "points": line, "words": act["words"], "tone": "measure"}]


def _drawn(act: Drawn, frame: int, seen: Seen) -> list[Mark]:
    """A drawing where it stands in a frame."""
    points = np.asarray(act["points"], float)
    if act["follows"]:
        was, now = seen.middle(act["frame"]), seen.middle(frame)
        if was is not None and now is not None:
            points = points + (now - was)
    kinds = {"angle": "line", "free": "line"}
    kind = kinds.get(act["kind"], act["kind"])
    placed = [[round(float(x), 1) for x in p] for p in points]
    return [{"kind": kind, "points": placed, "words": act["words"], "tone": "coach"}]  # type: ignore[typeddict-item]
