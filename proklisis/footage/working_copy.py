"""A copy of the clip that browsers step through exactly: H.264, a key frame each 12, true times."""

from __future__ import annotations

import subprocess
from collections.abc import Callable
from pathlib import Path

from proklisis.core.errors import InputError
from proklisis.footage.probe import Clip

KEY_FRAME_EVERY = 12
TALLEST = 720


def make_working_copy(clip: Clip, out: Path, progress: Callable[[float], None] | None = None) -> tuple[int, int]:
    """Write the copy and return its (width, height); ``progress`` is told the share done, 0–1.

    Raises InputError when the clip cannot be converted.
    """
    height = min(clip.height, TALLEST) // 2 * 2
    width = round(clip.width * height / clip.height / 2) * 2
    partial = out.with_name(out.name + ".partial.mp4")
    command = [
        "ffmpeg", "-nostdin", "-v", "error", "-y", "-i", str(clip.path), "-map", "0:v:0", "-an",
        "-vf", f"scale={width}:{height}", "-c:v", "libx264", "-preset", "veryfast", "-crf", "20",
        "-pix_fmt", "yuv420p", "-g", str(KEY_FRAME_EVERY), "-bf", "0",
        # Without these three, frames at an uneven rate would be doubled or dropped.
        "-fps_mode", "passthrough", "-enc_time_base", "-1", "-video_track_timescale", "90000",
        "-movflags", "+faststart", "-progress", "pipe:1", str(partial),
    ]  # fmt: skip
    try:
        with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as run:
            assert run.stdout is not None and run.stderr is not None
            for line in run.stdout:
                if line.startswith("frame=") and progress:
                    progress(min(1.0, int(line[6:]) / len(clip.t)))
            said = run.stderr.read().strip().splitlines()
    except FileNotFoundError as e:
        raise InputError("the program ffmpeg is missing", "", "run ./start; it installs it") from e
    if run.returncode:
        partial.unlink(missing_ok=True)
        last = said[-1] if said else "no reason given"
        raise InputError(f"the clip could not be converted ({last})", clip.path.name, "send the original from the camera again")
    partial.replace(out)
    return width, height
