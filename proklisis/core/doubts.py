"""Does the picture agree with what was said of it? The view, the front foot and the clock, asked before anything is judged.

A wrong word about the camera turns every number into a wrong one that looks sure. What a picture itself shows of it is
cheap to read: whose shoulder is on which side, whether both feet point out of the picture or along it, how the body falls
and how it leans against the turn. Where that speaks against what was said, nothing is judged until the coach has answered.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, cast

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import FOOT_TO_TRUNK, HIPS_TO_TRUNK
from proklisis.core.camera.views import ONLY_3D, VIEW_WORDS, nearest_view
from proklisis.core.errors import InputError
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.words import upper_first
from proklisis.core.rider.mass import MIDPOINTS
from proklisis.core.tracks.tracks import Tracks, View
from proklisis.core.uncertainty import Value

Array = NDArray[np.float64]
Kind = Literal["view", "front_foot", "rate"]
#: Share of frames that must agree before the order of left and right, or the way of the feet, counts as seen (house choice).
AGREE = 0.85
#: Shoulders and hips closer than this, in trunk lengths, show no order (house choice).
SHOWS = 0.12
#: Feet show an order where they point out by this much, in trunk lengths (house choice).
FEET_POINT = 0.22
#: Feet that point this far out are seen from the side; less is a camera off the line, trunk lengths (house choice).
FEET_ALONG = 0.40
#: Hips this wide are seen from ahead or behind, trunk lengths (house choice).
HIPS_WIDE = 0.30
#: How far the camera may seem to stand off the side, degrees: hips tell it well (set on simulated runs).
OFF_SIDE_DEG = 7.5
#: How far it may seem to stand off ahead or behind, degrees: feet tell it roughly (set on simulated runs).
OFF_ENDS_DEG = 18.0
#: From trough to lip a face goes so many times its height back (house choice).
FACE_BACK = 1.2
#: How far the camera may seem to stand off a face, degrees (house choice).
OFF_FACE_DEG = 14.0
#: A standing body is at least so many seen shoulder widths from ankles to shoulders (set on simulated runs).
STANDS = 1.7
#: A body seen from above is at most so many (set on simulated runs).
FLAT = 1.0
#: A view is guessed of a body whose ankles are seen so many trunk lengths below its shoulders (set on seed 801: from
#: above at most 1.5).
TALL = 1.8
#: Shoulders hidden behind each other count as so many trunk lengths (set on simulated runs).
STANDS_WIDE = 0.8
#: Frames needed for any of it.
ENOUGH = 10
#: Families in which the rider faces about within a run, so that the order of the shoulders tells no view.
TURNING = frozenset({"trace", "wave"})
#: Families in which hips and feet point to one side of the way for long, now to this and now to that.
EITHER_WAY = frozenset({"gybe"})
#: What they show of a camera off the line then, from the side and from ahead or behind (set on simulated runs, seeds 971 to 982).
SHOWN_SIDE, SHOWN_ENDS = 0.55, 0.85
#: How far it may seem to stand off ahead or behind of such riders, degrees, and what share of what was said (the same runs).
OFF_EVEN_DEG, OFF_EVEN_SHARE = 13.0, 0.35
#: In a boat the legs lie forward.
SITTING = frozenset({"drop"})


@dataclass(frozen=True)
class Choice:
    """An answer that a coach can give: what to set to which value, or that it is as said (``value`` None)."""

    words: str
    value: str | None = None


@dataclass(frozen=True)
class Doubt:
    """What the picture says against what was said, as a question."""

    kind: Kind
    says: str
    asks: str
    choices: tuple[Choice, ...]


class Doubtful(InputError):
    """The picture speaks against what was said of it; nothing is judged until that is settled."""

    def __init__(self, doubt: Doubt) -> None:
        self.doubt = doubt
        options = " or ".join(_option(doubt.kind, c.value) for c in doubt.choices if c.value)
        sure = (
            f" or --sure {doubt.kind} if it is as said"
            if any(c.value is None for c in doubt.choices)
            else ""
        )
        super().__init__(doubt.says, f"clip {doubt.kind.replace('_', ' ')}", f"say {options}{sure}")


def _option(kind: Kind, value: str) -> str:
    """An answer as the command line takes it."""
    what, _, rest = value.partition(":")
    return (
        f"--{what} {rest}"
        if rest
        else f"--{ {'view': 'view', 'front_foot': 'stance', 'rate': 'fps'}[kind] } {value}"
    )


@dataclass(frozen=True)
class Seen:
    """What the picture itself shows, each a share of frames or a median; NaN where it cannot be seen.

    ``order``: the right shoulder and hip to the right of the left ones; ``feet``: toes to the right of the heels;
    ``point``: how far the toes point out of the heels, trunk lengths; ``wide``: shoulders, trunk lengths;
    ``tall``: ankles to shoulders, seen trunk lengths; ``hips``: the right hip to the right of the left one, trunk lengths;
    ``hips_even`` and ``point_even``: by how many degrees hips and feet are turned more to the right than to the left.
    """

    order: float
    feet: float
    point: float
    wide: float
    tall: float
    hips: float
    hips_even: float
    point_even: float


def look(tracks: Tracks) -> Seen:
    """Read from the raw points of a clip what its view must be."""

    def point(name: str) -> Array:
        if name in MIDPOINTS:
            a, b = MIDPOINTS[name]
            return (point(a) + point(b)) / 2
        if name not in tracks.index:
            return np.full((len(tracks), 2), np.nan)
        return tracks.xy[:, tracks.index[name]]

    def median(x: Array, q: float = 50) -> float:
        return (
            float(np.percentile(x[np.isfinite(x)], q))
            if np.isfinite(x).sum() >= ENOUGH
            else float("nan")
        )

    def share(x: Array, least: float) -> float:
        seen = np.isfinite(x) & (np.abs(x) > least)
        return (
            float(np.mean(x[seen] > 0)) if seen.sum() >= max(ENOUGH, 0.2 * len(x)) else float("nan")
        )

    def even(x: Array, whole: float) -> float:
        turned = np.degrees(np.arcsin(np.clip(x / whole, -1, 1)))
        return (median(turned[turned > 0]) + median(turned[turned < 0])) / 2

    trunk = median(np.hypot(*(point("mid_shoulder") - point("mid_hip")).T), 90)
    if not trunk > 0:
        return Seen(*[float("nan")] * 8)
    shoulders = (point("r_shoulder") - point("l_shoulder"))[:, 0] / trunk
    hips = (point("r_hip") - point("l_hip"))[:, 0] / trunk
    toes = np.mean([(point(f"{s}_toe") - point(f"{s}_heel"))[:, 0] for s in "lr"], axis=0) / trunk
    up = (point("mid_ankle") - point("mid_shoulder"))[:, 1] / trunk
    return Seen(
        share(shoulders + hips, SHOWS),
        share(toes, 0.05),
        median(toes),
        median(np.abs(shoulders)),
        median(up),
        median(hips),
        even(hips, HIPS_TO_TRUNK),
        even(toes, FOOT_TO_TRUNK),
    )


def front_foot_asked(tracks: Tracks, book: Playbook) -> Doubt | None:
    """A question for the front foot of a rider whose board cannot be told nose from tail, or toe from heel, without it."""
    if (
        book.front_foot is None
        or not book.sideways
        or tracks.facts.stance is not None
        or tracks.xyz is not None
    ):
        return None
    sides = " or ".join(
        x.replace("_", " ") for x in (book.front_foot.right_turn, book.front_foot.left_turn)
    )
    return Doubt(
        "front_foot", f"which foot is in front on the board is not known, so neither {sides} nor the front leg can be told", "Which foot is in front?",
        (Choice("The left foot", "regular"), Choice("The right foot", "goofy")),
    )  # fmt: skip


def view_doubt(tracks: Tracks, book: Playbook) -> Doubt | None:
    """A question where the picture shows another view than the one that was said, or another front foot."""
    said = tracks.facts.view
    if tracks.xyz is not None or said is None or said == "oblique" or "view" in tracks.facts.sure:
        return None
    seen = look(tracks)
    if book.family not in SITTING:
        if said == "above" and seen.tall > STANDS * max(seen.wide, STANDS_WIDE):
            return _not_the_view(
                said, _upright(seen, book), "the rider stands upright in the picture"
            )
        if said != "above" and seen.tall < FLAT * max(seen.wide, 1.0):
            return _not_the_view(
                said, ("above",), "legs and trunk lie over each other in the picture"
            )
    if book.family == "wave":
        return _off_the_face(tracks)
    if book.family in TURNING:
        return None
    if book.sideways:
        return _sideways(tracks, seen, book)
    if facing := _facing(said, seen):
        return facing
    # Where depths are known, the body in space says where the camera stands, and is taken at its word.
    if book.family == "flights" or tracks.in_space is not None:
        return None
    return _off_line(said, tracks.facts.view_offset_deg, seen, book.family in EITHER_WAY)


def view_guessed(tracks: Tracks, book: Playbook) -> tuple[View, str] | None:
    """The view that a picture shows where nobody said it, and by what; None where it does not tell.

    Riders who face about within a run, or sit, are asked about; so is everybody whose picture fits two views. Across a board
    it shows view and front foot together: taken from one that was said wrongly, the other would be wrong too.
    """
    if book.family in TURNING or book.family in SITTING or book.sideways:
        return None
    seen = look(tracks)
    looks = _looks_like(seen)
    # From above shoulders are wide, or ankles and shoulders lie near each other.
    if looks is None or seen.tall < (TALL if looks[0] in ("front", "rear") else 2 * seen.wide):
        return None
    return cast(View, looks[0]), REASONS[looks[0]]


def _guessed_across(tracks: Tracks, seen: Seen) -> tuple[View, str] | None:
    """Of riders who stand across a board with a known front foot."""
    if tracks.facts.stance is None:
        return None
    chest_right = tracks.facts.stance == "regular"
    across = seen.feet > AGREE or seen.feet < 1 - AGREE
    ordered = (seen.order > AGREE or seen.order < 1 - AGREE) and seen.wide > 2 * SHOWS
    if across and not ordered and not _turned(seen):
        view: View = "rear" if (seen.feet > 0.5) == chest_right else "front"
        return (
            view,
            f"the toes point to the {'right' if seen.feet > 0.5 else 'left'} of the picture",
        )
    if ordered and not across:
        view = "side_left" if (seen.order > 0.5) == chest_right else "side_right"
        return view, f"the rider shows the {'back' if seen.order > 0.5 else 'chest'}"
    return None


def view_asked(tracks: Tracks, book: Playbook) -> Doubt:
    """A question for the view, where nobody said it and the picture does not tell; of a rider across a board the likeliest first."""
    likely = _guessed_across(tracks, look(tracks)) if book.sideways else None
    views = [v for v in VIEW_WORDS if v not in (ONLY_3D, "oblique")]
    views.sort(key=lambda v: likely is None or v != likely[0])
    alone = "tells it only together with the front foot" if book.sideways else "alone does not tell"
    return Doubt(
        "view", f"nobody said from where it was filmed, and the picture {alone}", "From where was it filmed?",
        tuple(Choice(upper_first(VIEW_WORDS[v]), v) for v in views),
    )  # fmt: skip


def azimuth_doubt(tracks: Tracks, azimuth: Value | None, off_deg: float) -> Doubt | None:
    """A question where the body in space shows another view than the one that was said, by ``off_deg``."""
    said = tracks.facts.view
    if azimuth is None or off_deg == 0 or said is None:
        return None
    view, _ = nearest_view(azimuth.value)
    words = VIEW_WORDS[view]
    if view == said:
        about = 5 * round(off_deg / 5)
        stands = tracks.facts.view_offset_deg + (about if said == "rear" else -about)
        return _asked_off(said, tracks.facts.view_offset_deg, stands, "the rider's body is turned")
    return Doubt(
        "view", f"the clip is said to be filmed {VIEW_WORDS[said]}, but the rider's body shows as {words}", "From where was it filmed?",
        (Choice(upper_first(words), view), Choice(f"{upper_first(VIEW_WORDS[said])}, as said")),
    )  # fmt: skip


def _facing(said: str, seen: Seen) -> Doubt | None:
    """Riders who face the way they go."""
    looks = _looks_like(seen)
    if looks is None or said in looks or (said == "above" and looks != ("front",)):
        return None  # from above a foot may point anywhere: that nobody stands upright has been seen already
    return _not_the_view(said, looks, REASONS[looks[0]])


REASONS = {
    "front": "the right shoulder is on the left of the picture",
    "rear": "the right shoulder is on the right of the picture",
    "side_left": "both feet point to the left of the picture",
    "side_right": "both feet point to the right of the picture",
    "above": "the rider lies flat in the picture",
}


def _looks_like(seen: Seen) -> tuple[str, ...] | None:
    """Views that a rider who faces the way they go may be seen from; None where the picture does not tell."""
    square = abs(seen.hips) > HIPS_WIDE
    along = abs(seen.point) > FEET_ALONG or (abs(seen.point) > FEET_POINT and not square)
    if along and (seen.feet > AGREE or seen.feet < 1 - AGREE):
        return ("side_right",) if seen.feet > 0.5 else ("side_left",)
    if square and not along and (seen.order > AGREE or seen.order < 1 - AGREE):
        return ("front",) if seen.order < 0.5 else ("rear", "above")
    return None


def _off_line(said: str, offset: float, seen: Seen, either_way: bool) -> Doubt | None:
    """A camera that stands well off the line that was said: from the side the hips then show their width, from ahead the feet their length.

    Of riders who turn ``either_way`` they show as much to both sides where the camera is on the line.
    """
    from_side = said in ("side_left", "side_right")
    if either_way:
        stands = seen.hips_even / SHOWN_SIDE if from_side else seen.point_even / SHOWN_ENDS
    else:
        off = seen.hips / HIPS_TO_TRUNK if from_side else seen.point / FOOT_TO_TRUNK
        stands = float(np.degrees(np.arcsin(np.clip(off, -1, 1))))
    if said == "side_left":
        stands = -stands
    if said not in ("front", "rear", "side_left", "side_right") or not np.isfinite(stands):
        return None
    near = OFF_SIDE_DEG if from_side else OFF_EVEN_DEG if either_way else OFF_ENDS_DEG
    if abs(stands - offset) <= near + either_way * OFF_EVEN_SHARE * abs(offset):
        return None
    return _asked_off(
        said,
        offset,
        stands,
        "the hips show their width" if from_side else "the feet show their length",
    )


def _off_the_face(tracks: Tracks) -> Doubt | None:
    """The face of a wave slopes back from the trough: from straight in front of it the lip stands over the trough."""
    said, offset = tracks.facts.view, tracks.facts.view_offset_deg
    if said not in ("front", "rear") or not {"trough", "lip_top"} <= tracks.index.keys():
        return None
    up = (tracks.xy[:, tracks.index["lip_top"]] - tracks.xy[:, tracks.index["trough"]]) * np.array(
        [1.0, -1.0]
    )
    up = up[np.isfinite(up).all(axis=1)]
    if len(up) < ENOUGH or not np.median(up[:, 1]) > 0:
        return None
    beside = float(np.median(up[:, 0]) / np.median(up[:, 1]))
    stands = -float(np.degrees(np.arcsin(np.clip(beside / FACE_BACK, -1, 1))))
    if abs(stands - offset) <= OFF_FACE_DEG:
        return None
    return _asked_off(said, offset, stands, "the lip stands beside the trough")


def _asked_off(said: str, offset: float, stands: float, why: str) -> Doubt:
    about = 5 * round(stands / 5)
    return Doubt(
        "view",
        f"the camera is said to stand {_off_words(offset)} {VIEW_WORDS[said]}, but {why}, "
        f"as from about {abs(about)}° {'off the line' if about else 'nearer the line'}",
        "How far off the line did the camera stand?",
        (Choice(f"About {abs(about)}° toward the rider's {'right' if about >= 0 else 'left'}" if about else "On the line", f"offset:{about}"), Choice("As said")),
    )  # fmt: skip


def _off_words(offset: float) -> str:
    return "straight" if abs(offset) < 1 else f"{abs(offset):.0f}° off the line"


def _upright(seen: Seen, book: Playbook) -> tuple[str, ...]:
    looks = None if book.sideways or book.family in TURNING else _looks_like(seen)
    return tuple(v for v in looks or ("front", "rear", "side_left", "side_right") if v != "above")


def _sideways(tracks: Tracks, seen: Seen, book: Playbook) -> Doubt | None:
    """Riders who stand across a board: the chest points to one side of the way they go, by the front foot.

    From ahead or behind the toes point across the picture, from the side the order of the shoulders tells
    chest from back. View and front foot are told together: each alone could be the wrong one.
    """
    said, stance = tracks.facts.view, tracks.facts.stance
    if stance is None or said is None or "front_foot" in tracks.facts.sure:
        return None
    chest_right = stance == "regular"  # of the way the rider goes, with the left foot in front
    across = seen.feet > AGREE or seen.feet < 1 - AGREE
    ordered = (seen.order > AGREE or seen.order < 1 - AGREE) and seen.wide > 2 * SHOWS
    end_on, flank = across and not (ordered and _turned(seen)), ordered and not across
    if said in ("front", "rear") and end_on:
        expected = chest_right == (said == "rear")
        if (seen.feet > 0.5) != expected:
            other = {"front": "rear", "rear": "front"}[said]
            return _view_or_foot(
                said,
                other,
                stance,
                f"the toes point to the {'right' if seen.feet > 0.5 else 'left'} of the picture",
            )
    if said in ("side_left", "side_right") and ordered:
        back_to_camera = seen.order > 0.5
        expected = chest_right == (said == "side_left")
        if back_to_camera != expected:
            other = {"side_left": "side_right", "side_right": "side_left"}[said]
            return _view_or_foot(
                said, other, stance, f"the rider shows the {'back' if back_to_camera else 'chest'}"
            )
    if said in ("front", "rear") and ordered and (flank or (seen.order > 0.5) != (said == "rear")):
        return _not_the_view(
            said,
            ("side_left", "side_right"),
            f"the rider shows the {'back' if seen.order > 0.5 else 'chest'} all the time",
        )
    if said in ("side_left", "side_right") and end_on and not ordered:
        return _not_the_view(
            said, ("front", "rear"), "both feet point across the picture all the time"
        )
    return None


def _turned(seen: Seen) -> bool:
    """Whether a rider across a board is seen more from the chest or the back than from an end."""
    return abs(seen.point) < FEET_POINT


def _not_the_view(said: str, looks: tuple[str, ...], why: str) -> Doubt:
    words = " or ".join(VIEW_WORDS[v] for v in looks)
    return Doubt(
        "view", f"the clip is said to be filmed {VIEW_WORDS[said]}, but {why}, as {words}", "From where was it filmed?",
        (*(Choice(upper_first(VIEW_WORDS[v]), v) for v in looks), Choice(f"{upper_first(VIEW_WORDS[said])}, as said")),
    )  # fmt: skip


def _view_or_foot(said: str, other: str, stance: str, why: str) -> Doubt:
    foot = {"regular": "left", "goofy": "right"}
    swapped = {"regular": "goofy", "goofy": "regular"}[stance]
    return Doubt(
        "front_foot",
        f"the {foot[stance]} foot is said to be in front and the clip filmed {VIEW_WORDS[said]}, but {why}: one of the two is otherwise",
        "Which foot is in front?",
        (Choice(f"The {foot[swapped]} foot is in front", swapped), Choice(f"The {foot[stance]} foot, and it is filmed {VIEW_WORDS[other]}", f"view:{other}"),
         Choice("Both are as said")),
    )  # fmt: skip
