"""Write a simulated run as an H.264 MP4; for tests, every frame carries its number."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from proklisis.simulate import fiducial
from proklisis.simulate.render.outfit import Outfit
from proklisis.simulate.render.renderer import Renderer
from proklisis.simulate.run import Simulated

Picture = NDArray[np.uint8]
TIME_BASE = Fraction(1, 90_000)


def write_clip(
    sim: Simulated, path: Path, outfit: Outfit, seed: int = 0, progress: Callable[[int, int], None] | None = None,
    crf: int = 23, numbered: bool = True, touch: Callable[[int, Picture], Picture] | None = None,
) -> None:  # fmt: skip
    """Render every frame of ``sim`` into ``path``, its number painted in a corner or not; ``progress`` is called with (done, all).

    ``touch`` is given each frame's number and picture, and gives back the one that is written.
    """
    times = sim.motion.t
    fps = Fraction(1 / float(times[1] - times[0])).limit_denominator(1001)
    with (
        av.open(str(path), "w", options={"movflags": "+faststart"}) as out,
        Renderer(sim.motion, sim.shot, outfit, seed) as renderer,
    ):
        stream = out.add_stream("libx264", rate=fps)
        stream.width, stream.height, stream.pix_fmt = sim.shot.width, sim.shot.height, "yuv420p"
        stream.codec_context.time_base = TIME_BASE
        stream.options = {"crf": str(crf), "preset": "veryfast", "g": "12", "bf": "0"}
        for i, picture in enumerate(renderer.frames()):
            picture = picture.copy() if touch is None else touch(i, picture)
            if numbered:
                fiducial.paint(picture, i)
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
            frame.pts, frame.time_base = round(float(times[i]) / TIME_BASE), TIME_BASE
            out.mux(stream.encode(frame))
            if progress:
                progress(i + 1, len(times))
        out.mux(stream.encode(None))
