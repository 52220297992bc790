"""What a sender agrees to, and what they are told of their clip."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from proklisis.core.filming import SMALL_PX, TALL_PX

#: The version of the text below; what somebody agreed to is kept with it.
VERSION = "sending/1"
TEXT = (
    "{club} may keep this clip, measure how I ride in it, and answer me on a page of my own that opens by its link. Only "
    "coaches and helpers of {club} see it; nothing is shown to others. I can take the clip back here, and ask the club at any time to "
    "erase all that it keeps of me."
)
GUARDIAN = "I am the guardian of this rider and agree for them."
NOT_KNOWN = "Nobody can be found in this clip. Film nearer, with the whole body in the picture, and send another one."
TAKEN_BACK = "You took this clip back."
#: Fewer pictures a second than this blur what happens within a turn (common practice).
FEW_FPS = 45.0
#: A clip shorter than this holds hardly a turn, seconds (common practice).
SHORT_S = 3.0


def advice(fps: float, length_s: float, heights: Sequence[float], people: int) -> list[str]:
    """What to film better next time, in sentences, the weightiest first.

    ``heights`` of the likeliest rider where they were seen, in pixels of the clip; ``people`` in the picture.
    """
    tall = float(np.median(heights)) if len(heights) else 0.0
    out = []
    if tall < SMALL_PX:
        out.append(
            f"You are only about {tall:.0f} pixels tall in it, so that little can be measured: stand nearer or zoom in, to about "
            f"{TALL_PX} pixels."
        )
    elif tall < TALL_PX:
        out.append(f"Zoom in a little more next time: you are about {tall:.0f} pixels tall, {TALL_PX} are better.")  # fmt: skip
    if fps < FEW_FPS:
        out.append(
            f"It has {fps:.0f} pictures a second. Set the camera to 60 or more, so that quick movements are seen."
        )
    if length_s < SHORT_S:
        out.append(f"It is {length_s:.1f} s long. Film the whole run, or at least four turns or tricks.")  # fmt: skip
    if people > 1:
        out.append(
            f"{people} people are in it. Film one at a time, or write what you wear with what you were trying."
        )
    return out
