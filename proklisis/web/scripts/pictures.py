"""Stills at the moments that matter, cropped to the rider, with the line that was read drawn on."""

from __future__ import annotations

from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.lines import line_points
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.words import describe_evidence
from proklisis.core.review import playbook
from proklisis.footage.drawn import draw
from proklisis.footage.still import still
from proklisis.web.analysis.payload import drawn_points
from proklisis.web.analysis.reviewing import reviewed
from proklisis.web.analysis.several import clips_of
from proklisis.web.runs.models import Run
from proklisis.web.stored import on_disk
from proklisis.web.telling.telling import frame_of, seen_of

MOST = 3


class Moment(NamedTuple):
    """A picture that goes with a Script: (h, w, 3) RGB, from which run's clip, and its seconds as that run's Bench counts them."""

    picture: NDArray[np.uint8]
    caption: str
    run: int
    t: float


def moments(run: Run, main: dict[str, Any] | None, findings: list[dict[str, Any]]) -> list[Moment]:
    """Up to three pictures, worst first; none where nothing was found."""
    if main is None:
        return []
    evidence = next(f["evidence"] for f in findings if f["fault"] == main["fault"])
    evidence = [e for e in evidence if e["segment"] is not None and e["measure"] in REGISTRY]
    clips = [_Seen(r, numbers) for r, numbers in clips_of(run) if r.clip.working]
    out = []
    for e in sorted(evidence, key=lambda e: -e["p"])[:MOST]:
        shown = next((x for c in clips if (x := c.moment(e)) is not None), None)
        if shown is not None:
            words = describe_evidence(e, playbook(run.discipline).unit)
            out.append(shown._replace(caption=words))
    return out


def chosen_pictures(run: Run, chosen: list[dict[str, Any]]) -> list[Moment]:
    """The pictures that a coach chose, with what was drawn on them."""
    if not chosen or not run.clip.working:
        return []
    seen = seen_of(reviewed(run))
    out = []
    for c in chosen:
        row = min(c["frame"], seen.last())
        picture, scale = frame_of(run, seen, row)
        picture = draw(picture, c["marks"], scale) if c["marks"] else picture
        if c["close"]:
            picture = _crop(picture, {n: seen.xy[row, k] * scale for k, n in enumerate(seen.names)})
        out.append(Moment(picture, c["caption"], run.pk, float(seen.t[row])))
    return out


class _Seen:
    """What one clip of a run shows."""

    def __init__(self, run: Run, numbers: dict[int, int] | None) -> None:
        self.run, self.clip, done = run, run.clip, reviewed(run)

        def joint(n: int | None) -> int | None:
            return n if numbers is None or n is None else numbers.get(n, -1)

        self.times = {(r.id, joint(r.segment), r.phase, r.limb): r.t for r in done.readings}
        self.sides = {joint(t.n): t.outside_foot for t in done.units}
        self.t = done.tracks.t
        self.names, self.xy = drawn_points(done.tracks)

    def moment(self, e: dict[str, Any]) -> Moment | None:
        """The moment at which a value was read, with its line; None where this clip does not show it."""
        t = self.times.get((e["measure"], e["segment"], e["phase"], e["limb"]))
        if t is None:
            return None
        row = int(np.abs(self.t - t).argmin())
        # The file's own clock differs from the run's where it was filmed in slow motion.
        at = float(self.t[row]) * (self.run.filmed_fps or self.clip.fps) / self.clip.fps
        with on_disk(self.clip.working) as path:
            picture = still(path, at)
        scale = self.clip.play_width / self.clip.width
        here = {n: self.xy[row, k] * scale for k, n in enumerate(self.names)}
        side = self.sides.get(e["segment"]) or "l"
        points = [here.get(n) for n in line_points(e["measure"], side, e["limb"])]
        line = [list(map(float, p)) for p in points if p is not None and np.isfinite(p).all()]
        if len(line) > 1:
            picture = draw(picture, [{"kind": "line", "points": line, "words": "", "tone": "measure"}])  # fmt: skip
        return Moment(_crop(picture, here), "", self.run.pk, float(self.t[row]))


def _crop(picture: NDArray[np.uint8], here: dict[str, Any]) -> NDArray[np.uint8]:
    """The rider with room around them, in a shape that suits a phone."""
    h, w = picture.shape[:2]
    body = np.array(
        [
            p
            for n, p in here.items()
            if np.isfinite(p).all() and not n.startswith(("surface", "fall", "horizon"))
        ]
    )
    if not len(body):
        return picture
    centre = (body.min(axis=0) + body.max(axis=0)) / 2
    half = max(0.75 * float((body.max(axis=0) - body.min(axis=0)).max()), 90.0)
    half = min(half, h / 2, w / 2)
    cx, cy = np.clip(centre[0], half, w - half), np.clip(centre[1], half, h - half)
    return picture[int(cy - half) : int(cy + half), int(cx - half) : int(cx + half)]


def jpeg(picture: NDArray[np.uint8]) -> bytes:
    ok, data = cv2.imencode(".jpg", picture[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88])
    assert ok
    return bytes(data)
