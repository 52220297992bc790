"""What follows from the foot that a rider has in front on a board, and what cannot be told while it is not known."""

from __future__ import annotations

from proklisis.core.playbook.schema import Playbook
from proklisis.core.shapes.run_sheet import RunSheet, Segment

SIDE_WORDS = {"l": "left", "r": "right"}


def finest_side(book: Playbook, stance: str | None, side: str | None) -> str | None:
    """Toe or heel, onside or offside, the hand: from the way a unit goes and the front foot, or None where one is not known."""
    if book.front_foot is None or stance is None or side is None:
        return None
    regular = (SIDE_WORDS.get(side, side) == "right") == (stance == "regular")
    return book.front_foot.right_turn if regular else book.front_foot.left_turn


def with_sides(sheet: RunSheet, book: Playbook) -> RunSheet:
    """The sheet with each unit's finest side, where it follows and was not given."""
    foot = book.front_foot
    if foot is None or sheet.rider.stance is None:
        return sheet

    def filled(s: Segment) -> Segment:
        follows = finest_side(book, sheet.rider.stance, s.side)
        return (
            s
            if follows is None or getattr(s, foot.key) is not None
            else s.model_copy(update={foot.key: follows})
        )

    return sheet.model_copy(update={"segments": [filled(s) for s in sheet.segments]})


def unknown(sheet: RunSheet, book: Playbook) -> bool:
    """Whether this rider's front foot is needed and follows from nothing on the sheet."""
    foot = book.front_foot
    if foot is None or sheet.rider.stance is not None:
        return False
    return not any(getattr(s, foot.key) is not None for s in sheet.segments)


#: What to say, on every screen and in every answer, where it is not known.
ASK = "Say which foot is in front (rider.stance: regular is the left one, goofy the right one)."
