"""A copy of the clip that browsers step through exactly: H.264, a key frame each 12, true times."""

from __future__ import annotations

import resource
import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import IO

from proklisis.core.errors import InputError
from proklisis.footage.limited import MEMORY_MB
from proklisis.footage.probe import Clip

KEY_FRAME_EVERY = 12
TALLEST = 720
#: Twice the size of the usual preset, at two thirds of its processor time; and quicker to decode.
PRESET = "ultrafast"
#: Processor time that any copy may take, seconds.
CPU_S_BASE = 60
#: Processor time for each frame, which no honest file needs, seconds.
CPU_S_A_FRAME = 0.5
DISK_FULL = "the disk is full"


def make_working_copy(
    clip: Clip, out: Path, progress: Callable[[float], None] | None = None
) -> tuple[int, int]:
    """Write the copy and return its (width, height); ``progress`` is called with the share done, 0–1.

    Raises InputError when the clip cannot be converted.
    """
    height = min(clip.height, TALLEST) // 2 * 2
    width = max(2, round(clip.width * height / clip.height / 2) * 2)
    # A part begins at its first frame: half a frame before it the next one is that very frame.
    into = ["-ss", f"{clip.into - 0.5 * clip.t[1]:.6f}"] if clip.into > 0 else []
    partial = out.with_name(out.name + ".partial.mp4")
    # A file of another camera may start late; the copy's first frame is at 0, as in the index.
    start = f"setpts=PTS-STARTPTS,scale={width}:{height}:flags=fast_bilinear,setsar=1"
    command = [
        "ffmpeg", "-nostdin", "-v", "error", "-y", "-timelimit", str(CPU_S_BASE + int(CPU_S_A_FRAME * len(clip.t))), "-f", clip.container, "-protocol_whitelist", "file",
        *into, "-i", str(clip.path), "-frames:v", str(len(clip.t)), "-map", "0:v:0", "-an", "-vf", start, "-c:v", "libx264", "-preset", PRESET, "-crf", "20",
        "-pix_fmt", "yuv420p", "-g", str(KEY_FRAME_EVERY), "-bf", "0",
        # Without these three, frames at an uneven rate would be doubled or dropped.
        "-fps_mode", "passthrough", "-enc_time_base", "-1", "-video_track_timescale", "90000",
        "-movflags", "+faststart", "-progress", "pipe:1", str(partial),
    ]  # fmt: skip
    # To a file: a damaged clip is complained of in megabytes, and a pipe that nobody reads would stop the work.
    with tempfile.TemporaryFile() as complaints:
        try:
            with subprocess.Popen(
                command, stdout=subprocess.PIPE, stderr=complaints, text=True
            ) as run:
                assert run.stdout is not None
                resource.prlimit(run.pid, resource.RLIMIT_AS, (MEMORY_MB * 2**20,) * 2)
                last = -1
                for line in run.stdout:
                    # Word of no further frame is no word: what hangs is found by its silence.
                    if line.startswith("frame=") and progress and (now := int(line[6:])) != last:
                        progress(min(1.0, now / len(clip.t)))
                        last = now
        except FileNotFoundError as e:
            raise InputError(
                "the program ffmpeg is missing", "", "run ./start; it installs it"
            ) from e
        said = _end_of(complaints)
    if run.returncode:
        partial.unlink(missing_ok=True)
        if any("No space left" in line for line in said):
            raise InputError(
                DISK_FULL,
                clip.path.name,
                "make room on the server's disk and try again; the clip is kept",
            )
        reason = said[-1] if said else "no reason given"
        raise InputError(
            f"the clip could not be converted ({reason})",
            clip.path.name,
            "send the original from the camera again",
        )
    partial.replace(out)
    return width, height


def _end_of(file: IO[bytes]) -> list[str]:
    """The last lines of what was said."""
    file.seek(0, 2)
    file.seek(max(0, file.tell() - 4096))
    return file.read().decode("utf-8", "replace").strip().splitlines()
