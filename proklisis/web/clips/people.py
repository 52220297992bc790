"""Who is in a clip, as it is stored: the people who were found, and those whom the coach pointed at.

Each is a dict of equally long lists: ``numbers`` of the frames in which they were seen, ``centres``
and ``heights`` in pixels, and ``boxes`` (left, top, right, bottom). A person whom only the coach
has pointed at is marked ``by_hand``.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError
from proklisis.web.runs.models import Clip

if TYPE_CHECKING:
    from proklisis.footage.people import Seeds, Someone

Array = NDArray[np.float64]
Person = dict[str, Any]
Point = tuple[float, float]
#: A press this near to where somebody was found, in their heights, means that person.
SAME_HEIGHTS = 0.5
#: And this near in time, seconds.
SAME_S = 1.0
#: A rider drawn smaller than this cannot be followed, pixels.
SMALLEST_PX = 24.0
#: A body is so much of its height wide.
WIDE = 0.6


def stored(found: Iterable[Someone]) -> list[Person]:
    return [
        {
            "numbers": p.numbers, "centres": np.round(p.centres, 1).tolist(), "heights": np.round(p.heights, 1).tolist(),
            "boxes": np.round(p.boxes, 1).tolist(),
        }
        for p in found
    ]  # fmt: skip


def seeds(clip: Clip) -> Seeds | None:
    """Where the chosen person is now and then, for the tracker; None where nobody was found or pointed at."""
    # The tracker's modules load for seconds, and only a worker needs them.
    from proklisis.footage.people import seeded

    if not clip.people:
        return None
    who = clip.people[clip.chosen]
    # One whom the search missed is never alone: whoever it would take else is somebody else.
    crowded = len(clip.people) > 1 or bool(who.get("by_hand"))
    return seeded(
        np.array(who["numbers"]),
        np.array(who["centres"]).reshape(-1, 2),
        np.array(who["heights"]),
        crowded,
    )


def shown(clip: Clip) -> list[dict[str, Any]]:
    """Each person with the frame in which their size is the usual one, and their share of the samples."""
    most = max((len(p["numbers"]) for p in clip.people), default=1)
    out = []
    for p in clip.people:
        k = p["heights"].index(sorted(p["heights"])[len(p["heights"]) // 2])
        share = round(len(p["numbers"]) / most, 3)
        out.append(
            {
                "frame": p["numbers"][k],
                "box": p["boxes"][k],
                "share": share,
                "by_hand": bool(p.get("by_hand")),
            }
        )
    return out


def point_at(clip: Clip, frame: int, head: Point, feet: Point) -> int:
    """Take the one who stands from ``feet`` to ``head`` (pixels) in a frame as chosen; return their number.

    That is somebody who was found there, or the one whom the coach has pointed at before, or
    somebody new. Changes ``clip.people`` and ``clip.chosen`` and saves nothing. Raises InputError
    where no rider can be there.
    """
    if not 0 <= frame < clip.frames:
        raise InputError(
            f"the clip has no frame {frame}",
            "mark.frame",
            f"give a number from 0 to {clip.frames - 1}",
        )
    for name, (x, y) in (("head", head), ("feet", feet)):
        if not (0 <= x <= clip.width and 0 <= y <= clip.height):
            raise InputError(
                "the point lies outside the picture", f"mark.{name}", "press inside the picture"
            )
    centre = np.array([(head[0] + feet[0]) / 2, (head[1] + feet[1]) / 2])
    height = float(np.hypot(head[0] - feet[0], head[1] - feet[1]))
    if height < SMALLEST_PX:
        raise InputError(
            f"the rider would be {height:.0f} pixels tall, too small to follow",
            "mark",
            "press the top of the head, then the feet",
        )
    who = _found_there(clip, frame, centre, height)
    if who is None and clip.people and clip.people[clip.chosen].get("by_hand"):
        who = clip.chosen
    if who is None:
        who = _new(clip, frame, centre, height)
    else:
        _add(clip.people[who], frame, centre, height)
    clip.chosen = who
    return who


def aimed_at(clip: Clip, t: Array) -> int:
    """Who is the one that the clip was cut for; the likeliest where it was cut for nobody. ``t``: (frames,) seconds.

    Who was not found there is added to the clip's people, as if a coach had pointed at them; nothing is saved.
    """
    if not clip.aim:
        return 0
    left, top, right, bottom = clip.aim["box"]
    frame = int(np.abs(t - (clip.aim["s"] - (clip.from_s or 0.0))).argmin())
    there, tall = np.array([(left + right) / 2, (top + bottom) / 2]), bottom - top
    found = _found_there(clip, frame, there, tall)
    if found is not None or tall < SMALLEST_PX:
        return found or 0
    return _new(clip, frame, there, tall)


def _new(clip: Clip, frame: int, centre: np.ndarray, height: float) -> int:
    """Add somebody whom the search did not find, as they are in one frame."""
    one: Person = {"numbers": [], "centres": [], "heights": [], "boxes": [], "by_hand": True}
    _add(one, frame, centre, height)
    clip.people = [*clip.people, one]
    return len(clip.people) - 1


def _found_there(clip: Clip, frame: int, centre: np.ndarray, height: float) -> int | None:
    near: list[tuple[float, int]] = []
    for k, p in enumerate(clip.people):
        numbers = np.array(p["numbers"])
        if np.abs(numbers - frame).min() > SAME_S * clip.fps:
            continue
        at = [np.interp(frame, numbers, np.array(p["centres"])[:, a]) for a in (0, 1)]
        tall = float(np.interp(frame, numbers, p["heights"]))
        off = float(np.hypot(*(centre - at))) / height
        if off < SAME_HEIGHTS and 0.5 < tall / height < 2:
            near.append((off, k))
    return min(near)[1] if near else None


def _add(person: Person, frame: int, centre: np.ndarray, height: float) -> None:
    """One more sample of a person, in order of the frames; it takes the place of one of the same frame."""
    x, y = (round(float(v), 1) for v in centre)
    half = WIDE * height / 2
    box = [round(v, 1) for v in (x - half, y - height / 2, x + half, y + height / 2)]
    rows = [
        r
        for r in zip(
            person["numbers"], person["centres"], person["heights"], person["boxes"], strict=True
        )
        if r[0] != frame
    ]
    rows = sorted([*rows, (frame, [x, y], round(height, 1), box)], key=lambda r: r[0])
    for key, column in zip(
        ("numbers", "centres", "heights", "boxes"), zip(*rows, strict=True), strict=True
    ):
        person[key] = list(column)
