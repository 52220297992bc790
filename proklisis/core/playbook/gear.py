"""Advice on gear: what was seen of it, and the width of a stance."""

from __future__ import annotations

from collections.abc import Collection

from proklisis.core.playbook.judge import Sheet
from proklisis.core.shapes.prescription import GearRow

#: Width of a board stance ÷ the rider's height (house choice; docs/trade.md).
STANCE = (0.30, 0.34)
#: What is stood at 183 cm by the snow (common practice), and the snow that it is for.
BY_SNOW = {"powder": 58.0, "crust": 60.0}
AT_HEIGHT_CM = 183.0
#: One change of a stance at a time: so much is felt (common practice).
STEP_CM = 2.0


def gear_rows(s: Sheet, main: str | None, present: Collection[str]) -> list[GearRow]:
    """Gear advice, first what explains the main thing; ``explains`` lists the present faults that it stands before."""
    rows: list[GearRow] = [
        {"text": g.text, "because_of": g.observation, "explains": [i for i in g.explains if i in present], "first": g.always_first}
        for g in s.book.gear if s.notes.seen(g.observation)
    ]  # fmt: skip
    rows += _stance(s)
    for r in rows:
        r["first"] = r["first"] or (main is not None and main in r["explains"])
    return sorted(rows, key=lambda r: not r["first"])


def _stance(s: Sheet) -> list[GearRow]:
    """One change of at most 2 cm toward what suits the rider's height and the snow."""
    width, tall = s.sheet.gear.get("stance_cm"), s.sheet.rider.height_cm
    if (
        not isinstance(width, int | float)
        or tall is None
        or "stance_wide" not in s.book.observations
    ):
        return []
    low, high = (x * tall for x in STANCE)
    if low <= width <= high:
        return []
    snow = str(s.under.given(None).get("snow") or "").lower()
    by_snow = next((cm for word, cm in BY_SNOW.items() if word in snow), None)
    wanted = f"{low:.0f} to {high:.0f} cm suit {tall:.0f} cm of height"
    if by_snow is not None:
        wanted += f", about {by_snow * tall / AT_HEIGHT_CM:.0f} cm on {snow}"
    step = min(STEP_CM, low - width if width < low else width - high)
    way = "wider" if width < low else "narrower"
    return [{
        "text": f"The stance is {width:g} cm; {wanted}. Go {step:.1g} cm {way}, one change at a time, and write down what you feel.",
        "because_of": "stance_cm", "explains": [], "first": False,
    }]  # fmt: skip
