"""What is long and straight of a sport's gear, and how it hangs together with the body that uses it."""

from __future__ import annotations

from dataclasses import dataclass

Names = tuple[str, ...]


@dataclass(frozen=True)
class Bar:
    """A long straight piece of gear.

    Attributes
    ----------
    words : what a coach calls it
    front, back : landmarks of its ends
    at : points of the body in whose middle it passes, the back end of what is held
    along : points of the body, from back to front, between which it points the same way; None where none do
    within : degrees within which it lies so, on the whole; feet show it roughly
    held : it begins in the hand, and hangs or trails from there
    off, gap : how far from ``at`` its line may pass, and an edge of it begin, statures
    reach : how far its front and back end lie from ``at`` at the most, statures
    shortest : edges that span less, statures, may lie across it instead
    views : those that show it at length
    trust : a frame shows it well where this share of what edges say is for it
    beside : the front end of another bar that lies about parallel to it; "" where none does
    """

    words: str
    front: str
    back: str
    at: Names
    along: tuple[Names, Names] | None = None
    within: float = 75.0
    held: bool = False
    off: float = 0.09
    gap: float = 0.35
    reach: tuple[float, float] = (0.95, 0.85)
    shortest: float = 0.5
    views: Names = ("front", "rear", "side_left", "side_right", "oblique")
    trust: float = 0.6
    beside: str = ""


WORD = {"l": "left", "r": "right"}
SIDES = ("side_left", "side_right")
SOLES = ("l_heel", "l_toe", "r_heel", "r_toe")
#: From the heels to the toes, from the hips to the knees of who sits, and along feet that stand sideways.
TOES = (("l_heel", "r_heel"), ("l_toe", "r_toe"))
KNEES = (("l_hip", "r_hip"), ("l_knee", "r_knee"))
FEET = (("back_ankle",), ("front_ankle",))


def _ski(side: str, other: str, views: Names) -> Bar:
    foot = (f"{side}_heel", f"{side}_toe")
    return Bar(
        f"the {WORD[side]} ski", f"{side}_ski_tip", f"{side}_ski_tail", foot, ((foot[0],), (foot[1],)), off=0.08, reach=(0.85, 0.75), shortest=0.3,
        views=views, beside=f"{other}_ski_tip",
    )  # fmt: skip


def _pole(side: str) -> Bar:
    return Bar(
        f"the {WORD[side]} pole", f"{side}_pole_tip", f"{side}_pole_grip", (f"{side}_wrist",), held=True, off=0.06, gap=0.30, reach=(0.95, 0.0), shortest=0.12, trust=0.85,
    )  # fmt: skip


#: Gear by the name that a playbook gives in ``found_gear``.
GEAR: dict[str, tuple[Bar, ...]] = {
    "skis": (_ski("l", "r", Bar.views), _ski("r", "l", Bar.views)),
    # Over level ground nothing of a ski's length shows from ahead.
    "level_skis": (_ski("l", "r", SIDES), _ski("r", "l", SIDES)),
    "poles": (_pole("l"), _pole("r")),
    "board": (Bar("the board", "board_nose", "board_tail", SOLES, FEET),),
    # Both feet stand in one ski, one before the other.
    "one_ski": (
        Bar("the ski", "l_ski_tip", "l_ski_tail", SOLES, TOES, reach=(0.75, 0.5), gap=0.30, shortest=0.4),
    ),
    "boat": (
        Bar("the boat", "bow", "stern", ("l_hip", "r_hip"), KNEES, within=40.0, off=0.20, gap=0.60, reach=(1.1, 1.1), shortest=0.8, views=SIDES),
    ),
}  # fmt: skip
